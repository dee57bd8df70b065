"""`harnet backup` and `harnet restore`: a studio at one moment, and a studio made of that."""

import sys
from collections.abc import Callable
from pathlib import Path

import click

from harnet.cli.running.serving import require_settings
from harnet.core.measure.wording import bytes_text, counted

_NOT_DONE = 2
_FOLDER = click.Path(path_type=Path, file_okay=False)


@click.command()
@click.argument("folder", type=_FOLDER)
def backup(folder: Path) -> None:
    """Write the database and all files of a studio into FOLDER, while it works.

    FOLDER is a new one. Watched folders are someone else's and are left out. Each file is listed
    with its hash. Exit code 2: the backup is not whole.
    """
    from harnet.studio.running.backup import back_up  # noqa: PLC0415

    require_settings()
    _done(folder, "backed up", back_up)


@click.command()
@click.argument("folder", type=_FOLDER)
def restore(folder: Path) -> None:
    """Make a studio of the backup in FOLDER, in an empty database and an empty data folder.

    HARNET_DATABASE and HARNET_DATA say where; both may differ from those of the studio that was
    backed up. Every file is verified before anything is written. Exit code 2: nothing was restored.
    """
    from harnet.studio.running.backup import restore as restored  # noqa: PLC0415

    require_settings(must_be_current=False)
    _done(folder, "restored", restored)


def _done(folder: Path, word: str, work: Callable[..., object]) -> None:
    from harnet.studio.common.settings import Settings  # noqa: PLC0415
    from harnet.studio.running.backup import BackupRefused, BackupSummary  # noqa: PLC0415

    def tell(what: str) -> None:
        if sys.stderr.isatty():
            click.echo(f"· {what}", err=True)

    try:
        summary = work(Settings.from_environment(), folder, tell)
    except BackupRefused as error:
        click.echo(str(error), err=True)
        sys.exit(_NOT_DONE)
    assert isinstance(summary, BackupSummary)
    size = bytes_text(summary.size_bytes)
    files = counted(summary.files, "file")
    click.echo(f"{folder}: the database and {files}, {size}, {word}; made {summary.made_at}")
