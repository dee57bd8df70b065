"""`harnet check`: every image that documents paint, judged; one file or many, side by side."""

import sys
from collections.abc import Iterable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from enum import Enum
from pathlib import Path

import click

from harnet.cli.files import (
    STANDARD_INPUT,
    password_option,
    path_meant,
    paths_meant,
    patience_option,
)
from harnet.cli.tables import error_row, format_option, print_csv, print_json, print_table
from harnet.cli.targets import target_meant, target_option
from harnet.core.documents.places import page_label
from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.units import Unit
from harnet.core.measure.verdict import Verdict
from harnet.core.measure.wording import counted
from harnet.core.pictures.colour_words import colour_text
from harnet.core.targets.severity import Severity
from harnet.core.targets.target import Target
from harnet.media.errors import UnreadableFile
from harnet.studio.documents.check import COLUMNS, DocumentCheck, check_document
from harnet.studio.documents.making.unlocking import readable
from harnet.studio.documents.notes import notes_on, write_noted

_SOME_FALL_SHORT, _CANNOT_READ = 1, 2
_COLOURS = {"coarse": "red", "thin": "yellow"}
_SAID_BY_THE_TABLE = frozenset(
    {"density-below-floor", "density-below-tolerance", "bilevel-below-tolerance"}
)
_NEVER_OVER = "the original is never overwritten; name another file"
_PATH = click.Path(path_type=Path)


class FailOn(Enum):
    """What is reason enough for exit code 1."""

    COARSE = "coarse"
    THIN = "thin"
    WARNING = "warning"
    BLOCKING = "blocking"


def _fails(result: DocumentCheck, fail_on: FailOn) -> bool:
    severities = {one.severity for one in result.report.findings}
    if Severity.BLOCKING in severities:
        return True
    if fail_on is FailOn.WARNING:
        return Severity.WARNING in severities
    verdicts = {Verdict.COARSE.value}
    if fail_on is FailOn.THIN:
        verdicts.add(Verdict.THIN.value)
    return fail_on is not FailOn.BLOCKING and any(result.summary.get(one) for one in verdicts)


@click.command()
@click.argument("files", nargs=-1, required=True)
@target_option()
@format_option
@click.option(
    "--jobs",
    type=click.IntRange(1, 64),
    default=1,
    show_default=True,
    help="How many files are read in parallel.",
)
@click.option(
    "--notes",
    "notes_path",
    type=_PATH,
    help="Write a copy of one file with a note on each image that falls short.",
)
@click.option(
    "--report",
    "report_path",
    type=_PATH,
    help="Write a report on one file; its extension decides: .html, .pdf, .csv or .json.",
)
@click.option(
    "--fail-on",
    type=click.Choice([one.value for one in FailOn]),
    default=FailOn.THIN.value,
    show_default=True,
    help=(
        "When to exit with code 1: for coarse images; for thin ones as well; for findings that"
        " warn; or only for those that block. Blocking findings always count."
    ),
)
@click.option(
    "--unit",
    type=click.Choice(["mm", "cm", "in", "pt"]),
    default="mm",
    show_default=True,
    help="The unit of lengths in sentences and reports; columns of figures are in points.",
)
@patience_option
@password_option
@click.option("-q", "--quiet", is_flag=True, help="Print nothing; the exit code says it.")
@click.option("-v", "--verbose", is_flag=True, help="Also list images that are not visible.")
def check(
    files: tuple[str, ...],
    wanted: str,
    form: str,
    jobs: int,
    notes_path: Path | None,
    report_path: Path | None,
    quiet: bool,
    verbose: bool,
    patience: float,
    password: str,
    fail_on: str,
    unit: str,
) -> None:
    """Every image in FILES, with its effective ppi and verdict.

    FILES are PDFs, slide decks, texts, spreadsheets, books or SVGs, told by their content, and may
    hold patterns such as "out/*.pdf". With one file, JSON is an object; with more, a
    list; a file that cannot be read has an error with its code there. Exit code 0: no visible
    image is coarse or thin and nothing blocks, unless --fail-on says otherwise; 1: something does;
    2: a file cannot be read; the others are answered all the same.
    """
    target = target_meant(wanted)
    paths = paths_meant(files)
    if len(paths) != 1 and (notes_path is not None or report_path is not None):
        raise click.UsageError("--notes and --report take one file")
    if Path(STANDARD_INPUT) in paths and (notes_path is not None or report_path is not None):
        raise click.UsageError("--notes and --report take a file, not standard input")
    answers: list[DocumentCheck | UnreadableFile] = []
    for done, answer in enumerate(
        _answers(paths, jobs, _Asked(target, patience, Unit(unit), password)), 1
    ):
        if isinstance(answer, UnreadableFile):
            click.echo(str(answer), err=True)
        answers.append(answer)
        _say_progress(done, len(paths))
    checks = [one for one in answers if isinstance(one, DocumentCheck)]
    has_failed = len(checks) < len(answers)
    if notes_path is not None and checks:
        has_failed |= not _write_notes(paths[0], checks[0], notes_path, password)
    if report_path is not None and checks:
        has_failed |= not _write_report(paths[0], checks[0], report_path, password)
    if not quiet:
        if form == "json":
            _print_as_json(paths, answers)
        else:
            _print(checks, form, len(paths) > 1, verbose)
    if has_failed:
        sys.exit(_CANNOT_READ)
    fails = any(_fails(one, FailOn(fail_on)) for one in checks)
    sys.exit(_SOME_FALL_SHORT if fails else 0)


