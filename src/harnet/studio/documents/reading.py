"""Reading an untrusted document in a process of its own; a PDF comes stretch by stretch."""

import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from harnet.core.documents.document import DocumentPage, page_from
from harnet.media.bounded import Order, work_apart
from harnet.media.errors import BeyondBounds, UnreadableFile
from harnet.media.packages.signature import FileKind, document_kind

FIRST_PAGES, PAGES_AT_ONCE = 8, 40
"""The first stretch is short, so that something is seen soon."""
_SECONDS, _MEMORY_BYTES = 600, 3_000_000_000
QUICK_SECONDS, QUICK_MEMORY_BYTES = 10.0, 1_500_000_000
"""What a command gives a file unless it is told to be patient: processor time for each of two
readers, and address space, of which libraries take a third.
"""
_MOST_PICTURES = 200_000
_PDF_READER = "harnet.media.pdf.reading.check_process"
_PACKAGE_READER = "harnet.media.packages.check_process"


_SOFT = 0.5
"""A reader stops by itself at this share of its time, so that what it found is told."""
_NO_PAGE = DocumentPage(box=(0.0, 0.0, 612.0, 792.0), turn_deg=0, trim=(0.0, 0.0, 612.0, 792.0))
"""What stands for a page that was not read."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PageRun:
    """Some pages of a PDF in a row, with the pictures that they paint.

    `pictures` are as `painted_from` takes them, and so are `images`, which are the pieces of
    pictures that a producer cut, where they were asked for: the same list where nothing was cut.
    `whole` is what the document says of itself.
    """

    page_count: int
    whole: Mapping[str, Any]
    pages: Sequence[DocumentPage]
    pictures: Sequence[dict[str, Any]]
    images: Sequence[dict[str, Any]]
    unembedded_fonts: Sequence[str]


def read_apart(
    path: Path,
    name: str,
    folder: Path,
    take: Callable[[PageRun], None],
    *,
    with_images: bool = False,
    patience: float | None = None,
    beside: Path | None = None,
) -> None:
    """Reads a document; each stretch is given to `take` while the next ones are read.

    `folder` is where stretches lie on their way. Whatever `take` raises ends the reading. With a
    `patience` it is given that many times the quick bounds, else those of work in the background.
    Where a PDF goes beyond its bounds, the stretches up to there stand, and a last one says where
    reading stopped. `beside` is the folder of pictures that an SVG refers to; None follows none.

    Raises:
        UnreadableFile: it cannot be read, or shows more than can be looked at.
        BeyondBounds: it shows more images than anybody could look at.
    """
    count = seen = 0
    about: PageRun | None = None

    def report_page(number: int) -> None:
        nonlocal count, seen, about
        file = folder / f"stretch {number}.json"
        found = json.loads(file.read_text())
        file.unlink()
        count += len(found["pictures"])
        if count > _MOST_PICTURES:
            raise UnreadableFile(name, f"it shows more than {_MOST_PICTURES} images")
        if found["images"] is None:
            found["images"] = found["pictures"]
        about = PageRun(**{**found, "pages": [page_from(page) for page in found["pages"]]})
        seen += len(about.pages)
        take(about)

    is_quick = patience is not None
    quick = QUICK_SECONDS * (patience or 1.0)
    memory = round(QUICK_MEMORY_BYTES * max(1.0, patience or 1.0)) if is_quick else _MEMORY_BYTES
    is_pdf = document_kind(path, name) is FileKind.PDF
    try:
        work_apart(
            _PDF_READER if is_pdf else _PACKAGE_READER,
            order_of(path, name, folder, with_images)
            | {"beside": str(beside) if beside is not None else None}
            | {"processor_seconds": _SOFT * quick if is_quick else None},
            name=name,
            seconds=6 * quick if is_quick else _SECONDS,
            memory_bytes=memory,
            processor_seconds=quick if is_quick else None,
            tell=report_page,
        )
    except BeyondBounds as error:
        if about is None:
            raise
        rest = f"pages from {seen + 1} on: {error.reason}"
        take(replace(about, pages=_unread(about.page_count - seen, rest), pictures=(), images=()))


def _unread(number: int, why: str) -> list[DocumentPage]:
    """Pages that were not read: the first says why."""
    pages = [replace(_NO_PAGE, left_out=why), *[_NO_PAGE] * (number - 1)]
    return pages[: max(0, number)]


def order_of(path: Path, name: str, folder: Path, with_images: bool) -> Order:
    """What `harnet.media.pdf.reading.check_process` is to do."""
    return {
        "path": str(path),
        "name": name,
        "folder": str(folder),
        "first_pages": FIRST_PAGES,
        "pages_at_once": PAGES_AT_ONCE,
        "images": with_images,
    }
