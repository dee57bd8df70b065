"""Guides of a page, and the columns and grid of a job: lines on the screen that snap."""

from dataclasses import asdict
from typing import Any

from sqlalchemy.orm import Session

from harnet.core.layout.grid import MOST_GUIDES, Grid, checked_grid, column_boxes, grid_lines
from harnet.core.measure.geometry import Box
from harnet.store.history import recorded
from harnet.store.tables.jobs import Job, Page
from harnet.studio.common.errors import Refused

AXES = ("x", "y")
"""An upright guide crosses the x axis, a level one the y axis."""
_SAME_PT = 0.01


def guides_of_page(page: Page) -> dict[str, list[float]]:
    """Where guides cross each axis, in points from the trim's top left."""
    return {axis: sorted(page.guides.get(axis, [])) for axis in AXES}


def grid_of(job: Job) -> Grid:
    """The job's columns and grid."""
    return Grid(**job.grid)


def columns_on(job: Job, page: Page) -> tuple[Box, ...]:
    """The columns of a page, in points from its trim's top left."""
    return column_boxes(grid_of(job), page.width_pt, page.height_pt, job.margin_pt)


def snapping_places(job: Job, page: Page) -> dict[str, list[float]]:
    """Where guides, columns and grid cross each axis of a page."""
    grid, found = grid_of(job), guides_of_page(page)
    boxes = columns_on(job, page)
    found["x"] += [edge for box in boxes for edge in (box.x, box.x + box.width)]
    found["x"] += grid_lines(grid, page.width_pt, job.margin_pt)
    found["y"] += grid_lines(grid, page.height_pt, job.margin_pt)
    return found


def put_guide(
    session: Session, job: Job, page: Page, axis: str, at_pt: float, was_pt: float | None = None
) -> None:
    """Adds a guide, or moves the one that lay at `was_pt`.

    Raises:
        Refused: outside of the page and its bleed, or more guides than a page has.
    """
    _require_axis(axis)
    length = page.width_pt if axis == "x" else page.height_pt
    if not -job.bleed_pt - _SAME_PT <= at_pt <= length + job.bleed_pt + _SAME_PT:
        raise Refused("A guide lies on the page or in its bleed.")
    kept = _without(page, axis, at_pt if was_pt is None else was_pt)
    kept = [one for one in kept if abs(one - at_pt) > _SAME_PT]
    if len(kept) >= MOST_GUIDES:
        raise Refused(f"A page has at most {MOST_GUIDES} guides a direction.")
    with recorded(session, job, "Add guide" if was_pt is None else "Move guide"):
        page.guides = _changed(page, axis, [*kept, round(at_pt, 3)])


def remove_guide(session: Session, job: Job, page: Page, axis: str, at_pt: float) -> None:
    """Removes the guide that lies there."""
    _require_axis(axis)
    with recorded(session, job, "Remove guide"):
        page.guides = _changed(page, axis, _without(page, axis, at_pt))


def clear_guides(session: Session, job: Job, page: Page) -> None:
    """Removes all guides of a page."""
    with recorded(session, job, f"Remove guides of page {page.position + 1}"):
        page.guides = {}


def set_grid(session: Session, job: Job, grid: Grid) -> None:
    """Gives a job these columns and this grid, as one edit.

    Raises:
        ValueOutOfRange: they do not fit on its pages.
    """
    checked_grid(grid, job.width_pt, job.margin_pt)
    with recorded(session, job, "Columns and grid"):
        job.grid = asdict(grid)


def _require_axis(axis: str) -> None:
    if axis not in AXES:
        raise Refused("A guide is upright (x) or level (y).")


def _without(page: Page, axis: str, at_pt: float) -> list[float]:
    return [one for one in guides_of_page(page)[axis] if abs(one - at_pt) > _SAME_PT]


def _changed(page: Page, axis: str, places: list[float]) -> dict[str, Any]:
    return {**page.guides, axis: sorted(places)}
