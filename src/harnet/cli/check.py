"""`harnet check`: every image that PDFs paint, judged; one file or many, side by side."""

import json
import sys
from collections.abc import Iterable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import click

from harnet.cli.files import paths_meant, patience_option
from harnet.cli.tables import format_option, print_csv, print_json, print_table
from harnet.core.errors import ValueOutOfRange
from harnet.core.target import Target
from harnet.core.targetlist import target_named
from harnet.core.wording import counted
from harnet.media.errors import UnreadableFile
from harnet.studio.pdfs.check import COLUMNS, PdfCheck, check_pdf
from harnet.studio.pdfs.notes import notes_on, write_noted

_SOME_FALL_SHORT, _CANNOT_READ = 1, 2
_COLOURS = {"coarse": "red", "thin": "yellow"}
_NEVER_OVER = "the original is never written over; name another file"
_PATH = click.Path(path_type=Path)


@click.command()
@click.argument("files", nargs=-1, required=True)
@click.option(
    "--target",
    "wanted",
    default="coated",
    show_default=True,
    help="A name; or a figure in ppi, for tone pictures of coated press.",
)
@format_option
@click.option(
    "--jobs",
    type=click.IntRange(1, 64),
    default=1,
    show_default=True,
    help="How many files are read side by side.",
)
@click.option(
    "--notes",
    "notes_path",
    type=_PATH,
    help="Write a copy with a note on each image that falls short; of one file.",
)
@click.option(
    "--report",
    "report_path",
    type=_PATH,
    help="Write a report of one file, as .html, .pdf, .csv or .json by its ending.",
)
@patience_option
@click.option("-q", "--quiet", is_flag=True, help="Say nothing; the exit code tells.")
@click.option("-v", "--verbose", is_flag=True, help="List images that cannot be seen as well.")
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
) -> None:
    """Every image that FILES paint, with its effective ppi and verdict.

    FILES may hold patterns such as "out/*.pdf". With one file, JSON is an object; with more, a
    list. Exit code 0: no image that is seen is coarse or thin; 1: some are; 2: a file cannot be
    read, the others are answered all the same.
    """
    try:
        target = target_named(wanted)
    except ValueOutOfRange as error:
        click.echo(str(error), err=True)
        sys.exit(_CANNOT_READ)
    paths = paths_meant(files)
    if len(paths) != 1 and (notes_path is not None or report_path is not None):
        raise click.UsageError("--notes and --report go with one file")
    checks: list[PdfCheck] = []
    has_failed = False
    for done, answer in enumerate(_answers(paths, target, jobs, patience), 1):
        if isinstance(answer, str):
            click.echo(answer, err=True)
            has_failed = True
        else:
            checks.append(answer)
        _say_progress(done, len(paths))
    if notes_path is not None and checks:
        has_failed |= not _write_notes(paths[0], checks[0], notes_path)
    if report_path is not None and checks:
        has_failed |= not _write_report(paths[0], checks[0], report_path)
    if not quiet:
        _print(checks, form, len(paths) > 1, verbose)
    if has_failed:
        sys.exit(_CANNOT_READ)
    sys.exit(_SOME_FALL_SHORT if any(one.falls_short for one in checks) else 0)


def _answers(
    paths: Sequence[Path], target: Target, jobs: int, patience: float
) -> Iterator[PdfCheck | str]:
    """The check of each file in turn, or the sentence that says why it cannot be read."""
    if jobs == 1 or len(paths) == 1:
        yield from (_answer(path, target, patience) for path in paths)
        return
    with ProcessPoolExecutor(jobs) as pool:
        yield from pool.map(_answer, paths, [target] * len(paths), [patience] * len(paths))


def _answer(path: Path, target: Target, patience: float) -> PdfCheck | str:
    try:
        return check_pdf(path, str(path), target, patience)
    except UnreadableFile as error:
        return str(error)


def _say_progress(done: int, total: int) -> None:
    """How many of many files are read, on a terminal alone."""
    if total > 1 and sys.stderr.isatty():
        ending = "\r" if done < total else "\n"
        print(f"file {done} of {total}", file=sys.stderr, end=ending, flush=True)


def _write_notes(path: Path, result: PdfCheck, target: Path) -> bool:
    if target.resolve() == path.resolve():
        click.echo(f"{target}: {_NEVER_OVER}", err=True)
        return False
    try:
        placed = write_noted(path, str(path), notes_on(result.images, result.report.target), target)
    except OSError as error:
        click.echo(f"{target}: {(error.strerror or str(error)).lower()}", err=True)
        return False
    except UnreadableFile as error:
        click.echo(str(error), err=True)
        return False
    click.echo(f"{target}: {counted(placed, 'note')}", err=True)
    return True


def _write_report(path: Path, result: PdfCheck, target: Path) -> bool:
    if target.resolve() == path.resolve():
        click.echo(f"{target}: {_NEVER_OVER}", err=True)
        return False
    # Only here: what writes PDF and HTML takes longer to load than most PDFs to read.
    from harnet.studio.pdfs.reportfile import write_report_file  # noqa: PLC0415

    try:
        write_report_file(result.report, path, target)
    except ValueOutOfRange as error:
        click.echo(f"{target}: {error}", err=True)
        return False
    except OSError as error:
        click.echo(f"{target}: {(error.strerror or str(error)).lower()}", err=True)
        return False
    click.echo(f"{target}: {counted(len(result.report.findings), 'finding')}", err=True)
    return True


def _print(checks: Sequence[PdfCheck], form: str, are_many: bool, verbose: bool) -> None:
    if form == "json":
        answers = [one.as_json() for one in checks]
        if are_many:
            print_json(answers)
        elif answers:
            click.echo(json.dumps(answers[0], ensure_ascii=False, indent=1))
        return
    if form == "csv":
        columns = [*(["file"] if are_many else []), *COLUMNS]
        print_csv(columns, (row for one in checks for row in _rows(one, are_many)))
        return
    for one in checks:
        _print_one(one, are_many, verbose)


def _rows(result: PdfCheck, are_many: bool) -> Iterable[dict[str, object]]:
    for image in result.images:
        yield {**({"file": result.file} if are_many else {}), **result.row(image)}


def _print_one(result: PdfCheck, are_many: bool, verbose: bool) -> None:
    if are_many:
        click.secho(result.file, bold=True)
    rows = [result.row(image) for image in result.images if verbose or not image.unseen]
    print_table(
        rows,
        {
            "page": lambda row: str(row["page"]),
            "pixels": lambda row: f"{row['px_w']} × {row['px_h']}",
            "ppi across": lambda row: f"{row['ppi_x']:.1f}",
            "ppi down": lambda row: f"{row['ppi_y']:.1f}",
            "verdict": lambda row: str(row["unseen"] or row["verdict"]),
            "colour": lambda row: f"{row['colour']}, {row['bits']} bit",
        },
        lambda row: None if row["unseen"] else _COLOURS.get(str(row["verdict"])),
    )
    counts = ", ".join(f"{count} {verdict}" for verdict, count in result.summary.items())
    unseen = sum(bool(image.unseen) for image in result.images)
    seen = len(result.images) - unseen
    hidden = f"; {unseen} not seen" if unseen else ""
    click.echo(f"{counted(result.pages, 'page')}, {counted(seen, 'image')}: {counts}{hidden}")
