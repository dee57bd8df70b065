"""Reading a stretch of a stranger's PDF, in a process of its own with limits.

The answer is written to a file as JSON, since it may be long: the pages, and the pictures that they
paint, those that a producer cut put together again.
"""

import json
from pathlib import Path
from typing import Any

import pikepdf

from harnet.core.pagefit import sides_without_bleed
from harnet.core.placing import Source
from harnet.core.strips import Piece, Whole, wholes_of
from harnet.core.userspace import bleed_between, placement_from, seen_space
from harnet.media.bounded import Order, Tell
from harnet.media.pdf.content import NONSENSE
from harnet.media.pdf.fonts import LooseFonts
from harnet.media.pdf.opening import opened_pdf
from harnet.media.pdf.painted import pages_with_images
from harnet.media.pdf.paintedimage import PaintedImage
from harnet.media.pdf.seenpage import SeenPage

MOST_PICTURES_A_PAGE = 20_000
_USUAL_BLEED_PT = 3 * 72 / 25.4
"""Common practice, no source: 3 mm."""


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    Reads the pages from `first` to `last`, None for all; `images` asks for every piece as well.
    """
    first, last = int(order["first"]), order["last"]
    pages: list[dict[str, Any]] = []
    pictures: list[dict[str, Any]] = []
    single: list[dict[str, Any]] = []
    loose = LooseFonts()
    with opened_pdf(Path(order["path"]), order["name"]) as pdf:
        count = len(pdf.pages)
        for seen, images in pages_with_images(pdf, order["name"], first, last, loose):
            rows = pictures_of(images)
            page = page_of(seen) | {"is_bare": is_bare(seen, images)}
            if len(rows) > MOST_PICTURES_A_PAGE:
                page["left_out"] = f"pictures beyond the first {MOST_PICTURES_A_PAGE}"
            pages.append(page)
            pictures += rows[:MOST_PICTURES_A_PAGE]
            if order.get("images"):
                single += images_of(images)
        whole = _whole(pdf) if first == 1 else {}
    fonts = sorted(_storable(name)[:200] for name in loose.names)
    found = {"pages": pages, "pictures": pictures, "images": single, "loose_fonts": fonts}
    Path(order["answer"]).write_text(json.dumps(found))
    return {"count": count, "whole": whole}


def page_of(seen: SeenPage) -> dict[str, Any]:
    """A page as plain values: its boxes in points, its turn in degrees, what was noticed on it."""
    return {
        "box": list(seen.box),
        "turn": seen.rotate_deg,
        "trim": list(seen.trim) if seen.trim else None,
        "bleed": list(seen.bleed) if seen.bleed else None,
        "is_transparent": seen.is_transparent,
        "left_out": seen.left_out,
    }


def is_bare(seen: SeenPage, images: list[PaintedImage]) -> bool:
    """Whether a picture meets the edge where the page is cut, and nothing lies beyond it."""
    trim = seen.trim or seen.box
    if bleed_between(trim, seen.bleed or seen.box):
        return False
    space = seen_space(trim, seen.rotate_deg)

    def meets_edge(image: PaintedImage) -> bool:
        source, matrix = Source(image.px_w, image.px_h), image.matrix.then(space.matrix)
        corners = placement_from(source, matrix).corners
        width, height = space.width_pt, space.height_pt
        return bool(sides_without_bleed(corners, width, height, _USUAL_BLEED_PT))

    return any(meets_edge(image) for image in images if not image.unseen)


def pictures_of(images: list[PaintedImage]) -> list[dict[str, Any]]:
    """A page's pictures as rows; pieces that make one picture are one row."""
    pieces = [Piece(image.px_w, image.px_h, image.matrix, _kind(image)) for image in images]
    return [
        _row(place, whole, [images[number] for number in whole.pieces])
        for place, whole in enumerate(wholes_of(pieces), 1)
    ]


def images_of(images: list[PaintedImage]) -> list[dict[str, Any]]:
    """A page's images as rows, each piece for itself."""
    return [
        _row(place, Whole(image.px_w, image.px_h, image.matrix, (place - 1,)), [image])
        for place, image in enumerate(images, 1)
    ]


def _kind(image: PaintedImage) -> tuple[object, ...]:
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


def _row(place: int, whole: Whole, images: list[PaintedImage]) -> dict[str, Any]:
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
        "has_intent": "/OutputIntents" in pdf.Root,
    }


def _text(pdf: pikepdf.Pdf, key: str) -> str:
    try:
        return _storable(str(pdf.docinfo.get(key, "")))[:200]
    except NONSENSE:
        return ""


def _storable(text: str) -> str:
    """A text that a database can hold: no zeros, no half characters."""
    return text.replace("\0", "").encode("utf-8", "replace").decode()
