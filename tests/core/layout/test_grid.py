"""Columns and grid lines inside the margins of a page."""

import pytest

from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.grid import Grid, checked_grid, column_boxes, grid_lines
from harnet.core.layout.hand.snapping import lines_of_page, snapped_move
from harnet.core.measure.geometry import Box


def test_columns_fill_the_room_between_the_margins():
    # Arithmetic: 300 wide, margins of 30, two gutters of 15: three columns of 70.
    boxes = column_boxes(Grid(columns=3, gutter_pt=15), 300, 200, 30)
    assert boxes == (Box(30, 30, 70, 140), Box(115, 30, 70, 140), Box(200, 30, 70, 140))
    assert boxes[-1].x + boxes[-1].width == 300 - 30


def test_no_columns_and_no_grid():
    assert column_boxes(Grid(), 300, 200, 30) == ()
    assert grid_lines(Grid(), 300, 30) == ()


@pytest.mark.parametrize(
    "length, margin, step, count, last",
    [(100, 0, 25, 5, 100), (100, 10, 20, 5, 90), (105, 10, 20, 5, 90), (842, 36, 14.4, 54, 799.2)],
)
def test_grid_lines_begin_at_the_margin(length, margin, step, count, last):
    lines = grid_lines(Grid(step_pt=step), length, margin)
    assert len(lines) == count
    assert (lines[0], lines[-1]) == (margin, pytest.approx(last))


@pytest.mark.parametrize(
    "grid, words",
    [
        (Grid(columns=25), "0 to 24 columns, not 25"),
        (Grid(columns=4, gutter_pt=90), "no room"),
        (Grid(step_pt=1), "at least 2 pt apart"),
    ],
)
def test_what_does_not_fit(grid, words):
    with pytest.raises(ValueOutOfRange, match=words):
        checked_grid(grid, 300, 20)


def test_boxes_come_to_rest_on_what_is_drawn():
    lines = lines_of_page(400, 600, 0, 0, [], ([123.0], [77.0]))
    dx, dy, rested = snapped_move(Box(120.5, 79, 50, 50), lines, 4)
    assert (dx, dy) == (2.5, -2)
    assert {(one.is_vertical, one.at) for one in rested} == {(True, 123.0), (False, 77.0)}
