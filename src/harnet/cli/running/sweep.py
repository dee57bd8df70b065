"""`harnet sweep`: what nothing needs any longer, told or deleted."""

import click

from harnet.cli.running.serving import require_settings
from harnet.core.measure.wording import bytes_text, counted
from harnet.standins.studio import open_studio
from harnet.studio.common.settings import Settings
from harnet.studio.output.retention import KEEP_DAYS, KEEP_LATEST, clear_old_outputs
from harnet.studio.tasks.sweeping import sweep as swept


@click.command()
@click.option("--dry-run", is_flag=True, help="Only tell what would go.")
def sweep(dry_run: bool) -> None:
    """Clear old outputs, and files that nothing needs any longer.

    The worker does this every hour. Files go a day after the last thing that named them.
    """
    require_settings()
    studio = open_studio(Settings.from_environment())
    outputs = clear_old_outputs(studio, is_dry=dry_run)
    found = swept(studio, is_dry=dry_run)
    verb = "would be" if dry_run else "were"
    click.echo(
        f"{counted(outputs, 'output')} older than {KEEP_DAYS} days, or beyond the latest"
        f" {KEEP_LATEST} of their job, {verb} cleared."
    )
    click.echo(
        f"{counted(found.blobs, 'stored file')} that nothing names, {bytes_text(found.blob_bytes)},"
        f" and {counted(found.leftovers, 'leftover')} of unfinished work {verb} deleted."
    )
