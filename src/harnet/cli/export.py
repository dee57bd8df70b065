"""`harnet export`: a PDF or page images from a pack, page images from any PDF; no server needed."""

import sys
import tempfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import click

from harnet.cli.files import password_option
from harnet.cli.targets import target_meant
from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.wording import counted
from harnet.core.output.page_images import (
    ImageColour,
    ImageFormat,
    ImageSettings,
    SizeBy,
    checked_image_settings,
)
from harnet.core.output.page_pixels import pixels_of_pages
from harnet.core.output.pdf_settings import (
    DEFAULT_THRESHOLD,
    PdfColour,
    PdfSettings,
    PdfStandard,
    PictureMode,
    checked_settings,
    settings_for,
)
from harnet.media.errors import TooLarge, UnreadableFile
from harnet.media.pagedrawing.plan import PagesToDraw
from harnet.media.pdf.opening.signature import is_pdf
from harnet.media.pixels.colour import checked_profile_file
from harnet.studio.documents.making.page_images import pages_of_pdf, write_page_images
from harnet.studio.documents.making.unlocking import readable
from harnet.studio.handoff.reading import Pack, pages_of_pack, read_pack
from harnet.studio.output.bounded_rendering import RenderRequest, make_apart

_BROKEN_PROMISE, _CANNOT_READ = 1, 2
_PATH = click.Path(path_type=Path)


@click.command()
@click.argument("file", type=_PATH)
@click.option("--pdf", "pdf_path", type=_PATH, help="The PDF to write.")
@click.option("--images", "images_folder", type=_PATH, help="The folder to write page images into.")
@click.option("--pages", default="all", show_default=True, help="Pages, such as 1-3,7.")
@click.option(
    "--mode",
    type=click.Choice([mode.value for mode in PictureMode]),
    default="keep",
    show_default=True,
    help="PDF: how pictures are treated.",
)
@click.option("--target", "wanted", default="", help="PDF, trim: a figure in ppi or a name.")
@click.option(
    "--threshold",
    type=float,
    default=DEFAULT_THRESHOLD,
    show_default=True,
    help="PDF, trim: downsample only pictures above this multiple of the density.",
)
@click.option("--quality", type=int, default=None, help="JPEG quality of recompressed pictures.")
@click.option(
    "--lossless", is_flag=True, help="PDF, trim: store downsampled pictures without loss."
)
@click.option(
    "--drop-cropped", is_flag=True, help="PDF: drop the cropped-off parts of recompressed pictures."
)
@click.option(
    "--standard",
    type=click.Choice([standard.value for standard in PdfStandard]),
    default="pdf-1.7",
    show_default=True,
    help="PDF: the standard it conforms to.",
)
@click.option(
    "--inks", is_flag=True, help="Convert colours to CMYK: the output intent of a PDF, or TIFF."
)
@click.option("--profile", type=_PATH, help="The CMYK profile; the generic one if omitted.")
@click.option("--marks", is_flag=True, help="PDF: add crop and registration marks.")
@click.option("--language", default="en", show_default=True, help="PDF: a tag such as de-AT.")
@click.option("--dpi", type=float, help="Images: the density; 300 without a width or height.")
@click.option("--width-px", type=int, help="Images: pixels across.")
@click.option("--height-px", type=int, help="Images: pixels down.")
@click.option("--bleed", is_flag=True, help="Images: include the bleed around the trim.")
@click.option(
    "--limit-kb",
    type=click.FloatRange(1, 1_000_000),
    help="Images: JPEG files of at most so many kB (1 000 bytes), at --dpi.",
)
@click.option(
    "--format",
    "form",
    type=click.Choice([one.value for one in ImageFormat]),
    default="png",
    show_default=True,
    help="Images: the file format.",
)
@password_option
@click.option(
    "--names",
    default=ImageSettings().names,
    show_default=True,
    help="Images: file names; {title}, {page} and {ppi} are filled in.",
)
def export(file: Path, pdf_path: Path | None, images_folder: Path | None, **options: Any) -> None:
    """A PDF or page images from FILE, a handoff pack; page images from any PDF.

    What is written is read back. Exit code 0: all as promised; 1: something is not, for instance
    a missing picture; 2: nothing was written, because something cannot be read or is not valid.
    """
    if pdf_path is None and images_folder is None:
        raise click.UsageError("say what to write: --pdf FILE, --images FOLDER, or both")
    try:
        if options["profile"] is not None:
            checked_profile_file(options["profile"], str(options["profile"]))
        if is_pdf(file):
            if pdf_path is not None or images_folder is None:
                raise click.UsageError("a PDF is exported as page images; use --images FOLDER")
            with readable(file, str(file), options["password"]) as (plain, _):
                kept = _images_of_pdf(plain, str(file), images_folder, options)
        else:
            kept = _from_pack(file, pdf_path, images_folder, options)
    except (UnreadableFile, TooLarge, ValueOutOfRange) as error:
        click.echo(str(error), err=True)
        sys.exit(_CANNOT_READ)
    except OSError as error:
        click.echo(f"{error.filename}: {(error.strerror or str(error)).lower()}", err=True)
        sys.exit(_CANNOT_READ)
    sys.exit(0 if kept else _BROKEN_PROMISE)


def _from_pack(
    file: Path, pdf_path: Path | None, images_folder: Path | None, options: dict[str, Any]
) -> bool:
    """Writes what is asked for of a pack; whether every promise was kept."""
    with tempfile.TemporaryDirectory() as folder:
        opened = read_pack(file, str(file), Path(folder))
        document = pages_of_pack(opened)
        kept = True
        if pdf_path is not None:
            kept &= _pdf(opened, document, pdf_path, options)
        if images_folder is not None:
            kept &= _images(document, images_folder, options)
    return kept


