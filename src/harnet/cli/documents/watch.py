"""`harnet watch`: a folder in which documents that arrive get a report, and copies on wish."""

import json
import sys
import time
from hashlib import sha256
from pathlib import Path
from typing import Any

import click

from harnet.cli.documents.inbox_copies import InboxCopies, remove_copy
from harnet.cli.targets import target_meant, target_option
from harnet.core.measure.wording import counted
from harnet.core.targets.target import Target
from harnet.core.targets.values import target_as_values
from harnet.media.errors import UnreadableFile
from harnet.media.packages.signature import document_kind
from harnet.studio.documents.check import check_document

_CANNOT_READ = 2
_ENDING = ".check.json"
_JUDGED_BY, _IMPROVED = "judged_by", "improved"
_OWN = frozenset({".json", ".part", ".csv", ".html"})
"""Endings of what is no document, and of what this command writes."""
_NAMED = frozenset(
    {".pdf", ".pptx", ".docx", ".xlsx", ".odt", ".odp", ".odg", ".ods", ".epub", ".svg"}
)
"""Endings of files whose reports say why they cannot be read."""
_FALLS_SHORT = ("coarse", "thin")
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
@click.option(
    "--improve",
    is_flag=True,
    help="Also write an improved copy of each document with images that fall short: improved/.",
)
@click.option(
    "--from",
    "originals",
    type=click.Path(path_type=Path),
    help="With --improve: the folder of the originals, with those below.",
)
@click.option("--once", is_flag=True, help="Check once, then exit.")
def watch(
    folder: Path, wanted: str, every: float, once: bool, improve: bool, originals: Path | None
) -> None:
    """A report beside each document in FOLDER, NAME.check.json, also for those that arrive later.

    PDFs, slide decks, texts, spreadsheets, books and SVGs are told by their content; other files
    are left alone.
    A file that is still being written is left until it rests; one that changes is checked again.
    The report of a file that cannot be read says why; that of a file that is gone goes, too. With
    another target, or the same with other figures, all are checked again. Improved copies are made
    of originals that are surely the same shots, proven, and tried again when other originals
    arrive. Ctrl-C ends the watch.
    """
    if improve and originals is None:
        raise click.UsageError("say where the originals are, --from FOLDER")
    target = target_meant(wanted)
    copies = InboxCopies(originals, target) if improve and originals is not None else None
    if copies is not None and not copies.originals.is_dir():
        click.echo(f"{originals}: no such folder", err=True)
        sys.exit(_CANNOT_READ)
    if not folder.is_dir():
        click.echo(f"{folder}: no such folder", err=True)
        sys.exit(_CANNOT_READ)
    seen: dict[Path, _Stamp] = {}
    try:
        while True:
            _look(folder, target, seen, copies, waits=not once)
            if once:
                return
            time.sleep(every)
    except KeyboardInterrupt:
        return


def _look(
    folder: Path,
    target: Target,
    seen: dict[Path, _Stamp],
    copies: InboxCopies | None,
    waits: bool,
) -> None:
    """Reports on what is new; with `waits` only once a file is the same at two looks."""
    _clear(folder)
    for path in sorted(folder.iterdir()):
        if path.suffix.lower() in _OWN or not path.is_file() or path.name.startswith("."):
            continue
        about = path.stat()
        stamp = (about.st_size, about.st_mtime_ns)
        if waits and seen.get(path) != stamp:
            seen[path] = stamp
            continue
        if not _is_document(path):
            continue
        report = path.with_name(path.name + _ENDING)
        is_young = report.exists() and report.stat().st_mtime_ns >= about.st_mtime_ns
        if not (is_young and _target_in(report) == _figures(target)):
            _report(path, report, target)
        if copies is not None:
            _improve(path, report, copies)


def _is_document(path: Path) -> bool:
    """Whether a file is to be reported on: a document by its content, or named as if it were."""
    if path.suffix.lower() in _NAMED:
        return True
    try:
        document_kind(path, path.name)
    except UnreadableFile:
        return False
    return True


def _improve(path: Path, report: Path, copies: InboxCopies) -> None:
    """Improves what falls short, once for the PDF and the originals as they are."""
    told = _told_in(report)
    summary = told.get("summary", {})
    if not any(summary.get(one) for one in _FALLS_SHORT):
        remove_copy(path)
        return
    state = copies.state()
    if state is None:
        return
    before = told.get(_IMPROVED)
    if isinstance(before, dict) and before.get("originals") == state:
        return
    _write(report, told | {_IMPROVED: copies.improve(path) | {"originals": state}})


def _report(path: Path, report: Path, target: Target) -> None:
    try:
        found = check_document(path, path.name, target, beside=path.parent)
        answer = found.as_json() | {_JUDGED_BY: _figures(target)}
        outcome = counted(sum(found.summary.values()), "picture")
        outcome += ", some fall short" if found.falls_short else ", none falls short"
    except UnreadableFile as error:
        answer = {"file": path.name, "failure": str(error), _JUDGED_BY: _figures(target)}
        outcome = str(error).removeprefix(f"{path.name}: ")
    _write(report, answer)
    click.echo(f"{path.name}: {outcome}")


def _write(report: Path, answer: dict[str, Any]) -> None:
    part = report.with_suffix(".part")
    part.write_text(json.dumps(answer, ensure_ascii=False, indent=1) + "\n", encoding="utf-8")
    part.replace(report)


def _clear(folder: Path) -> None:
    """Removes the reports of files that are gone; only those that this command wrote."""
    for report in folder.glob(f"*{_ENDING}"):
        path = report.with_name(report.name.removesuffix(_ENDING))
        if not path.exists() and _target_in(report) is not None:
            report.unlink()
            remove_copy(path)
            click.echo(f"{path.name}: removed, and its report with it")


def _figures(target: Target) -> str:
    """A target's figures as one text, to see whether another one judges now."""
    values = json.dumps(target_as_values(target), sort_keys=True)
    return sha256(values.encode()).hexdigest()[:16]


def _target_in(report: Path) -> str | None:
    """By which target's figures a report was made; None where that is not said."""
    judged_by = _told_in(report).get(_JUDGED_BY)
    return judged_by if isinstance(judged_by, str) else None


def _told_in(report: Path) -> dict[str, Any]:
    """What a report says; nothing where it cannot be read."""
    try:
        found = json.loads(report.read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}
    return found if isinstance(found, dict) else {}
