"""Every image that a PDF paints, with the matrix that draws it (formula 1)."""

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from time import process_time

import pikepdf

from harnet.core.documents.document import DocumentPage
from harnet.core.measure.geometry import Matrix
from harnet.media.errors import UnreadableFile
from harnet.media.pdf.opening.opened import opened_pdf
from harnet.media.pdf.reading.fonts import FONT_OPERATORS, LooseFonts
from harnet.media.pdf.reading.transparency import Transparency
from harnet.media.pdf.reading.visible_page import attributes_of, resources_of, seen_page
from harnet.media.pdf.walking.image_facts import ImageFacts
from harnet.media.pdf.walking.image_occurrence import ImageOccurrence
from harnet.media.pdf.walking.layers import Key, layers_off
from harnet.media.pdf.walking.walk import MOST_PAINTED, PageWalk, TooManyImages


def painted_images(path: Path, name: str | None = None) -> tuple[int, list[ImageOccurrence]]:
    """The number of pages, and every image in the order it is painted.

    Image masks and inline images count, soft masks do not; forms, tiling patterns, Type 3 glyphs
    and annotations are entered, their matrices multiplied in, and `UserUnit` scales all lengths
    (ISO 32000-2, 8.3, 8.9, 8.10, 9.6.4, 12.5.5).

    Raises:
        UnreadableFile: the PDF cannot be read.
    """
    shown = name or path.name
    found: list[ImageOccurrence] = []
    with opened_pdf(path, shown) as pdf:
        count = len(pdf.pages)
        for _, images in pages_with_images(pdf, shown):
            found += images
    return count, found


def pages_with_images(
    pdf: pikepdf.Pdf, name: str
) -> Iterator[tuple[DocumentPage, list[ImageOccurrence]]]:
    """Page by page: what is seen of it, and the images it paints.

    Raises:
        UnreadableFile: a page shows more images than anybody could look at.
    """
    reader = PageReader(pdf, name)
    for number in range(1, len(reader.pages) + 1):
        yield reader.page(number)


class PageReader:
    """Reads pages of an open PDF; what one of them has shown is known for the others.

    `name` is the file's, for errors. `fonts` gathers the fonts that are used by name alone on the
    pages that it is asked to look at. With `processor_seconds` it stops once this process has
    worked for so long, and says so on the pages that are left.
    """

    def __init__(self, pdf: pikepdf.Pdf, name: str, processor_seconds: float | None = None) -> None:
        self.name = name
        self.processor_seconds = processor_seconds
        self._pdf = pdf
        self.is_damaged = False
        """Whether something was mended, or lost, as pages were read."""
        self.pages = list(pdf.pages)
        self.fonts = LooseFonts()
        self._facts: dict[Key, ImageFacts | None] = {}
        self._pictorial: dict[Key, bool] = {}
        self._off = layers_off(pdf)
        self._transparency = Transparency(self._is_see_through)

    def page(
        self, number: int, looks_at_fonts: bool = False
    ) -> tuple[DocumentPage, list[ImageOccurrence]]:
        """What is seen of a page, counted from 1, and the images that it paints.

        Raises:
            UnreadableFile: it shows more images than anybody could look at.
        """
        until = self.processor_seconds
        if until is not None and process_time() > until:
            seen, _ = seen_page(attributes_of(self.pages[number - 1]))
            left_out = f"content that takes longer than {until:g} seconds to read"
            return replace(seen, left_out=left_out), []
        self._pdf.get_warnings()
        found = self._read_page(number, looks_at_fonts)
        warnings = [str(one) for one in self._pdf.get_warnings()]
        if warnings:
            # The library mended something on its way; each stream is looked at by itself then.
            self.is_damaged = self.is_damaged or any(map(_is_damage, warnings))
            found = self._read_page(number, looks_at_fonts, is_careful=True)
            self._pdf.get_warnings()
        return found

    def _read_page(
        self, number: int, looks_at_fonts: bool, is_careful: bool = False
    ) -> tuple[DocumentPage, list[ImageOccurrence]]:
        page = self.pages[number - 1]
        stated = attributes_of(page)
        seen, unit = seen_page(stated)
        resources = resources_of(stated)
        walk = PageWalk(
            number=number,
            facts=self._facts,
            page_box=seen.box,
            off=self._off,
            pictorial=self._pictorial,
        )
        walk.parsed.is_careful, walk.until = is_careful, self.processor_seconds
        seeks = looks_at_fonts and self.fonts.are_sought_in(page, resources)
        also: frozenset[str] = FONT_OPERATORS if seeks else frozenset()
        try:
            walk.page(page, resources, Matrix.scaling(unit, unit), also)
        except TooManyImages:
            raise UnreadableFile(
                self.name, f"page {number} shows more than {MOST_PAINTED} images"
            ) from None
        mixes = self._transparency.on_page(page, resources)
        if looks_at_fonts and not walk.is_late():
            self.fonts.look_at(page, resources, walk.whole if seeks else ())
        return replace(seen, is_transparent=mixes, left_out=walk.left_out), walk.images

    def _is_see_through(self, key: Key) -> bool | None:
        """Whether an image that was looked at is; None where none was."""
        found = self._facts.get(key)
        return found.has_alpha if found else None


_HARMLESS = ("duplicate", "extraneous whitespace")


def _is_damage(warning: str) -> bool:
    """Whether a warning of the library speaks of something that was lost or guessed."""
    return not any(words in warning for words in _HARMLESS)
