"""Columns and a grid inside the margins of a page, and where guides may lie."""

from dataclasses import dataclass

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.geometry import Box

MOST_COLUMNS = 24
LEAST_STEP_PT = 2.0
"""A closer grid would be a grey area, not lines."""
MOST_GUIDES = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class Grid:
    """How many columns, the space between two, and the distance of grid lines, in points.

    0 columns, or a step of 0, means none.
    """

    columns: int = 0
    gutter_pt: float = 0.0
    step_pt: float = 0.0


def checked_grid(grid: Grid, width_pt: float, margin_pt: float) -> Grid:
    """The grid, once it fits between the margins of a page so wide.

    Raises:
        ValueOutOfRange: it does not; the text says why.
    """
    if not 0 <= grid.columns <= MOST_COLUMNS:
        raise ValueOutOfRange(f"a page has 0 to {MOST_COLUMNS} columns, not {grid.columns}")
    room = width_pt - 2 * margin_pt
    if grid.columns > 1 and not 0 <= grid.gutter_pt * (grid.columns - 1) < room:
        raise ValueOutOfRange(f"{grid.columns} columns with gutters so wide leave no room for text")
    if grid.step_pt and grid.step_pt < LEAST_STEP_PT:
        raise ValueOutOfRange(f"grid lines are at least {LEAST_STEP_PT:g} pt apart")
    return grid


def column_boxes(
    grid: Grid, width_pt: float, height_pt: float, margin_pt: float
) -> tuple[Box, ...]:
    """The columns of a page, from left to right, between its margins."""
    if not grid.columns:
        return ()
    room = width_pt - 2 * margin_pt - grid.gutter_pt * (grid.columns - 1)
    wide, high = room / grid.columns, height_pt - 2 * margin_pt
    if wide <= 0 or high <= 0:
        return ()
    return tuple(
        Box(margin_pt + index * (wide + grid.gutter_pt), margin_pt, wide, high)
        for index in range(grid.columns)
    )


def grid_lines(grid: Grid, length_pt: float, margin_pt: float) -> tuple[float, ...]:
    """Where grid lines cross an edge of that length: from its margin to the other one.

    >>> grid_lines(Grid(step_pt=20), 100, 10)
    (10.0, 30.0, 50.0, 70.0, 90.0)
    """
    if grid.step_pt < LEAST_STEP_PT:
        return ()
    count = int((length_pt - 2 * margin_pt) / grid.step_pt + 1e-9)
    return tuple(float(margin_pt + index * grid.step_pt) for index in range(count + 1))
