"""What is seen of a PDF's page: its boxes, its turn, and what it inherits (ISO 32000-2, 7.7.3)."""

from collections.abc import Mapping
from typing import Any

import pikepdf

from harnet.core.documents.document import DocumentPage
from harnet.media.limits import MAX_FORM_DEPTH
from harnet.media.pdf.walking.clip import Bounds, is_nothing, shared
from harnet.media.pdf.walking.content import bounds_from

_LETTER: Bounds = (0.0, 0.0, 612.0, 792.0)
"""Where a page says no size; what readers take then, from memory."""


_INHERITED = frozenset({"/Resources", "/MediaBox", "/CropBox", "/Rotate"})
_STATED = _INHERITED | {"/TrimBox", "/BleedBox", "/UserUnit"}
Attributes = Mapping[str, Any]
"""What a page states and inherits, by its keys."""


def attributes_of(page: pikepdf.Page) -> Attributes:
    """What a page states itself, and what it inherits from the nodes above (7.7.3.4)."""
    found: dict[str, Any] = {}
    node: Any = page.obj
    for depth in range(MAX_FORM_DEPTH):
        # All keys at once: asking for each takes longer.
        names = node.keys()
        for name in names & (_INHERITED - found.keys() if depth else _STATED):
            found[name] = node[name]
        node = node["/Parent"] if "/Parent" in names else None
        if not isinstance(node, pikepdf.Dictionary):
            break
    return found


def seen_page(stated: Attributes) -> tuple[DocumentPage, float]:
    """What is seen of a page, in points, and its `UserUnit`: points a unit of its own."""
    unit = _user_unit(stated)
    media = bounds_from(stated.get("/MediaBox")) or _LETTER
    crop = _within(media, stated.get("/CropBox")) or media
    # Trim and bleed are the page's own, never inherited (7.7.3.3).
    trim, bleed = (_within(media, stated.get(name)) for name in ("/TrimBox", "/BleedBox"))
    page = DocumentPage(
        box=_scaled(crop, unit),
        turn_deg=_turn(stated),
        trim=_scaled(trim, unit) if trim else None,
        bleed=_scaled(bleed, unit) if bleed else None,
    )
    return page, unit


def resources_of(stated: Attributes) -> Any:
    """The resources of a page, empty where it has none."""
    found = stated.get("/Resources")
    return found if isinstance(found, pikepdf.Dictionary) else pikepdf.Dictionary()


def _within(media: Bounds, stated: Any) -> Bounds | None:
    """What the media box leaves of a box (14.11.2.1); None where nothing is stated or left."""
    box = bounds_from(stated) if stated is not None else None
    left = shared(media, box) if box else None
    return None if is_nothing(left) else left


def _user_unit(stated: Attributes) -> float:
    try:
        unit = float(stated.get("/UserUnit", 1))
    except (TypeError, ValueError):
        return 1.0
    return unit if unit > 0 else 1.0


def _turn(stated: Attributes) -> int:
    try:
        return int(stated.get("/Rotate") or 0) % 360 // 90 * 90
    except (TypeError, ValueError):
        return 0


def _scaled(box: Bounds, unit: float) -> Bounds:
    left, bottom, right, top = box
    return left * unit, bottom * unit, right * unit, top * unit
