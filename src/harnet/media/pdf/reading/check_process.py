"""Reading an untrusted PDF, in a process of its own with limits.

Every stretch of pages is written to a file as JSON, since it may be long: the pages, and the
pictures that they paint, those that a producer cut put together again.
"""

import json
from dataclasses import dataclass, field, replace
from itertools import islice
from pathlib import Path
from typing import Any

import pikepdf

from harnet.core.documents.document import DocumentPage, page_values
from harnet.core.documents.strips import JoinedImage, Piece, wholes_of
from harnet.core.documents.userspace import placement_from, seen_space
from harnet.core.layout.page_edges import AT_EDGE_PT, sides_without_bleed
from harnet.core.layout.placing import Source
from harnet.media.bounded import Order, Tell
from harnet.media.pdf.opening.opened import opened_and_told
from harnet.media.pdf.reading.images import PageReader
from harnet.media.pdf.reading.intent import intent_colour
from harnet.media.pdf.reading.side_by_side import HANDS, in_order, stretches_of
from harnet.media.pdf.walking.clip import is_axis_aligned, unit_bounds
from harnet.media.pdf.walking.content import NONSENSE
from harnet.media.pdf.walking.image_occurrence import ImageOccurrence

MOST_PICTURES_A_PAGE = 20_000
_USUAL_BLEED_PT = 3 * 72 / 25.4
"""Common practice, no source: 3 mm."""


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    The first stretch has `first_pages`, the others `pages_at_once`; each is written to `folder` and
    its number told. `images` asks for every piece as well.
    """
    path = Path(order["path"])
    with opened_and_told(path, order["name"]) as (pdf, is_damaged):
        count, whole = len(pdf.pages), _whole(pdf) | {"is_damaged": is_damaged}

        def look(reader: PageReader, number: int, pages: range) -> int:
            stretch = _Stretch()
            for page in pages:
                stretch.take(*reader.page(page, looks_at_fonts=True), bool(order["images"]))
            fonts = sorted(_storable(name)[:200] for name in reader.fonts.names)
            about = whole | {"is_damaged": is_damaged or reader.is_damaged}
            values = stretch.values | {
                "page_count": count,
                "whole": about,
                "unembedded_fonts": fonts,
            }
            file = Path(order["folder"]) / f"stretch {number}.json"
            file.write_text(json.dumps(values))
            return number

        reader = PageReader(pdf, order["name"], order.get("processor_seconds"))
        if count:
            # What is known of the whole goes first, whatever the pages bring.
            look(reader, 0, range(0))
            tell(0)
        stretches = stretches_of(count, order["first_pages"], order["pages_at_once"])
        # A damaged PDF would be mended once more by each of several processes.
        hands = 1 if is_damaged else HANDS
        for number in in_order(path, reader, stretches, look, hands):
            tell(number)
    return {}


@dataclass(slots=True)
class _Stretch:
    """Pages in a row as plain values."""

    pages: list[dict[str, Any]] = field(default_factory=list)
    pictures: list[dict[str, Any]] = field(default_factory=list)
    images: list[dict[str, Any]] = field(default_factory=list)

    def take(self, page: DocumentPage, images: list[ImageOccurrence], with_images: bool) -> None:
        """Imports a page."""
        rows = pictures_of(images, MOST_PICTURES_A_PAGE + 1)
        page = replace(page, is_bare=is_bare(page, images[:MOST_PICTURES_A_PAGE]))
        if len(rows) > MOST_PICTURES_A_PAGE:
            page = replace(page, left_out=f"images beyond the first {MOST_PICTURES_A_PAGE}")
        self.pages.append(page_values(page))
        self.pictures += rows[:MOST_PICTURES_A_PAGE]
        if with_images:
            # Where none was joined and none left out, each image is a picture.
            self.images += rows if len(rows) == len(images) else images_of(images)

    @property
    def values(self) -> dict[str, Any]:
        """What it holds, by name."""
        images = None if self.images == self.pictures else self.images
        return {"pages": self.pages, "pictures": self.pictures, "images": images}


def is_bare(page: DocumentPage, images: list[ImageOccurrence]) -> bool:
    """Whether a picture meets the edge where the page is cut, and nothing lies beyond it."""
    if page.bleed_pt:
        return False
    space = seen_space(page.cut, page.turn_deg)
    left, bottom, right, top = page.cut

    def meets_edge(image: ImageOccurrence) -> bool:
        if is_axis_aligned(image.matrix):
            # What ends well inside the page is passed over at once; most images do.
            x1, y1, x2, y2 = unit_bounds(image.matrix)
            if min(x1 - left, y1 - bottom, right - x2, top - y2) > 2 * AT_EDGE_PT:
                return False
        source, matrix = Source(px_w=image.px_w, px_h=image.px_h), image.matrix.then(space.matrix)
        corners = placement_from(source, matrix).corners
        width, height = space.width_pt, space.height_pt
        return bool(sides_without_bleed(corners, width, height, _USUAL_BLEED_PT))

    return any(meets_edge(image) for image in images if not image.unseen)


def pictures_of(images: list[ImageOccurrence], most: int | None = None) -> list[dict[str, Any]]:
    """A page's pictures as rows, `most` of them; pieces that make one picture are one row."""
    pieces = [Piece(image.px_w, image.px_h, image.matrix, kind_of(image)) for image in images]
    return [
        _row(place, whole, [images[number] for number in whole.pieces])
        for place, whole in enumerate(islice(wholes_of(pieces), most), 1)
    ]


def images_of(images: list[ImageOccurrence]) -> list[dict[str, Any]]:
    """A page's images as rows, each piece for itself."""
    return [
        _row(place, JoinedImage(image.px_w, image.px_h, image.matrix, (place - 1,)), [image])
        for place, image in enumerate(images, 1)
    ]


def kind_of(image: ImageOccurrence) -> tuple[object, ...]:
    """What pieces of one picture have in common."""
    facts = image.facts
    return (
        facts.colour,
        facts.bits,
        facts.has_profile,
        facts.has_alpha,
        image.source,
        image.unseen,
    )


def _row(place: int, whole: JoinedImage, images: list[ImageOccurrence]) -> dict[str, Any]:
    first = images[0]
    is_cut = len(images) > 1
    return {
        "page_number": first.page_number,
        "place": place,
        "px_w": whole.px_w,
        "px_h": whole.px_h,
        "colour": first.colour.value,
        "bits": first.bits,
        "matrix": list(whole.matrix.as_tuple()),
        "object_number": 0 if is_cut else first.facts.number,
        "has_profile": first.facts.has_profile,
        "has_alpha": first.facts.has_alpha,
        "filters": _storable(" ".join(first.facts.filters))[:120],
        "unseen": first.unseen,
        "source": first.source,
        "pieces": [px for one in images for px in (one.px_w, one.px_h)] if is_cut else [],
    }


def _whole(pdf: pikepdf.Pdf) -> dict[str, Any]:
    """What the PDF says of itself; everything in it may be missing or nonsense."""
    return {
        "version": pdf.pdf_version,
        "producer": _text(pdf, "/Producer"),
        "title": _text(pdf, "/Title"),
        "intent": intent_colour(pdf),
    }


def _text(pdf: pikepdf.Pdf, key: str) -> str:
    try:
        return _storable(str(pdf.docinfo.get(key, "")))[:200]
    except NONSENSE:
        return ""


def _storable(text: str) -> str:
    """A text that a database can hold: no zeros, no half characters."""
    return text.replace("\0", "").encode("utf-8", "replace").decode()
