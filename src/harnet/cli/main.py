"""The command line: check a PDF, tell facts, tell reach. No database and no server needed."""

import csv
import json
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import NoReturn

import click

from harnet.cli.export import export
from harnet.core.density import reach_pt
from harnet.core.errors import ValueOutOfRange
from harnet.core.picture import Facts
from harnet.core.targetlist import target_named
from harnet.core.units import Unit, from_points
from harnet.core.wording import counted
from harnet.media.errors import UnreadableFile
from harnet.media.facts.read import facts_of
from harnet.studio.pdfcheck import PdfCheck, check_pdf

_SOME_FALL_SHORT = 1
_CANNOT_READ = 2
_PATH = click.Path(path_type=Path)
_format_option = click.option(
    "--format",
    "form",
    type=click.Choice(["table", "json", "csv"]),
    default="table",
    show_default=True,
    help="How the answer is written.",
)

Row = dict[str, object]


@click.group(context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(package_name="harnet")
def harnet() -> None:
    """Effective resolution of placed pictures, from the command line."""


harnet.add_command(export)


@harnet.command()
@click.argument("file", type=_PATH)
@click.option(
    "--target", "wanted", default="coated", show_default=True, help="A figure in ppi or a name."
)
@_format_option
def check(file: Path, wanted: str, form: str) -> None:
    """Every image FILE.pdf paints, with its effective ppi and verdict.

    Exit code 0: none is coarse or thin; 1: some are; 2: the file cannot be read.
    """
    try:
        result = check_pdf(file, str(file), target_named(wanted))
    except (UnreadableFile, ValueOutOfRange) as error:
        _stop(error)
    _print_check(result, form)
    sys.exit(_SOME_FALL_SHORT if result.falls_short else 0)


def _print_check(result: PdfCheck, form: str) -> None:
    if form == "json":
        _print_json(result.as_json())
        return
    rows = [image.as_json() for image in result.images]
    if form == "csv":
        _print_csv(result.columns(), rows)
        return
    _print_table(
        rows,
        {
            "page": lambda row: str(row["page"]),
            "pixels": lambda row: f"{row['px_w']} × {row['px_h']}",
            "ppi across": lambda row: f"{row['ppi_x']:.1f}",
            "ppi down": lambda row: f"{row['ppi_y']:.1f}",
            "verdict": lambda row: str(row["verdict"]),
            "colour": lambda row: f"{row['colour']}, {row['bits']} bit",
        },
    )
    counts = ", ".join(f"{count} {verdict}" for verdict, count in result.summary.items())
    click.echo(f"{counted(result.pages, 'page')}, {counted(len(rows), 'image')}: {counts}")


@harnet.command()
@click.argument("files", nargs=-1, required=True, type=_PATH)
@_format_option
def facts(files: tuple[Path, ...], form: str) -> None:
    """What picture FILES say of themselves: pixels, density tag, colour, bits.

    Exit code 2 when a file cannot be read; the others are still listed.
    """
    rows: list[Row] = []
    has_failed = False
    for path in files:
        try:
            rows.append(facts_row(str(path), facts_of(path, str(path))))
        except UnreadableFile as error:
            click.echo(str(error), err=True)
            has_failed = True
    if form == "json":
        _print_json(rows)
    elif form == "csv":
        _print_csv(list(rows[0]) if rows else ["file"], rows)
    else:
        _print_table(
            rows,
            {
                "file": lambda row: str(row["file"]),
                "format": lambda row: str(row["format"]),
                "pixels": lambda row: f"{row['px_w']} × {row['px_h']}" if row["px_w"] else "vector",
                "density tag": lambda row: _tag_text(row["density_x"], row["density_y"]),
                "colour": lambda row: f"{row['colour']}, {row['bits']} bit",
            },
        )
    if has_failed:
        sys.exit(_CANNOT_READ)


def facts_row(file: str, found: Facts) -> Row:
    """A picture's facts as the command writes them."""
    return {
        "file": file,
        "kind": found.kind.value,
        "format": found.format,
        "px_w": found.px_w,
        "px_h": found.px_h,
        "density_x": _rounded(found.density_x),
        "density_y": _rounded(found.density_y),
        "colour": found.colour.value,
        "bits": found.bits,
        "alpha": found.alpha,
        "lossy": found.lossy,
        "icc": found.icc,
        "frames": found.frames,
        "size_bytes": found.size_bytes,
        "unpacked_bytes": found.unpacked_bytes,
        "compression": found.compression,
        "jpeg_quality": found.jpeg_quality,
        "width_pt": found.width_pt,
        "height_pt": found.height_pt,
    }


@harnet.command()
@click.argument("file", type=_PATH)
@click.option("--ppi", required=True, type=float, help="The density it must have.")
@click.option("--unit", default="mm", show_default=True, help="mm, cm, in, pt or px.")
@_format_option
def reach(file: Path, ppi: float, unit: str, form: str) -> None:
    """The largest size FILE can print at a density."""
    try:
        found = facts_of(file, str(file))
        shown_in = Unit.named(unit)
        if found.px_w is None or found.px_h is None:
            raise UnreadableFile(str(file), "it is line art, sharp at any size")
        row: Row = {
            "file": str(file),
            "px_w": found.px_w,
            "px_h": found.px_h,
            "ppi": ppi,
            "unit": unit,
            "width": round(from_points(reach_pt(found.px_w, ppi), shown_in), 4),
            "height": round(from_points(reach_pt(found.px_h, ppi), shown_in), 4),
        }
    except (UnreadableFile, ValueOutOfRange) as error:
        _stop(error)
    if form == "json":
        _print_json(row)
    elif form == "csv":
        _print_csv(list(row), [row])
    else:
        click.echo(f"{row['width']:.2f} × {row['height']:.2f} {unit} at {ppi:g} ppi")


def _stop(error: Exception) -> NoReturn:
    click.echo(str(error), err=True)
    sys.exit(_CANNOT_READ)


def _rounded(density_ppi: float | None) -> float | None:
    return None if density_ppi is None else round(density_ppi, 4)


def _tag_text(x: object, y: object) -> str:
    if x is None:
        return "none"
    return f"{x:g} ppi" if x == y else f"{x:g} × {y:g} ppi"


def _print_json(value: object) -> None:
    click.echo(json.dumps(value, ensure_ascii=False, indent=1))


def _print_csv(columns: list[str], rows: Sequence[Row]) -> None:
    writer = csv.DictWriter(sys.stdout, columns)
    writer.writeheader()
    writer.writerows(rows)


def _print_table(rows: Sequence[Row], columns: dict[str, Callable[[Row], str]]) -> None:
    cells = [list(columns), *([text(row) for text in columns.values()] for row in rows)]
    widths = [max(len(line[index]) for line in cells) for index in range(len(columns))]
    for line in cells:
        padded = (cell.ljust(width) for cell, width in zip(line, widths, strict=True))
        click.echo("  ".join(padded).rstrip())
