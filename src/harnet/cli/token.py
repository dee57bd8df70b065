"""`harnet token`: a token for the HTTP API."""

import click

from harnet.cli.running import require_settings
from harnet.standins.studio import open_studio
from harnet.studio.common.studio import Settings
from harnet.studio.people.tokens import make_token


@click.command()
@click.argument("label")
def token(label: str) -> None:
    """Make an API token for the program LABEL and print it, this once.

    HARNET_DATABASE and HARNET_DATA say where the studio is kept. Tokens are withdrawn on the page
    /tokens.
    """
    require_settings()
    with open_studio(Settings.from_environment()).session() as session:
        _, made = make_token(session, label)
    click.echo(made)
