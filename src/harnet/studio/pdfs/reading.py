"""Reading a stranger's PDF in a process of its own, which hands it over stretch by stretch."""

import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from harnet.core.painted import ReadPage, page_from
from harnet.media.bounded import Order, work_apart
from harnet.media.errors import UnreadableFile

FIRST_PAGES, PAGES_AT_ONCE = 8, 120
"""The first stretch is short, so that something is seen soon."""
_SECONDS, _MEMORY_BYTES = 600, 3_000_000_000
_MOST_PICTURES = 200_000


@dataclass(frozen=True, slots=True)
class Stretch:
    """Some pages of a PDF in a row, with the pictures that they paint.

    `pictures` are as `painted_from` takes them, and so are `images`, which are the pieces of
    pictures that a producer cut, where they were asked for. `whole` is what the PDF says of itself.
    """

    page_count: int
    whole: Mapping[str, Any]
    pages: Sequence[ReadPage]
    pictures: Sequence[dict[str, Any]]
    images: Sequence[dict[str, Any]]
    loose_fonts: Sequence[str]


def read_apart(
    path: Path,
    name: str,
    folder: Path,
    take: Callable[[Stretch], None],
    *,
    with_images: bool = False,
) -> None:
    """Reads a PDF; each stretch is given to `take` while the next ones are read.

    `folder` is where stretches lie on their way. Whatever `take` raises ends the reading.

    Raises:
        UnreadableFile: it cannot be read, takes too long, or paints more than can be looked at.
    """
    count = 0

    def told(number: int) -> None:
        nonlocal count
        file = folder / f"stretch {number}.json"
        found = json.loads(file.read_text())
        file.unlink()
        count += len(found["pictures"])
        if count > _MOST_PICTURES:
            raise UnreadableFile(name, f"it paints more than {_MOST_PICTURES} pictures")
        take(Stretch(**{**found, "pages": [page_from(page) for page in found["pages"]]}))

    work_apart(
        "harnet.media.pdf.checkwork",
        order_of(path, name, folder, with_images),
        name=name,
        seconds=_SECONDS,
        memory_bytes=_MEMORY_BYTES,
        tell=told,
    )


def order_of(path: Path, name: str, folder: Path, with_images: bool) -> Order:
    """What `harnet.media.pdf.checkwork` is to do."""
    return {
        "path": str(path),
        "name": name,
        "folder": str(folder),
        "first_pages": FIRST_PAGES,
        "pages_at_once": PAGES_AT_ONCE,
        "images": with_images,
    }
