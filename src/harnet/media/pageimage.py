"""Pages as PNG, JPEG and TIFF: drawn from the same plan as the PDF, density tag written."""

import tempfile
from dataclasses import dataclass, replace
from pathlib import Path

import numpy
import pypdfium2
import pypdfium2.raw as pdfium
import pyvips
from PIL import Image

from harnet.core.fate import Fate, downsampled, fate_of
from harnet.core.pageimages import (
    HIGHEST_QUALITY,
    LOWEST_QUALITY,
    ImageColour,
    ImageFormat,
    ImageSettings,
    SizeBy,
)
from harnet.core.pdfmode import PdfSettings
from harnet.core.units import MM_PER_INCH
from harnet.core.wording import bytes_text
from harnet.media.colour import cmyk_profile_file, inked
from harnet.media.errors import TooLarge
from harnet.media.pageplan import PagePlan, PicturePart
from harnet.media.pdf.write import Promise, write_pdf

MAX_IMAGE_PX = 120_000_000
"""Pixels of one page image, so that memory stays bounded."""


@dataclass(frozen=True, slots=True)
class FoundImageFile:
    """What an independent reader finds in a page image; densities in ppi."""

    px_w: int
    px_h: int
    density_x: float | None
    density_y: float | None
    colour: str = "RGB"


def write_page_image(
    plan: PagePlan, settings: ImageSettings, path: Path, profile: Path | None = None
) -> tuple[float, list[Promise]]:
    """Draws the page inside its trim; returns its density in ppi, and what became of pictures.

    `profile` is the CMYK profile of an image in inks, None the generic one. Pictures denser than
    the page image are resampled by libvips (Lanczos) before the page is drawn, so that quality
    does not hang on a rasteriser's image scaling.

    Raises:
        UnreadableFile: a picture's file cannot be read any more.
        TooLarge: no quality keeps the file under its limit of bytes.
    """
    density_ppi = settings.density_for(plan.width_pt, plan.height_pt)
    px_w, px_h = settings.px_for(plan.width_pt, plan.height_pt)
    with tempfile.TemporaryDirectory(dir=path.parent) as folder:
        drawn = Path(folder) / "page.pdf"
        promises = write_pdf(
            [replace(plan, bleed_pt=0)], "", drawn, fate=lambda part: _fate_at(part, density_ppi)
        )
        pixels = _rendered(drawn, px_w, px_h)
    per_mm = density_ppi / MM_PER_INCH
    image = pyvips.Image.new_from_array(pixels, interpretation="srgb")
    if settings.colour is ImageColour.CMYK:
        image = inked(image, cmyk_profile_file(profile, path.parent))
    _save(image.copy(xres=per_mm, yres=per_mm), plan.number, settings, path)
    return density_ppi, promises


def _save(image: pyvips.Image, page_number: int, settings: ImageSettings, path: Path) -> None:
    if settings.format is ImageFormat.PNG:
        image.pngsave(str(path), compression=6)
    elif settings.format is ImageFormat.TIFF:
        packing = {"none": "none", "lzw": "lzw", "deflate": "deflate"}[settings.packing.value]
        image.tiffsave(
            str(path), compression=packing, predictor="horizontal", resunit="inch", bigtiff=False
        )
    elif settings.size_by is SizeBy.BYTES:
        path.write_bytes(_under_limit(image, page_number, settings.limit_bytes))
    else:
        image.jpegsave(str(path), Q=settings.quality)


def _under_limit(image: pyvips.Image, page_number: int, limit_bytes: int) -> bytes:
    """The best JPEG that is no larger than the limit; its quality is found by halving."""
    kept: bytes | None = None
    low, high = LOWEST_QUALITY, HIGHEST_QUALITY
    while low <= high:
        quality = (low + high) // 2
        data = bytes(image.jpegsave_buffer(Q=quality))
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


def _fate_at(part: PicturePart, density_ppi: float) -> Fate:
    """No picture goes into a page image denser than that is."""
    return downsampled(part.facts, part.placement, density_ppi) or fate_of(
        part.facts, part.placement, PdfSettings()
    )


def _rendered(path: Path, px_w: int, px_h: int) -> numpy.ndarray:
    """The first page on exactly so many pixels, as height × width × RGB."""
    with pypdfium2.PdfDocument(path) as pdf:
        page = pdf[0]
        bitmap = pypdfium2.PdfBitmap.new_native(px_w, px_h, pdfium.FPDFBitmap_BGR)
        bitmap.fill_rect((255, 255, 255, 255), 0, 0, px_w, px_h)
        pdfium.FPDF_RenderPageBitmap(
            bitmap, page, 0, 0, px_w, px_h, 0, pdfium.FPDF_REVERSE_BYTE_ORDER
        )
        return numpy.ascontiguousarray(bitmap.to_numpy())


def read_back_image(path: Path) -> FoundImageFile:
    """Pixels and density tag of an image file, through Pillow."""
    with Image.open(path) as image:
        image.load()
        x, y = (float(one) if one else None for one in image.info.get("dpi", (None, None)))
        return FoundImageFile(image.width, image.height, x, y, image.mode)
