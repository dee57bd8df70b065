"""What lies across the fold of a spread: on which pages it is seen, and to which it belongs."""

from collections.abc import Sequence

from sqlalchemy.orm import Session

from harnet.core.layout.facing import facing_page, shift_to_facing
from harnet.core.layout.hand.gesture import moved, moved_box
from harnet.core.layout.placing import Placement
from harnet.core.layout.turned_box import TurnedBox, bounds_of
from harnet.core.measure.geometry import Box
from harnet.core.measure.wording import counted
from harnet.store.history import recorded
from harnet.store.tables.jobs import Item, Job, Page
from harnet.studio.jobs.jobs import page_count, page_of
from harnet.studio.layout.gestures import Geometry, Gesture, geometry_of, gesture_result
from harnet.studio.layout.placed import write_box, write_placement
from harnet.studio.layout.placing import name_of

_HAIR_PT = 0.1
"""Common practice, no source: what reaches less than that across the fold does not cross it."""


def page_beside(job: Job, page: Page) -> Page | None:
    """The page that lies beside one in its spread."""
    if not job.is_facing:
        return None
    number = facing_page(page.position + 1, page_count(job), job.is_facing)
    return page_of(job, number) if number is not None else None


def shift_between(page: Page, beside: Page) -> float:
    """How far what is on `page` moves across to keep its place as `beside` sees it, in points."""
    return shift_to_facing(page.position + 1, page.width_pt, beside.width_pt)


def shifted(geometry: Geometry, dx_pt: float) -> Geometry:
    """The same geometry as seen from the page beside."""
    if isinstance(geometry, TurnedBox):
        return moved_box(geometry, dx_pt, 0.0)
    return moved(geometry, dx_pt, 0.0)


def crossing_onto(job: Job, page: Page, beside: Page) -> list[tuple[Item, Geometry]]:
    """What belongs to the page beside and reaches onto this one, as this one sees it."""
    dx = shift_between(beside, page)
    seen = [(item, geometry_of(item)) for item in beside.items]
    return [
        (item, shifted(geometry, dx))
        for item, geometry in seen
        if reach_across_pt(job, beside, geometry) > 0
        and _is_beside(bounds_of(geometry.corners), page)
    ]


def _is_beside(box: Box, page: Page) -> bool:
    return box.y + box.height > 0 and box.y < page.height_pt


def reach_across_pt(job: Job, page: Page, geometry: Geometry) -> float:
    """How far something reaches over the fold of its page, 0 where it does not, in points.

    What ends in the bleed at the fold was pulled out by habit and crosses nothing.
    """
    box = bounds_of(geometry.corners)
    over = -box.x if (page.position + 1) % 2 else box.x + box.width - page.width_pt
    return over if over > job.bleed_pt + _HAIR_PT else 0.0


def _settle_on_their_pages(job: Job, items: Sequence[Item]) -> None:
    """Gives what was moved over the fold to the page that its middle lies on; it stays in place."""
    for item in items:
        page = item.page
        beside = page_beside(job, page)
        if beside is None:
            continue
        box = bounds_of(geometry_of(item).corners)
        middle = box.x + box.width / 2
        is_over = middle < 0 if (page.position + 1) % 2 else middle > page.width_pt
        dx = shift_between(page, beside)
        if not is_over or not 0 <= middle + dx <= beside.width_pt:
            continue
        top = max((other.position for other in beside.items), default=0)
        item.x_pt += dx
        item.page_id, item.page, item.position = beside.id, beside, top + 1


def box_beside(page: Page, beside: Page) -> Box:
    """The page beside as this page sees it."""
    return Box(shift_between(beside, page), 0.0, beside.width_pt, beside.height_pt)


def apply_gesture(session: Session, job: Job, items: Sequence[Item], gesture: Gesture) -> None:
    """Writes what the hand did, as one edit; what was moved over the fold changes its page."""
    result = gesture_result(job, items, gesture)
    verb = {"move": "Move", "pan": "Pan", "turn": "Turn"}.get(gesture.kind, "Size")
    what = name_of(items[0]) if len(items) == 1 else counted(len(items), "item")
    with recorded(session, job, f"{verb} {what}"):
        for item, geometry in result.geometries:
            if isinstance(geometry, Placement):
                write_placement(item, geometry)
            else:
                write_box(item, geometry.box)
                item.rotation_deg = geometry.rotation_deg
        if gesture.kind == "move":
            _settle_on_their_pages(job, items)