@dataclass(frozen=True, slots=True)
class _Asked:
    """How every file is checked."""

    target: Target
    patience: float
    unit: Unit
    password: str


def _answers(
    paths: Sequence[Path], jobs: int, asked: _Asked
) -> Iterator[DocumentCheck | UnreadableFile]:
    """The check of each file in turn, or why it cannot be read."""
    if jobs == 1 or len(paths) == 1:
        yield from (_answer(path, asked) for path in paths)
        return
    with ProcessPoolExecutor(jobs) as pool:
        yield from pool.map(_answer, paths, [asked] * len(paths))


def _answer(path: Path, asked: _Asked) -> DocumentCheck | UnreadableFile:
    try:
        with (
            path_meant(path) as (there, name),
            readable(there, name, asked.password) as (plain, locked),
        ):
            return check_document(
                *(plain, name, asked.target, asked.patience, asked.unit),
                locked=locked,
                beside=path.parent,
            )
    except UnreadableFile as error:
        return error


def _say_progress(done: int, total: int) -> None:
    """How many of many files are read, on a terminal alone."""
    if total > 1 and sys.stderr.isatty():
        ending = "\r" if done < total else "\n"
        print(f"file {done} of {total}", file=sys.stderr, end=ending, flush=True)


def _write_notes(path: Path, result: DocumentCheck, target: Path, password: str) -> bool:
    if target.resolve() == path.resolve():
        click.echo(f"{target}: {_NEVER_OVER}", err=True)
        return False
    try:
        notes = notes_on(result.images, result.report.target)
        with readable(path, str(path), password) as (plain, _):
            placed = write_noted(plain, str(path), notes, target)
    except OSError as error:
        click.echo(f"{target}: {(error.strerror or str(error)).lower()}", err=True)
        return False
    except UnreadableFile as error:
        click.echo(str(error), err=True)
        return False
    click.echo(f"{target}: {counted(placed, 'note')}", err=True)
    return True


def _write_report(path: Path, result: DocumentCheck, target: Path, password: str) -> bool:
    if target.resolve() == path.resolve():
        click.echo(f"{target}: {_NEVER_OVER}", err=True)
        return False
    # Only here: what writes PDF and HTML takes longer to load than most PDFs to read.
    from harnet.studio.documents.reporting.file import write_report_file  # noqa: PLC0415

    try:
        with readable(path, str(path), password) as (plain, _):
            write_report_file(result.report, plain, target)
    except ValueOutOfRange as error:
        click.echo(f"{target}: {error}", err=True)
        return False
    except OSError as error:
        click.echo(f"{target}: {(error.strerror or str(error)).lower()}", err=True)
        return False
    click.echo(f"{target}: {counted(len(result.report.findings), 'finding')}", err=True)
    return True


def _print_as_json(
    paths: Sequence[Path], answers: Sequence[DocumentCheck | UnreadableFile]
) -> None:
    """An object for one file, a list for more; what cannot be read stands there with its code."""
    rows = [
        one.as_json() if isinstance(one, DocumentCheck) else error_row(str(path), one)
        for path, one in zip(paths, answers, strict=True)
    ]
    print_json(rows if len(rows) > 1 else rows[0])


def _print(checks: Sequence[DocumentCheck], form: str, are_many: bool, verbose: bool) -> None:
    if form == "csv":
        columns = [*(["file"] if are_many else []), *COLUMNS]
        print_csv(columns, (row for one in checks for row in _rows(one, are_many)))
        return
    for one in checks:
        _print_one(one, are_many, verbose)


def _rows(result: DocumentCheck, are_many: bool) -> Iterable[dict[str, object]]:
    for row in result.rows():
        yield {**({"file": result.file} if are_many else {}), **row}


def _print_one(result: DocumentCheck, are_many: bool, verbose: bool) -> None:
    if are_many:
        click.secho(result.file, bold=True)
    every = result.rows()
    rows = [row for row in every if verbose or not row["unseen"]]
    is_named = result.report.read.format.is_package
    print_table(
        rows,
        {
            "page": lambda row: str(row["page"] or ""),
            **({"place": lambda row: str(row["place"])} if is_named else {}),
            "pixels": lambda row: f"{row['px_w']} × {row['px_h']}",
            "ppi across": lambda row: f"{row['ppi_x']:.1f}",
            "ppi down": lambda row: f"{row['ppi_y']:.1f}",
            "verdict": lambda row: str(row["unseen"] or row["verdict"]),
            "colour": lambda row: colour_text(str(row["colour"]), int(str(row["bits"]))),
        },
        lambda row: None if row["unseen"] else _COLOURS.get(str(row["verdict"])),
    )
    counts = ", ".join(f"{count} {verdict}" for verdict, count in result.summary.items())
    unseen = sum(bool(row["unseen"]) for row in every)
    seen = len(every) - unseen
    hidden = f"; {unseen} not seen" if unseen else ""
    read = result.report.read
    click.echo(
        f"{counted(read.count, read.format.part)}, {counted(seen, 'image')}: {counts}{hidden}"
    )
    _print_findings(result)


def _print_findings(result: DocumentCheck) -> None:
    """What was found beside the density of single images, worst first."""
    for finding in result.report.findings:
        if finding.rule_id in _SAID_BY_THE_TABLE:
            continue
        label = page_label(result.report.read, finding.page_number)
        where = f", {label}" if finding.page_number and label else ""
        colour = {Severity.BLOCKING: "red", Severity.WARNING: "yellow"}.get(finding.severity)
        click.secho(f"{finding.severity.value}{where}: ", fg=colour, nl=False)
        click.echo(finding.headline)
