"""`harnet facts` and `harnet reach`: what picture files say, and how large they may print."""

import sys
from pathlib import Path
from typing import NoReturn

import click

from harnet.cli.files import paths_meant, patience_option
from harnet.cli.tables import Row, error_row, format_option, print_csv, print_json, print_rows
from harnet.cli.targets import target_meant, target_option
from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.figures import figures_of, reach_at_pt
from harnet.core.layout.placing import placed_at_native_size, source_from
from harnet.core.measure.units import Unit, from_points
from harnet.core.pictures.colour_words import colour_text
from harnet.core.pictures.picture import Facts
from harnet.media.errors import UnreadableFile
from harnet.media.facts.bounded_reading import facts_apart, facts_of_each

_CANNOT_READ = 2
_PATH = click.Path(path_type=Path)


@click.command()
@click.argument("files", nargs=-1, required=True)
@format_option
@patience_option
def facts(files: tuple[str, ...], form: str, patience: float) -> None:
    """What picture FILES say of themselves: pixels, density tag, colour, bits.

    FILES may hold patterns such as "in/*.tif". Exit code 2 when a file cannot be read; the others
    are still listed.
    """
    rows: list[Row] = []
    has_failed = False
    paths = paths_meant(files)
    for path, found in zip(paths, facts_of_each(paths, patience=patience), strict=True):
        if isinstance(found, UnreadableFile):
            click.echo(str(found), err=True)
            has_failed = True
            if form == "json":
                rows.append(error_row(str(path), found))
        else:
            rows.append(facts_row(str(path), found))
    print_rows(
        form,
        rows,
        {
            "file": lambda row: str(row["file"]),
            "format": lambda row: str(row["format"]),
            "pixels": _pixels_text,
            "density tag": lambda row: _tag_text(row["density_x"], row["density_y"]),
            "colour": lambda row: colour_text(str(row["colour"]), int(str(row["bits"]))),
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
        "density_unit": found.density_unit.value if found.density_unit else None,
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
        "images_inside": found.image_count,
        "least_ppi_inside": _least_inside(found),
    }


def _least_inside(found: Facts) -> float | None:
    """The lowest density of an image inside a drawing at its natural size, in ppi."""
    if not found.images:
        return None
    density = placed_at_native_size(source_from(found), 0, 0).density
    return None if density is None else round(density.worst, 4)


@click.command()
@click.argument("file", type=_PATH)
@click.option("--ppi", type=float, help="The density it must have.")
@target_option(default=None)
@click.option("--unit", default="mm", show_default=True, help="mm, cm, in, pt or px.")
@format_option
def reach(file: Path, ppi: float | None, wanted: str | None, unit: str, form: str) -> None:
    """The largest size FILE can print at a density, or for a target."""
    if (ppi is None) == (wanted is None):
        raise click.UsageError("give one of --ppi and --target")
    try:
        found = facts_apart(file, str(file))
        shown_in = Unit.named(unit)
        if wanted is not None:
            native = placed_at_native_size(source_from(found), 0, 0)
            ppi = figures_of(native, target_meant(wanted)).target.density_ppi
        assert ppi is not None
        size = reach_at_pt(found, ppi)
        if size is None:
            raise UnreadableFile(str(file), "it is a vector picture, sharp at any size")
        row: Row = {
            "file": str(file),
            "px_w": found.px_w,
            "px_h": found.px_h,
            "ppi": ppi,
            "unit": unit,
            "width": round(from_points(size[0], shown_in), 4),
            "height": round(from_points(size[1], shown_in), 4),
        }
    except (UnreadableFile, ValueOutOfRange) as error:
        _stop(error)
    if form == "json":
        print_json(row)
    elif form == "csv":
        print_csv(list(row), [row])
    else:
        click.echo(f"{row['width']:.2f} × {row['height']:.2f} {unit} at {ppi:g} ppi")


def _stop(error: Exception) -> NoReturn:
    click.echo(str(error), err=True)
    sys.exit(_CANNOT_READ)


def _rounded(density_ppi: float | None) -> float | None:
    return None if density_ppi is None else round(density_ppi, 4)


def _pixels_text(row: Row) -> str:
    """Pixels, or what a drawing holds."""
    if row["px_w"]:
        return f"{row['px_w']} × {row['px_h']}"
    if row["images_inside"]:
        return f"vector, image inside at {row['least_ppi_inside']:g} ppi"
    return "vector"


def _tag_text(x: object, y: object) -> str:
    if x is None:
        return "none"
    return f"{x:g} ppi" if x == y else f"{x:g} × {y:g} ppi"
