"""`harnet watch`: a folder in which every PDF that arrives gets a report beside it."""

import json
import sys
import time
from hashlib import sha256
from pathlib import Path

import click

from harnet.cli.targets import target_meant, target_option
from harnet.core.measure.wording import counted
from harnet.core.targets.target import Target
from harnet.core.targets.values import target_as_values
from harnet.media.errors import UnreadableFile
from harnet.studio.documents.check import check_pdf

_CANNOT_READ = 2
_ENDING = ".check.json"
_JUDGED_BY = "judged_by"
_Stamp = tuple[int, int]


@click.command()
@click.argument("folder", type=click.Path(path_type=Path, file_okay=False))
@target_option()
@click.option(
    "--every",
    type=click.FloatRange(0.1, 3600),
    default=2.0,
    show_default=True,
    help="Seconds between two checks of the folder.",
)
@click.option("--once", is_flag=True, help="Check once, then exit.")
def watch(folder: Path, wanted: str, every: float, once: bool) -> None:
    """A report beside each PDF in FOLDER, NAME.pdf.check.json, also for those that arrive later.

    A file that is still being written is left until it rests; one that changes is checked again.
    The report of a file that cannot be read says why; that of a file that is gone goes, too. With
    another target, or the same with other figures, all are checked again. Ctrl-C ends the watch.
    """
    target = target_meant(wanted)
    if not folder.is_dir():
        click.echo(f"{folder}: no such folder", err=True)
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
    _clear(folder)
    for path in sorted(folder.iterdir()):
        if path.suffix.lower() != ".pdf" or not path.is_file():
            continue
        about = path.stat()
        stamp = (about.st_size, about.st_mtime_ns)
        if waits and seen.get(path) != stamp:
            seen[path] = stamp
            continue
        report = path.with_name(path.name + _ENDING)
        is_young = report.exists() and report.stat().st_mtime_ns >= about.st_mtime_ns
        if is_young and _target_in(report) == _figures(target):
            continue
        _report(path, report, target)


def _report(path: Path, report: Path, target: Target) -> None:
    try:
        found = check_pdf(path, path.name, target)
        answer = found.as_json() | {_JUDGED_BY: _figures(target)}
        outcome = counted(sum(found.summary.values()), "picture")
        outcome += ", some fall short" if found.falls_short else ", none falls short"
    except UnreadableFile as error:
        answer = {"file": path.name, "failure": str(error), _JUDGED_BY: _figures(target)}
        outcome = str(error).removeprefix(f"{path.name}: ")
    part = report.with_suffix(".part")
    part.write_text(json.dumps(answer, ensure_ascii=False, indent=1) + "\n", encoding="utf-8")
    part.replace(report)
    click.echo(f"{path.name}: {outcome}")


def _clear(folder: Path) -> None:
    """Removes the reports of files that are gone; only those that this command wrote."""
    for report in folder.glob(f"*{_ENDING}"):
        path = report.with_name(report.name.removesuffix(_ENDING))
        if not path.exists() and _target_in(report) is not None:
            report.unlink()
            click.echo(f"{path.name}: removed, and its report with it")


def _figures(target: Target) -> str:
    """A target's figures as one text, to see whether another one judges now."""
    values = json.dumps(target_as_values(target), sort_keys=True)
    return sha256(values.encode()).hexdigest()[:16]


def _target_in(report: Path) -> str | None:
    """By which target's figures a report was made; None where that is not said."""
    try:
        found = json.loads(report.read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return None
    judged_by = found.get(_JUDGED_BY) if isinstance(found, dict) else None
    return judged_by if isinstance(judged_by, str) else None
