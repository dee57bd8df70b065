"""Every image that a PDF paints, with the matrix that draws it (formula 1)."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import pikepdf

from harnet.core.density import EffectiveDensity, effective_density
from harnet.core.geometry import Matrix
from harnet.core.picture import Colour
from harnet.media.errors import UnreadableFile
from harnet.media.limits import MAX_FORM_DEPTH
from harnet.media.pdf.clip import Bounds
from harnet.media.pdf.content import bounds_from
from harnet.media.pdf.fonts import LooseFonts
from harnet.media.pdf.imagefacts import ImageFacts
from harnet.media.pdf.layers import Key, layers_off
from harnet.media.pdf.opening import opened_pdf
from harnet.media.pdf.transparency import Transparency
from harnet.media.pdf.walk import MOST_PAINTED, PageWalk, TooManyImages

_LETTER: Bounds = (0.0, 0.0, 612.0, 792.0)
"""Where a page says no size; what readers take then, from memory."""


@dataclass(frozen=True, slots=True)
class PaintedImage:
    """One image as one page paints it; `matrix` maps the unit square to points, y upwards.

    `unseen` says why it cannot be seen, empty where it can; `source` is page, glyph or annotation.
    """

    page_number: int
    facts: ImageFacts
    matrix: Matrix
    unseen: str = ""
    source: str = "page"

    @property
    def px_w(self) -> int:
        """Pixels across."""
        return self.facts.px_w

    @property
    def px_h(self) -> int:
        """Pixels down."""
        return self.facts.px_h

    @property
    def colour(self) -> Colour:
        """The colour model of its samples."""
        return self.facts.colour

    @property
    def bits(self) -> int:
        """Bits a channel."""
        return self.facts.bits

    @property
    def density(self) -> EffectiveDensity:
        """The effective density in ppi."""
        return effective_density(self.px_w, self.px_h, self.matrix)

    @property
    def width_pt(self) -> float:
        """Length of its lower edge on the page."""
        return self.matrix.u_length

    @property
    def height_pt(self) -> float:
        """Length of its side edge on the page."""
        return self.matrix.v_length


@dataclass(frozen=True, slots=True)
class SeenPage:
    """What is seen of a page: the crop box within the media box in points, and its turn.

    `trim` and `bleed` are the boxes that it states, in points. `left_out` says what of its content
    was not followed, empty where all was.
    """

    number: int
    box: Bounds
    rotate_deg: int
    trim: Bounds | None = None
    bleed: Bounds | None = None
    is_transparent: bool = False
    left_out: str = ""


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
    pdf: pikepdf.Pdf,
    name: str,
    first: int = 1,
    last: int | None = None,
    fonts: LooseFonts | None = None,
) -> Iterator[tuple[SeenPage, list[PaintedImage]]]:
    """Page by page, from `first` to `last`: what is seen of it, and the images it paints.

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
    for number, page in enumerate(list(pdf.pages)[first - 1 : last], first):
        seen, unit = seen_page(page, number)
        resources = _resources(page)
        walk = PageWalk(facts, seen.box, off)
        base = Matrix.scaling(unit, unit)
        try:
            images = [
                PaintedImage(number, one.facts, one.matrix, one.unseen, one.source)
                for one in walk.page(page, resources, base)
            ]
        except TooManyImages:
            raise UnreadableFile(
                name, f"page {number} paints more than {MOST_PAINTED} images"
            ) from None
        mixes = transparency.on_page(page, resources)
        if fonts is not None:
            fonts.look_at(page, resources)
        yield replace(seen, is_transparent=mixes, left_out=walk.left_out), images


def seen_page(page: pikepdf.Page, number: int) -> tuple[SeenPage, float]:
    """What is seen of a page, in points, and its `UserUnit`: points a unit of its own."""
    unit = _user_unit(page)
    trim, bleed = (_stated_box(page, name, unit) for name in ("/TrimBox", "/BleedBox"))
    return SeenPage(number, _seen_box(page, unit), _turn(page), trim, bleed), unit


def _stated_box(page: pikepdf.Page, name: str, unit: float) -> Bounds | None:
    """A box of the page itself; trim and bleed are not inherited (ISO 32000-2, 7.7.3.3)."""
    box = bounds_from(page.obj.get(name))
    if box is None or box[2] <= box[0] or box[3] <= box[1]:
        return None
    left, bottom, right, top = (edge * unit for edge in box)
    return left, bottom, right, top


def _user_unit(page: pikepdf.Page) -> float:
    try:
        unit = float(page.obj.get("/UserUnit", 1))
    except (TypeError, ValueError):
        return 1.0
    return unit if unit > 0 else 1.0


def _turn(page: pikepdf.Page) -> int:
    try:
        return int(_inherited(page, "/Rotate") or 0) % 360 // 90 * 90
    except (TypeError, ValueError):
        return 0


def _seen_box(page: pikepdf.Page, unit: float) -> Bounds:
    media = bounds_from(_inherited(page, "/MediaBox")) or _LETTER
    crop = bounds_from(_inherited(page, "/CropBox")) or media
    left, bottom = max(media[0], crop[0]), max(media[1], crop[1])
    right, top = min(media[2], crop[2]), min(media[3], crop[3])
    if right <= left or top <= bottom:
        left, bottom, right, top = media
    return left * unit, bottom * unit, right * unit, top * unit


def _resources(page: pikepdf.Page) -> Any:
    found = _inherited(page, "/Resources")
    return found if isinstance(found, pikepdf.Dictionary) else pikepdf.Dictionary()


def _inherited(page: pikepdf.Page, name: str) -> Any:
    """An attribute of the page or of the nodes above it (ISO 32000-2, 7.7.3.4)."""
    node: Any = page.obj
    seen = 0
    while isinstance(node, pikepdf.Dictionary) and seen < MAX_FORM_DEPTH:
        if name in node:
            return node[name]
        node, seen = node.get("/Parent"), seen + 1
    return None
