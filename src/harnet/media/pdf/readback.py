"""Reading an output PDF back with pdfium, a reader that had no part in writing it."""

from dataclasses import dataclass
from pathlib import Path

import pypdfium2
import pypdfium2.raw as pdfium

from harnet.core.density import EffectiveDensity, effective_density
from harnet.core.geometry import Matrix


@dataclass(frozen=True, slots=True)
class FoundImage:
    """An image as pdfium finds it on a page."""

    page_number: int
    px_w: int
    px_h: int
    density: EffectiveDensity


@dataclass(frozen=True, slots=True)
class FoundPdf:
    """What pdfium finds in a PDF; sizes are the trim boxes', in points."""

    page_sizes_pt: tuple[tuple[float, float], ...]
    images: tuple[FoundImage, ...]


def read_back(path: Path) -> FoundPdf:
    """Pages and images of a PDF, by formula 1 from pdfium's own matrices."""
    sizes, images = [], []
    with pypdfium2.PdfDocument(path) as pdf:
        for index in range(len(pdf)):
            page = pdf[index]
            left, bottom, right, top = page.get_trimbox()
            sizes.append((right - left, top - bottom))
            for found in page.get_objects(filter=[pdfium.FPDF_PAGEOBJ_IMAGE], max_depth=1):
                a, b, c, d, e, f = found.get_matrix().get()
                px_w, px_h = found.get_px_size()
                density = effective_density(px_w, px_h, Matrix(a, b, c, d, e, f))
                images.append(FoundImage(index + 1, px_w, px_h, density))
    return FoundPdf(tuple(sizes), tuple(images))
