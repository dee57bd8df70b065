"""Writing the images of an untrusted PDF to files, in a process of its own with limits."""

from collections import defaultdict
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import pikepdf

from harnet.core.documents.extraction import file_stem
from harnet.core.documents.strips import Piece, wholes_of
from harnet.core.errors import ValueOutOfRange
from harnet.core.output.page_images import page_numbers
from harnet.media.bounded import Order, Tell
from harnet.media.errors import UnreadableFile
from harnet.media.pdf.extracting.image_file import write_image_file
from harnet.media.pdf.extracting.inline import stream_of_inline
from harnet.media.pdf.opening.opened import opened_pdf
from harnet.media.pdf.reading.check_process import images_of, kind_of
from harnet.media.pdf.reading.images import PageReader
from harnet.media.pdf.samples.space import UnreadableSamples
from harnet.media.pdf.walking.image_occurrence import ImageOccurrence

_LEAST_PPI, _MOST_PPI = 0.01, 100_000.0


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    `pages` is a text such as 1-3; `chosen` are pairs of page and place among its pictures, None for
    all; `with_alpha` takes masks along. Files go into `folder`; the answer has a row for each time
    that an image is painted, with its `file` and `how`.

    Raises:
        UnreadableFile: the PDF cannot be read, or has no such pages.
    """
    name, folder = order["name"], Path(order["folder"])
    with opened_pdf(Path(order["path"]), name) as pdf:
        reader = PageReader(pdf, name)
        count = len(reader.pages)
        try:
            numbers = page_numbers(order["pages"], count)
        except ValueOutOfRange as error:
            raise UnreadableFile(name, str(error)) from None
        chosen = order["chosen"]
        wanted = None if chosen is None else {tuple(one) for one in chosen}
        found = _Found()
        for number in numbers:
            _, images = reader.page(number)
            found.take(images, _places(images, number, wanted))
        return {"rows": found.written(pdf, folder, count, bool(order["with_alpha"]), tell)}


def _places(
    images: list[ImageOccurrence], page: int, wanted: set[tuple[Any, ...]] | None
) -> set[int]:
    """The images of a page that are wanted, by their index; pieces go with the whole."""
    if wanted is None:
        return set(range(len(images)))
    pieces = [Piece(one.px_w, one.px_h, one.matrix, kind_of(one)) for one in images]
    wholes = enumerate(wholes_of(pieces), 1)
    return {index for place, one in wholes if (page, place) in wanted for index in one.pieces}


@dataclass(slots=True)
class _Found:
    """Images in painting order, with those that are one object under one key."""

    rows: list[dict[str, Any]] = field(default_factory=list)
    keys: list[tuple[Any, ...]] = field(default_factory=list)
    uses: dict[tuple[Any, ...], list[ImageOccurrence]] = field(
        default_factory=lambda: defaultdict(list)
    )

    def take(self, images: list[ImageOccurrence], wanted: set[int]) -> None:
        """Takes the images of a page."""
        for index, row in enumerate(images_of(images)):
            if index not in wanted:
                continue
            image = images[index]
            # An inline image is one of its own, wherever its form is used again.
            key = (
                (image.facts.number,)
                if image.facts.inline is None
                else (0, id(image.facts.inline[0]))
            )
            self.rows.append(row)
            self.keys.append(key)
            self.uses[key].append(image)

    def written(
        self, pdf: pikepdf.Pdf, folder: Path, page_count: int, with_alpha: bool, tell: Tell
    ) -> list[dict[str, Any]]:
        """Writes each image once; the rows with the names of the files."""
        done: dict[tuple[Any, ...], tuple[str, str]] = {}
        for key, row in zip(self.keys, self.rows, strict=True):
            if key in done:
                continue
            stem = folder / file_stem(row["page_number"], page_count, row["place"])
            done[key] = _write(pdf, self.uses[key], stem, with_alpha)
            tell([len(done), len(self.uses)])
        named = zip(self.rows, self.keys, strict=True)
        return [row | dict(zip(("file", "how"), done[key], strict=True)) for row, key in named]


def _write(
    pdf: pikepdf.Pdf, uses: list[ImageOccurrence], stem: Path, with_alpha: bool
) -> tuple[str, str]:
    facts = uses[0].facts
    largest = min(uses, key=lambda use: use.density.judged)
    density = tuple(
        min(max(one, _LEAST_PPI), _MOST_PPI) for one in (largest.density.x, largest.density.y)
    )
    try:
        if facts.inline is not None:
            stream, resources = stream_of_inline(pdf, *facts.inline), facts.inline[1]
        else:
            stream, resources = pdf.get_object(facts.number, 0), pikepdf.Dictionary()
        made = write_image_file(
            stream, resources, stem, (density[0], density[1]), with_alpha=with_alpha
        )
    except UnreadableSamples as error:
        return "", str(error)
    return made.path.name, made.how
