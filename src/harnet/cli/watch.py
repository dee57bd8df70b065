"""`harnet watch`: a folder in which every PDF that arrives gets a report beside it."""

import json
import sys
import time
from pathlib import Path

import click

from harnet.core.errors import ValueOutOfRange
from harnet.core.target import Target
from harnet.core.targetlist import target_named
from harnet.core.wording import counted
from harnet.media.errors import UnreadableFile
from harnet.studio.pdfs.check import check_pdf

_CANNOT_READ = 2
_ENDING = ".check.json"
_Stamp = tuple[int, int]


@click.command()
@click.argument("folder", type=click.Path(path_type=Path, file_okay=False))
@click.option(
    "--target",
    "wanted",
    default="coated",
    show_default=True,
    help="A name; or a figure in ppi, for tone pictures of coated press.",
)
@click.option(
    "--every",
    type=click.FloatRange(0.1, 3600),
    default=2.0,
    show_default=True,
    help="Seconds between two looks at the folder.",
)
@click.option("--once", is_flag=True, help="Look once, and end.")
def watch(folder: Path, wanted: str, every: float, once: bool) -> None:
    """A report beside each PDF in FOLDER, NAME.pdf.check.json, also for those that arrive later.

    A file that is still being written is left until it rests; one that changes is checked anew.
    The report of a file that cannot be read says why. Ctrl-C ends the watch.
    """
    try:
        target = target_named(wanted)
    except ValueOutOfRange as error:
        click.echo(str(error), err=True)
        sys.exit(_CANNOT_READ)
    if not folder.is_dir():
        click.echo(f"{folder}: there is no such folder", err=True)
        sys.exit(_CANNOT_READ)
    seen: dict[Path, _Stamp] = {}
    try:
        while True:
            _look(folder, target, seen, waits=not once)
            if once:
                return
            time.sleep(every)
    except KeyboardInterrupt:
        return


def _look(folder: Path, target: Target, seen: dict[Path, _Stamp], waits: bool) -> None:
    """Reports on what is new; with `waits` only once a file is the same at two looks."""
    for path in sorted(folder.iterdir()):
        if path.suffix.lower() != ".pdf" or not path.is_file():
            continue
        about = path.stat()
        stamp = (about.st_size, about.st_mtime_ns)
        if waits and seen.get(path) != stamp:
            seen[path] = stamp
            continue
        report = path.with_name(path.name + _ENDING)
        if report.exists() and report.stat().st_mtime_ns >= about.st_mtime_ns:
            continue
        _report(path, report, target)


def _report(path: Path, report: Path, target: Target) -> None:
    try:
        found = check_pdf(path, path.name, target)
        answer = found.as_json()
        said = counted(sum(found.summary.values()), "picture")
        said += ", some fall short" if found.falls_short else ", none falls short"
    except UnreadableFile as error:
        answer = {"file": path.name, "trouble": str(error)}
        said = str(error)
    part = report.with_suffix(".part")
    part.write_text(json.dumps(answer, ensure_ascii=False, indent=1) + "\n", encoding="utf-8")
    part.replace(report)
    click.echo(f"{path.name}: {said}")
