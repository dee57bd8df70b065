"""Pages of PDFs as they are looked at, drawn in a process of its own."""

import tempfile
from pathlib import Path

from harnet.media.bounded import Order, work_apart

PAGE_SECONDS, PAGE_MEMORY_BYTES = 60, 3_000_000_000
"""The bounds of the process that draws a page."""
_EDGE_PX = 1600
"""The longer edge of a page as it is looked at."""


def page_order(name: str, number: int) -> Order:
    """What is ordered of `harnet.media.pagedrawing.preview` to draw a page as it is seen."""
    return {"is_pdf": True, "is_whole": True, "page": number, "edge_px": _EDGE_PX, "name": name}


def page_of_file(source: Path, name: str, number: int) -> bytes:
    """A page of a PDF as PNG.

    Raises:
        UnreadableFile: it cannot be drawn.
    """
    with tempfile.TemporaryDirectory(prefix="harnet-") as folder:
        look = Path(folder) / "look.png"
        work_apart(
            "harnet.media.pagedrawing.preview",
            page_order(name, number) | {"path": str(source), "look": str(look)},
            name=name,
            seconds=PAGE_SECONDS,
            memory_bytes=PAGE_MEMORY_BYTES,
        )
        return look.read_bytes()
