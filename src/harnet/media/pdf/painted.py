"""Every image that a PDF paints, with the matrix that draws it (formula 1)."""

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pikepdf

from harnet.core.geometry import Matrix
from harnet.core.painted import ReadPage
from harnet.media.errors import UnreadableFile
from harnet.media.pdf.fonts import LooseFonts
from harnet.media.pdf.imagefacts import ImageFacts
from harnet.media.pdf.layers import Key, layers_off
from harnet.media.pdf.opening import opened_pdf
from harnet.media.pdf.paintedimage import PaintedImage
from harnet.media.pdf.seenpage import attributes_of, resources_of, seen_page
from harnet.media.pdf.transparency import Transparency
from harnet.media.pdf.walk import MOST_PAINTED, PageWalk, TooManyImages


def painted_images(path: Path, name: str | None = None) -> tuple[int, list[PaintedImage]]:
    """The number of pages, and every image in the order it is painted.

    Image masks and inline images count, soft masks do not; forms, tiling patterns, Type 3 glyphs
    and annotations are entered, their matrices multiplied in, and `UserUnit` scales all lengths
    (ISO 32000-2, 8.3, 8.9, 8.10, 9.6.4, 12.5.5).

    Raises:
        UnreadableFile: the PDF cannot be read.
    """
    shown = name or path.name
    found: list[PaintedImage] = []
    with opened_pdf(path, shown) as pdf:
        count = len(pdf.pages)
        for _, images in pages_with_images(pdf, shown):
            found += images
    return count, found


def pages_with_images(
    pdf: pikepdf.Pdf, name: str, fonts: LooseFonts | None = None
) -> Iterator[tuple[ReadPage, list[PaintedImage]]]:
    """Page by page: what is seen of it, and the images it paints.

    `fonts`, where given, gathers the fonts that are used by name alone.

    Raises:
        UnreadableFile: a page paints more images than anybody could look at.
    """
    facts: dict[Key, ImageFacts | None] = {}
    off = layers_off(pdf)

    def is_see_through(key: Key) -> bool | None:
        found = facts.get(key)
        return found.has_alpha if found else None

    transparency = Transparency(is_see_through)
    for number, page in enumerate(list(pdf.pages), 1):
        stated = attributes_of(page)
        seen, unit = seen_page(stated)
        resources = resources_of(stated)
        walk = PageWalk(number, facts, seen.box, off)
        base = Matrix.scaling(unit, unit)
        try:
            images = list(walk.page(page, resources, base))
        except TooManyImages:
            raise UnreadableFile(
                name, f"page {number} paints more than {MOST_PAINTED} images"
            ) from None
        mixes = transparency.on_page(page, resources)
        if fonts is not None:
            fonts.look_at(page, resources)
        yield replace(seen, is_transparent=mixes, left_out=walk.left_out), images
