"""Aligning and distributing: what is asked for holds afterwards, and nothing else moves."""

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.aligning import Align, Spread, aligned, distributed
from harnet.core.measure.geometry import Box

boxes = st.lists(
    st.builds(
        Box, st.floats(-500, 500), st.floats(-500, 500), st.floats(1, 300), st.floats(1, 300)
    ),
    min_size=3,
    max_size=8,
)


def gone(box, way):
    return Box(box.x + way[0], box.y + way[1], box.width, box.height)


@pytest.mark.parametrize("align", Align)
@given(some=boxes)
def test_all_are_in_line(align, some):
    goal = Box(10, 20, 400, 300)
    after = [gone(box, way) for box, way in zip(some, aligned(some, align, goal), strict=True)]
    place = {
        Align.LEFT: lambda box: box.x,
        Align.CENTRE: lambda box: box.x + box.width / 2,
        Align.RIGHT: lambda box: box.x + box.width,
        Align.TOP: lambda box: box.y,
        Align.MIDDLE: lambda box: box.y + box.height / 2,
        Align.BOTTOM: lambda box: box.y + box.height,
    }[align]
    assert [place(box) for box in after] == pytest.approx([place(goal)] * len(after), abs=1e-6)
    is_across = align in (Align.LEFT, Align.CENTRE, Align.RIGHT)
    for before, now in zip(some, after, strict=True):
        assert (now.y == before.y) if is_across else (now.x == before.x)


@given(some=boxes)
def test_gaps_are_equal_and_the_outer_two_stay(some):
    ways = distributed(some, Spread.ACROSS)
    order = sorted(range(len(some)), key=lambda index: some[index].x)
    after = [gone(some[index], ways[index]) for index in order]
    gaps = [right.x - left.x - left.width for left, right in pairwise(after)]
    assert gaps == pytest.approx([gaps[0]] * len(gaps), abs=1e-6)
    assert ways[order[0]] == (0, 0)
    assert ways[order[-1]][0] == pytest.approx(0, abs=1e-6)


def test_two_have_one_gap():
    with pytest.raises(ValueOutOfRange, match="at least three"):
        distributed([Box(0, 0, 1, 1), Box(5, 5, 1, 1)], Spread.DOWN)
