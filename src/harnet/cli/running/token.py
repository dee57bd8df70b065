"""`harnet token`: a token for the HTTP API."""

import sys
from dataclasses import replace

import click

from harnet.cli.running.serving import require_settings
from harnet.standins.studio import open_studio
from harnet.store.acting import Actor, acting
from harnet.studio.common.settings import Settings
from harnet.studio.people.people import actor_of, asks_for_names, person_named
from harnet.studio.people.tokens import make_token

_REFUSED = 2
_WHOSE = "People sign in here, so a token belongs to one of them; say whose: --person NAME."


@click.command()
@click.argument("label")
@click.option("--person", "name", help="Whose role it has; needed once people sign in.")
def token(label: str, name: str | None) -> None:
    """Make an API token for the program LABEL and print it, this once.

    HARNET_DATABASE and HARNET_DATA say where the studio is kept. Tokens are revoked on the page
    /tokens.
    """
    require_settings()
    studio = open_studio(Settings.from_environment())
    with studio.session() as session:
        person = person_named(session, name) if name else None
        if asks_for_names(session) and person is None:
            click.echo(_WHOSE if name is None else f"Nobody is called {name}.", err=True)
            sys.exit(_REFUSED)
        who = actor_of(person) if person is not None else Actor()
    with acting(replace(who, doing="made an API token")), studio.session() as session:
        _, made = make_token(session, label)
    click.echo(made)
