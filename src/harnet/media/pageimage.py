"""One page as a PNG: drawn from the same plan as the PDF, its density tag written."""

import tempfile
from dataclasses import dataclass, replace
from pathlib import Path

import numpy
import pypdfium2
import pypdfium2.raw as pdfium
import pyvips
from PIL import Image

from harnet.core.resampling import page_px
from harnet.core.units import MM_PER_INCH
from harnet.media.pageplan import PagePlan
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


def write_png(plan: PagePlan, density_ppi: float, path: Path) -> list[Promise]:
    """Draws the page inside its trim at a density.

    Pictures denser than that are resampled by libvips (Lanczos) before the page is drawn, so the
    quality does not hang on a rasteriser's image scaling.

    Raises:
        UnreadableFile: a picture's file cannot be read any more.
    """
    px_w, px_h = page_px(plan.width_pt, plan.height_pt, density_ppi)
    with tempfile.TemporaryDirectory(dir=path.parent) as folder:
        drawn = Path(folder) / "page.pdf"
        promises = write_pdf([replace(plan, bleed_pt=0)], "", drawn, at_most_ppi=density_ppi)
        pixels = _rendered(drawn, px_w, px_h)
    per_mm = density_ppi / MM_PER_INCH
    image = pyvips.Image.new_from_array(pixels, interpretation="srgb")
    image.copy(xres=per_mm, yres=per_mm).pngsave(str(path), compression=6)
    return promises


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
        x, y = image.info.get("dpi", (None, None))
        return FoundImageFile(image.width, image.height, x, y)
