"""Pages as PNG, JPEG and TIFF: drawn from the same plan as the PDF, density tag written."""

import tempfile
from dataclasses import dataclass, replace
from pathlib import Path

import numpy
import pypdfium2
import pypdfium2.raw as pdfium
import pyvips
from PIL import Image

from harnet.core.measure.units import MM_PER_INCH
from harnet.core.measure.wording import bytes_text
from harnet.core.output.page_images import (
    HIGHEST_QUALITY,
    LOWEST_QUALITY,
    ImageColour,
    ImageFormat,
    ImageSettings,
    SizeBy,
)
from harnet.core.output.pdf_settings import PdfSettings
from harnet.core.output.treatment import Treatment, downsampled, treatment_of
from harnet.media.errors import TooLarge
from harnet.media.facts.icc import profile_name
from harnet.media.pagedrawing.plan import PagePlan, PicturePart
from harnet.media.pdf.writing.write import Promise, write_pdf
from harnet.media.pixels.colour import cmyk_profile_file, inked, srgb_profile

MAX_IMAGE_PX = 400_000_000
"""Pixels of one page image: A3 with its bleed at 1 200 ppi has 290 million."""
_STRIP_PX = 16_000_000
_WHOLE_UP_TO_PX = 100_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class FoundImageFile:
    """What an independent reader finds in a page image; densities in ppi."""

    px_w: int
    px_h: int
    density_x: float | None
    density_y: float | None
    colour: str = "RGB"
    profile: str | None = None
    """The name of the ICC profile that the file carries."""


def write_page_image(
    plan: PagePlan, settings: ImageSettings, path: Path, profile: Path | None = None
) -> tuple[float, list[Promise]]:
    """Draws the page inside its trim; returns its density in ppi, and what became of pictures.

    `profile` is the CMYK profile of an image in inks, None the generic one. Pictures denser than
    the page image are resampled by libvips (Lanczos) before the page is drawn, so that quality
    does not hang on a rasteriser's image scaling.

    Raises:
        UnreadableFile: a picture's file cannot be read any longer.
        TooLarge: no quality keeps the file under its limit of bytes.
    """
    beyond = plan.bleed_pt if settings.with_bleed else 0.0
    width_pt, height_pt = settings.size_of(plan.width_pt, plan.height_pt, plan.bleed_pt)
    density_ppi = settings.density_for(width_pt, height_pt)
    px_w, px_h = settings.px_for(width_pt, height_pt)
    with tempfile.TemporaryDirectory(dir=path.parent) as name:
        folder = Path(name)
        drawn, pixels = folder / "page.pdf", folder / "pixels"
        promises = write_pdf(
            [replace(plan, bleed_pt=beyond)],
            "",
            drawn,
            treatment=lambda part: _treatment_at(part, density_ppi),
        )
        with pypdfium2.PdfDocument(drawn) as pdf:
            render_page(pdf[0], px_w, px_h, pixels)
        save_page_image(
            pixels, PageFile(plan.number, px_w, px_h, density_ppi), settings, path, profile
        )
    return density_ppi, promises


@dataclass(frozen=True, slots=True)
class PageFile:
    """The image of a page that is to be written: the page, its pixels and its density tag."""

    page_number: int
    px_w: int
    px_h: int
    density_ppi: float


def save_page_image(
    pixels: Path, made: PageFile, settings: ImageSettings, path: Path, profile: Path | None = None
) -> None:
    """Writes the RGB rows that `render_page` has drawn as an image file with its tags.

    Raises:
        TooLarge: no quality keeps the file under its limit of bytes.
    """
    image = pyvips.Image.rawload(str(pixels), made.px_w, made.px_h, 3).copy(interpretation="srgb")
    if settings.colour is ImageColour.CMYK:
        image = inked(image, cmyk_profile_file(profile, path.parent))
    else:
        image = image.copy()
        image.set_type(pyvips.GValue.blob_type, "icc-profile-data", srgb_profile())
    per_mm = made.density_ppi / MM_PER_INCH
    _save(image.copy(xres=per_mm, yres=per_mm), made.page_number, settings, path)