def _images_of_pdf(file: Path, shown: str, folder: Path, options: dict[str, Any]) -> bool:
    """Writes the pages of a PDF as images; whether every promise was kept."""
    settings = checked_image_settings(_image_settings(options))
    for one in pixels_of_pages(pages_of_pdf(file, shown), settings):
        click.echo(
            f"page {one.page_number}: {one.px_w} × {one.px_h} px at {one.density_ppi:.4g} ppi",
            err=True,
        )
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=folder, prefix=".harnet-") as name:
        made = write_page_images(
            *(file, shown, settings, Path(name)),
            profile=options["profile"],
            tell=progress_of("image"),
        )
        for path, row in zip(made.paths, made.rows, strict=True):
            path.replace(folder / path.name)
            px_w, px_h = row["px_found"]
            found = f"{px_w} × {px_h} px at {row['density_found']:.4g} ppi"
            click.echo(f"{folder / path.name}: {found}")
    as_promised = "as promised" if made.is_kept else "not all as promised"
    click.echo(f"{counted(len(made.paths), 'image')}, {as_promised}")
    return made.is_kept


def _pdf(pack: Pack, document: PagesToDraw, path: Path, options: dict[str, Any]) -> bool:
    """Writes the PDF, whole or not at all; whether every promise was kept."""
    settings = checked_settings(_pdf_settings(pack, options))
    path.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=path.parent, prefix=".harnet-") as folder:
        making = RenderRequest(document, settings, options["profile"])
        made = make_apart(making, Path(folder), progress_of("page"))
        receipt, size = made.receipt, made.paths[0].stat().st_size
        made.paths[0].replace(path)
    pages = counted(receipt["pages_found"], "page")
    click.echo(f"{path}: {pages}, {size} bytes, {_verdict(receipt)}")
    return bool(receipt["is_kept"])


def _pdf_settings(pack: Pack, options: dict[str, Any]) -> PdfSettings:
    mode = PictureMode(options["mode"])
    wanted = options["wanted"]
    if not wanted and pack.job.target is not None:
        to_ppi = pack.job.target.density_ppi
    else:
        to_ppi = target_meant(wanted or "coated").density_ppi
    settings = settings_for(mode, to_ppi, PdfSettings())
    if mode is PictureMode.TRIM:
        settings = replace(settings, threshold=options["threshold"])
    quality = None if options["lossless"] else options["quality"] or settings.quality
    return replace(
        settings,
        quality=quality,
        drops_cropped=options["drop_cropped"],
        colour=PdfColour.INTENT if options["inks"] else PdfColour.KEEP,
        standard=PdfStandard(options["standard"]),
        crop_marks=options["marks"],
        registration_marks=options["marks"],
        pages=options["pages"],
        language=options["language"],
    )


def _images(document: PagesToDraw, folder: Path, options: dict[str, Any]) -> bool:
    """Writes the page images; whether every promise was kept."""
    settings = checked_image_settings(_image_settings(options))
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=folder, prefix=".harnet-") as name:
        making = RenderRequest(document, settings, options["profile"])
        made = make_apart(making, Path(name), progress_of("image"))
        paths, receipt = made.paths, made.receipt
        for path in paths:
            path.replace(folder / path.name)
    for path, image in zip(paths, receipt["images"], strict=True):
        px_w, px_h = image["px_found"]
        click.echo(f"{folder / path.name}: {px_w} × {px_h} px at {image['density_found']:.4g} ppi")
    click.echo(f"{counted(len(paths), 'image')}, {_verdict(receipt)}")
    return bool(receipt["is_kept"])


def _image_settings(options: dict[str, Any]) -> ImageSettings:
    edges = [
        (SizeBy.WIDTH, options["width_px"]),
        (SizeBy.HEIGHT, options["height_px"]),
        (SizeBy.DENSITY, options["dpi"]),
    ]
    given = [(size_by, figure) for size_by, figure in edges if figure is not None]
    if len(given) > 1:
        raise click.UsageError("give one of --dpi, --width-px and --height-px")
    size_by, figure = given[0] if given else (SizeBy.DENSITY, 300.0)
    is_density, limit_kb = size_by is SizeBy.DENSITY, options["limit_kb"]
    if limit_kb is not None and not is_density:
        raise click.UsageError("--limit-kb goes with --dpi, not with --width-px or --height-px")
    return ImageSettings(
        format=ImageFormat(options["form"]),
        size_by=SizeBy.BYTES if limit_kb is not None else size_by,
        density_ppi=float(figure) if is_density else 300.0,
        edge_px=0 if is_density else int(figure),
        limit_bytes=int((limit_kb or 0) * 1000),
        quality=options["quality"] or ImageSettings().quality,
        pages=options["pages"],
        names=options["names"],
        colour=ImageColour.CMYK if options["inks"] else ImageColour.RGB,
        with_bleed=options["bleed"],
    )


def progress_of(what: str) -> Callable[[int, int], None]:
    """Says on standard error how far it is: over itself on a terminal, else in lines."""
    is_terminal = sys.stderr.isatty()

    def tell(done: int, total: int) -> None:
        ending = "\r" if is_terminal and done < total else "\n"
        print(f"{what} {done} of {total}", file=sys.stderr, end=ending, flush=True)

    return tell


def _verdict(receipt: dict[str, Any]) -> str:
    rows = receipt["rows"]
    kept = sum(row["is_kept"] for row in rows)
    if receipt["is_kept"]:
        return f"{counted(len(rows), 'picture')} as promised"
    broken = [
        f"{row['name']}, page {row['page']}: {row['how']}" for row in rows if not row["is_kept"]
    ]
    for line in broken:
        click.echo(line, err=True)
    return f"{kept} of {counted(len(rows), 'picture')} as promised"
