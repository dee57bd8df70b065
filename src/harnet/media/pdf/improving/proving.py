"""Proof of an improved copy: drawn beside the first one by pdfium, its images read by pypdf."""

from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy
import pikepdf
import pypdf
import pypdfium2
from PIL import Image, ImageDraw
from scipy import ndimage

from harnet.core.documents.userspace import seen_space
from harnet.core.measure.geometry import Matrix
from harnet.core.output.page_images import page_numbers
from harnet.media.bounded import Order, Tell
from harnet.media.pdf.improving.held import held_images
from harnet.media.pdf.opening.opened import opened_pdf
from harnet.media.pdf.reading.images import PageReader
from harnet.media.pdf.reading.visible_page import attributes_of, seen_page
from harnet.media.pixels.registration.drawn import drawn_beside, poorer

PROOF_PPI = 100
_AROUND_PX = 2
_SAME_LEVELS = 2
"""Two drawings of the same page differ by no more than rounding."""
_MANY_TIMES = ("pattern", "glyph")
_MOST_EDGE_PX = 4000


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    `path` and `after` are the PDFs before and after, `changed` the keys of the changed images among
    those of `pages`. The answer says of each page where it differs outside of them, in pixels of
    the proof; of each image how what is drawn of it looks before and after; and the pixels
    that an independent reader found of it. `password` opens the PDF after. `between` is the stretch
    of pages to draw, from 0 and without the last; all without.

    Raises:
        UnreadableFile: one of the PDFs cannot be read.
    """
    before, after = Path(order["path"]), Path(order["after"])
    plain = _readable(after, order["password"], str(order.get("between", "")))
    changed = _changed(before, plain, order)
    pages, drawn = [], dict[int, dict[str, Any]]()
    with pypdfium2.PdfDocument(before) as first, pypdfium2.PdfDocument(plain) as second:
        if len(first) != len(second):
            return {"pages": [], "drawn": {}, "found": {}, "count": [len(first), len(second)]}
        indexes = range(*order["between"]) if "between" in order else range(len(first))
        for index in indexes:
            tell([index - indexes.start, len(indexes)])
            old, new = (_drawn(pdf[index]) for pdf in (first, second))
            outlines = changed.on_pixels(index + 1, old.shape)
            is_everywhere = index + 1 in changed.many_times
            pages.append(_page(index + 1, old, new, outlines, is_everywhere))
            for key, matrix in outlines:
                beside = drawn_beside(old, new, matrix, changed.sizes[key])
                if beside is not None:
                    drawn[key] = poorer(drawn.get(key), beside)
        count = [len(first), len(second)]
    return {
        "pages": [page for page in pages if page is not None],
        "drawn": {str(key): values for key, values in drawn.items()},
        "found": _found(plain, changed.numbers),
        "count": count,
    }


@dataclass(slots=True)
class _Changed:
    """The changed images: their outlines by page, as shares of it; their objects in the copy; and
    the pages on which one is painted more often than is known.
    """

    outlines: dict[int, list[tuple[int, Matrix]]] = field(default_factory=dict)
    numbers: dict[int, int] = field(default_factory=dict)
    sizes: dict[int, tuple[int, int]] = field(default_factory=dict)
    many_times: set[int] = field(default_factory=set)

    def on_pixels(self, page: int, shape: tuple[int, ...]) -> list[tuple[int, Matrix]]:
        """The outlines on a drawn page, from the unit square."""
        to_pixels = Matrix.scaling(shape[1], shape[0])
        return [(key, one.then(to_pixels)) for key, one in self.outlines.get(page, [])]


def _changed(before: Path, after: Path, order: Order) -> _Changed:
    keys, found = set(order["changed"]), _Changed()
    with opened_pdf(before, order["name"]) as pdf:
        reader = PageReader(pdf, order["name"])
        numbers = page_numbers(order["pages"], len(reader.pages))
        boxes: dict[int, Matrix] = {}
        for one in held_images(reader, numbers):
            if one.key not in keys:
                continue
            found.sizes[one.key] = one.facts.px_w, one.facts.px_h
            for _, image in one.uses:
                page = image.page_number
                if page not in boxes:
                    boxes[page] = _shares(reader, page)
                outline = one.key, image.matrix.then(boxes[page])
                found.outlines.setdefault(page, []).append(outline)
                if image.source in _MANY_TIMES:
                    found.many_times.add(page)
    with opened_pdf(after, order["name"]) as pdf:
        reader = PageReader(pdf, order["name"])
        held = held_images(reader, page_numbers(order["pages"], len(reader.pages)))
        found.numbers = {one.key: one.facts.number for one in held if one.key in keys}
    return found


def _shares(reader: PageReader, number: int) -> Matrix:
    """From user space to shares of the page as it is seen."""
    page, _ = seen_page(attributes_of(reader.pages[number - 1]))
    space = seen_space(page.box, page.turn_deg)
    return space.matrix.then(Matrix.scaling(1 / space.width_pt, 1 / space.height_pt))


def _scale(width_pt: float, height_pt: float) -> float:
    """Pixels to a point: 100 ppi, and fewer on pages larger than any proof."""
    return min(PROOF_PPI / 72, _MOST_EDGE_PX / max(width_pt, height_pt, 1.0))


def _drawn(page: pypdfium2.PdfPage) -> numpy.ndarray:
    width, height = page.get_size()
    image = page.render(scale=_scale(width, height)).to_pil().convert("RGB")
    return numpy.asarray(image)


def _page(
    number: int,
    old: numpy.ndarray,
    new: numpy.ndarray,
    outlines: list[tuple[int, Matrix]],
    is_everywhere: bool,
) -> dict[str, Any] | None:
    """Where a page differs outside of what was changed; None where it does not."""
    if old.shape != new.shape:
        return {"page": number, "box": [0, 0, old.shape[1], old.shape[0]]}
    differs = (abs(old.astype(numpy.int16) - new) > _SAME_LEVELS).any(axis=2)
    if is_everywhere or not differs.any():
        return None
    allowed = Image.new("L", (old.shape[1], old.shape[0]), 0)
    pen = ImageDraw.Draw(allowed)
    for _, matrix in outlines:
        pen.polygon(matrix.corners, fill=255, outline=255)
    grown = ndimage.maximum_filter(numpy.asarray(allowed), 2 * _AROUND_PX + 1)
    outside = differs & (grown == 0)
    if not outside.any():
        return None
    rows, columns = numpy.nonzero(outside)
    box = [columns.min(), rows.min(), columns.max() + 1, rows.max() + 1]
    return {"page": number, "box": [int(one) for one in box]}


def _readable(path: Path, password: str, name: str) -> Path:
    """The same PDF without encryption, which pypdf does not undo by itself."""
    with pikepdf.open(path, password=password) as pdf:
        if not pdf.is_encrypted:
            return path
        plain = path.with_name(f"plain {name}.pdf")
        pdf.save(plain, object_stream_mode=pikepdf.ObjectStreamMode.preserve)
    return plain


def _found(path: Path, numbers: dict[int, int]) -> dict[str, list[int]]:
    """What pypdf finds of images by key: width and height, as their dictionaries say."""
    reader = pypdf.PdfReader(path)
    found = {}
    for key, number in numbers.items():
        image: Any = reader.get_object(pypdf.generic.IndirectObject(number, 0, reader))
        found[str(key)] = [int(image["/Width"]), int(image["/Height"])]
    return found
