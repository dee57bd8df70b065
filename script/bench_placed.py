"""How long a PDF's placements take, read as the process reads that Harnet gives a stranger's PDF.

A process that holds what that one holds and no more: run as `python bench_placed.py FILE`, it
prints the seconds. Starting it is not counted, as the reader is at work when the pages come.
"""

import gc
import sys
import time
from pathlib import Path

from harnet.media.pdf.opening.opened import opened_pdf
from harnet.media.pdf.reading.images import PageReader
from harnet.media.pdf.reading.side_by_side import in_order, stretches_of
from harnet.media.pdf.walking.image_occurrence import ImageOccurrence
from harnet.studio.documents.reading import FIRST_PAGES, PAGES_AT_ONCE


def placed(reader: PageReader, number: int, pages: range) -> list[tuple[object, ...]]:
    """What `pdfimages -list` tells of the images of some pages."""
    return [placed_row(image) for page in pages for image in reader.page(page)[1]]


def placed_row(image: ImageOccurrence) -> tuple[object, ...]:
    """One image's figures."""
    facts, density = image.facts, image.density
    size = (facts.px_w, facts.px_h)
    return image.page_number, facts.number, *size, facts.colour.value, density.x, density.y


def all_placed(path: Path) -> list[tuple[object, ...]]:
    """The images of all pages, in order."""
    with opened_pdf(path) as pdf:
        stretches = stretches_of(len(pdf.pages), FIRST_PAGES, PAGES_AT_ONCE)
        found = in_order(path, PageReader(pdf, path.name), stretches, placed)
        return [row for rows in found for row in rows]


if __name__ == "__main__":
    gc.freeze()
    start = time.perf_counter()
    all_placed(Path(sys.argv[1]))
    print(time.perf_counter() - start)
