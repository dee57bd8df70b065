"""What is seen of a PDF's page: its boxes, its turn, and what it inherits (ISO 32000-2, 7.7.3)."""

from typing import Any

import pikepdf

from harnet.core.painted import ReadPage
from harnet.media.limits import MAX_FORM_DEPTH
from harnet.media.pdf.clip import Bounds, shared
from harnet.media.pdf.content import bounds_from, entry

_LETTER: Bounds = (0.0, 0.0, 612.0, 792.0)
"""Where a page says no size; what readers take then, from memory."""


def seen_page(page: pikepdf.Page) -> tuple[ReadPage, float]:
    """What is seen of a page, in points, and its `UserUnit`: points a unit of its own."""
    node = page.obj
    unit = _user_unit(node)
    trim, bleed = (_stated_box(node, name, unit) for name in ("/TrimBox", "/BleedBox"))
    return ReadPage(_seen_box(node, unit), _turn(node), trim, bleed), unit


def resources_of(page: pikepdf.Page) -> Any:
    """The resources of a page, empty where it has none."""
    found = _inherited(page.obj, "/Resources")
    return found if isinstance(found, pikepdf.Dictionary) else pikepdf.Dictionary()


def _stated_box(node: pikepdf.Object, name: str, unit: float) -> Bounds | None:
    """A box of the page itself; trim and bleed are not inherited (ISO 32000-2, 7.7.3.3)."""
    box = bounds_from(entry(node, name))
    if box is None or box[2] <= box[0] or box[3] <= box[1]:
        return None
    return _scaled(box, unit)


def _user_unit(node: pikepdf.Object) -> float:
    try:
        unit = float(entry(node, "/UserUnit", 1))
    except (TypeError, ValueError):
        return 1.0
    return unit if unit > 0 else 1.0


def _turn(node: pikepdf.Object) -> int:
    try:
        return int(_inherited(node, "/Rotate") or 0) % 360 // 90 * 90
    except (TypeError, ValueError):
        return 0


def _seen_box(node: pikepdf.Object, unit: float) -> Bounds:
    media = bounds_from(_inherited(node, "/MediaBox")) or _LETTER
    crop = bounds_from(_inherited(node, "/CropBox"))
    left, bottom, right, top = shared(media, crop) or media
    is_empty = right <= left or top <= bottom
    return _scaled(media if is_empty else (left, bottom, right, top), unit)


def _scaled(box: Bounds, unit: float) -> Bounds:
    left, bottom, right, top = box
    return left * unit, bottom * unit, right * unit, top * unit


def _inherited(page: pikepdf.Object, name: str) -> Any:
    """An attribute of the page or of the nodes above it (ISO 32000-2, 7.7.3.4)."""
    node: Any = page
    seen = 0
    while isinstance(node, pikepdf.Dictionary) and seen < MAX_FORM_DEPTH:
        if name in node:
            return node[name]
        node, seen = entry(node, "/Parent"), seen + 1
    return None