def _save(image: pyvips.Image, page_number: int, settings: ImageSettings, path: Path) -> None:
    if settings.format is ImageFormat.PNG:
        image.pngsave(str(path), compression=6, keep="icc")
    elif settings.format is ImageFormat.TIFF:
        compression = settings.compression.value
        image.tiffsave(
            str(path),
            compression=compression,
            predictor="none" if compression == "none" else "horizontal",
            resunit="inch",
            bigtiff=False,
            keep="icc",
        )
    elif settings.size_by is SizeBy.BYTES:
        path.write_bytes(_under_limit(_for_jpeg(image), page_number, settings.limit_bytes))
    else:
        _for_jpeg(image).jpegsave(str(path), Q=settings.quality, keep="icc|exif")


def _for_jpeg(image: pyvips.Image) -> pyvips.Image:
    """The image with an Exif block that agrees with its profile: 1 is sRGB (CIPA DC-008)."""
    image = image.copy()
    image.set_type(pyvips.GValue.gstr_type, "resolution-unit", "in")
    image.set_type(pyvips.GValue.gstr_type, "exif-ifd2-ColorSpace", "1")
    return image


def _under_limit(image: pyvips.Image, page_number: int, limit_bytes: int) -> bytes:
    """The best JPEG that is no larger than the limit; its quality is found by halving.

    Raises:
        TooLarge: even the lowest quality is above the limit.
    """
    kept: bytes | None = None
    low, high = LOWEST_QUALITY, HIGHEST_QUALITY
    while low <= high:
        quality = (low + high) // 2
        data = bytes(image.jpegsave_buffer(Q=quality, keep="icc|exif"))
        if len(data) <= limit_bytes:
            kept, low = data, quality + 1
        else:
            high, smallest = quality - 1, len(data)
    if kept is None:
        raise TooLarge(
            f"Page {page_number} has {bytes_text(smallest)} at the lowest quality"
            f" ({LOWEST_QUALITY}); the limit is {bytes_text(limit_bytes)}. Choose a lower density"
            " or a higher limit."
        )
    return kept


def _treatment_at(part: PicturePart, density_ppi: float) -> Treatment:
    """No picture goes into a page image denser than that is."""
    return downsampled(part.facts, part.placement, density_ppi) or treatment_of(
        part.facts, part.placement, PdfSettings()
    )


def render_page(
    page: pypdfium2.PdfPage, px_w: int, px_h: int, target: Path, with_notes: bool = False
) -> None:
    """Writes a page on exactly so many pixels to a file, RGB row by row.

    Strips are drawn one after the other, so that memory does not grow with the page. `with_notes`
    draws annotations, too.
    """
    rows = max(1, min(px_h, _STRIP_PX // px_w))
    flags = pdfium.FPDF_REVERSE_BYTE_ORDER | (pdfium.FPDF_ANNOT if with_notes else 0)
    with target.open("wb") as file:
        for top in range(0, px_h, rows):
            height = min(rows, px_h - top)
            bitmap = pypdfium2.PdfBitmap.new_native(px_w, height, pdfium.FPDFBitmap_BGR)
            bitmap.fill_rect((255, 255, 255, 255), 0, 0, px_w, height)
            pdfium.FPDF_RenderPageBitmap(bitmap, page, 0, -top, px_w, px_h, 0, flags)
            file.write(numpy.ascontiguousarray(bitmap.to_numpy()).tobytes())
            bitmap.close()


def write_tiles(path: Path, target: Path) -> None:
    """A page image as a TIFF in tiles and sRGB, so that any part of it is read at once."""
    image = pyvips.Image.new_from_file(str(path))
    if image.interpretation == "cmyk":
        image = image.icc_transform("srgb", embedded=True, intent="relative")
    image.tiffsave(
        str(target), compression="deflate", tile=True, tile_width=256, tile_height=256, keep="none"
    )


def read_back_image(path: Path) -> FoundImageFile:
    """Pixels and density tag of an image file, through Pillow."""
    with Image.open(path) as image:
        if image.width * image.height <= _WHOLE_UP_TO_PX:
            image.load()
        else:
            # Pillow would hold all of it in memory; that nothing is torn off is seen row by row.
            pyvips.Image.new_from_file(str(path), access="sequential", fail_on="truncated").avg()
        x, y = (float(one) if one else None for one in image.info.get("dpi", (None, None)))
        profile = profile_name(image.info.get("icc_profile"))
        return FoundImageFile(
            px_w=image.width,
            px_h=image.height,
            density_x=x,
            density_y=y,
            colour=image.mode,
            profile=profile,
        )
