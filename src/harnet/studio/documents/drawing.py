"""Pages of documents and pictures in them as they are looked at, drawn in a process of its own."""

import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from harnet.core.documents.document import DocumentFacts, DocumentPage
from harnet.core.documents.images import ImageOnPage
from harnet.core.documents.sketch import mark_values
from harnet.media.bounded import Order, work_apart

PAGE_SECONDS, PAGE_MEMORY_BYTES = 60, 3_000_000_000
"""The bounds of the process that draws a page."""
LOOK_PX = 1200
"""The longer edge of a picture as it is looked at beside its figures."""
_EDGE_PX = 1600
"""The longer edge of a page as it is looked at."""
PDF_DRAWER, SKETCHER = "harnet.media.pagedrawing.preview", "harnet.media.packages.drawing_process"


@dataclass(frozen=True, slots=True)
class Drawings:
    """What draws a page by its number, and a picture that stands on no page; as PNG."""

    page: Callable[[int], bytes]
    image: Callable[[ImageOnPage], bytes]


def page_order(name: str, number: int) -> Order:
    """What is ordered of `PDF_DRAWER` to draw a page of a PDF as it is seen."""
    return {"is_pdf": True, "is_whole": True, "page": number, "edge_px": _EDGE_PX, "name": name}


def sketch_order(name: str, page: DocumentPage) -> Order:
    """What is ordered of `SKETCHER` to draw a page of another document."""
    left, bottom, right, top = page.box
    return {
        "marks": [mark_values(one) for one in page.marks],
        "size": [right - left, top - bottom],
        "edge_px": _EDGE_PX,
        "name": name,
    }


def look_order(name: str, picture: ImageOnPage, edge_px: int | None) -> Order:
    """What is ordered of `SKETCHER` to show a picture in a document, of at most so many pixels."""
    return {"part": picture.part, "edge_px": edge_px, "name": name}


def drawings_of_file(source: Path, read: DocumentFacts) -> Drawings:
    """What draws a document that is a file, each page as PNG.

    Its functions raise UnreadableFile for what cannot be drawn.
    """

    def page(number: int) -> bytes:
        if not read.format.is_package:
            return _drawn(source, page_order(read.name, number), PDF_DRAWER)
        return _drawn(source, sketch_order(read.name, read.pages[number - 1]), SKETCHER)

    def image(picture: ImageOnPage) -> bytes:
        return _drawn(source, look_order(read.name, picture, LOOK_PX), SKETCHER)

    return Drawings(page, image)


def _drawn(source: Path, order: Order, by: str) -> bytes:
    with tempfile.TemporaryDirectory(prefix="harnet-") as folder:
        look = Path(folder) / "look.png"
        work_apart(
            by,
            order | {"path": str(source), "look": str(look)},
            name=order["name"],
            seconds=PAGE_SECONDS,
            memory_bytes=PAGE_MEMORY_BYTES,
        )
        return look.read_bytes()
