"""The images of a document as files: written in a process of its own, with a table of them."""

from collections.abc import Callable, Sequence
from pathlib import Path

from harnet.core.documents.extraction import ExtractedImage, table_of
from harnet.core.documents.images import painted_from
from harnet.studio.documents.making.apart import document_apart

TABLE_NAME = "images.csv"


def extract_images(
    path: Path,
    name: str,
    folder: Path,
    *,
    pages: str = "all",
    chosen: Sequence[tuple[int, int]] | None = None,
    with_alpha: bool = False,
    tell: Callable[[int, int], None] = lambda _done, _of: None,
    look_up: Callable[[], None] | None = None,
) -> list[ExtractedImage]:
    """Writes images of a document and a table of them into a folder that is there and empty.

    `pages` is all, or numbers and ranges; `chosen` are pairs of page and place among its pictures.
    Whatever `tell` or `look_up` raises ends the work. The table has a row for each time that an
    image is painted.

    Raises:
        UnreadableFile: the document cannot be read, or has no such pages.
    """
    answer = document_apart(
        "extracting",
        path,
        name,
        {
            "folder": str(folder),
            "pages": pages,
            "chosen": None if chosen is None else [list(one) for one in chosen],
            "with_alpha": with_alpha,
        },
        tell,
        look_up,
    )
    extracted = []
    for number, row in enumerate(answer["rows"], 1):
        file, how = row.pop("file"), row.pop("how")
        extracted.append(ExtractedImage(image=painted_from(number, row), file=file, how=how))
    (folder / TABLE_NAME).write_text(table_of(extracted))
    return extracted
