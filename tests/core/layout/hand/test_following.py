"""What the page shows before it was answered is what the answer says, bounds and snapping aside."""

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from harnet.core.layout.hand.following import ways_of
from harnet.core.layout.hand.gesture import Handle, resized, resized_box
from harnet.core.layout.placing import Content, Placement, Source
from harnet.core.layout.turned_box import TurnedBox
from harnet.core.measure.geometry import Box

places = st.floats(-300, 300)
boxes = st.builds(Box, places, places, st.floats(40, 600), st.floats(40, 600))
turns = st.one_of(st.just(0.0), st.floats(0, 359))
handles = st.sampled_from(list(Handle))
hands = st.tuples(st.floats(-30, 200), st.floats(-30, 200))


def largest(ways, hand):
    return max((way.map_after(*hand) for way in ways), key=lambda one: one.a + one.d)


def mapped(corners, by):
    return [by.applied(x, y) for x, y in corners]


@given(boxes, turns, handles, hands)
def test_boxes_follow_as_they_are_resized(box, turn, handle, hand):
    frame = TurnedBox(box, turn)
    after = resized_box(frame, handle, *hand)
    assume(min(after.box.width, after.box.height) > 10)
    found = largest(ways_of(box, turn, handle, is_proportional=False), hand)
    np.testing.assert_allclose(mapped(frame.corners, found), after.corners, atol=1e-6)


@given(boxes, turns, handles, hands)
def test_pictures_follow_their_corners_and_stay_behind_their_edges(box, turn, handle, hand):
    source = Source(px_w=1200, px_h=800, tag_x=300.0, tag_y=300.0)
    content = Content(0.2, 0.3, -12.0, 7.0)
    placement = Placement(source=source, frame=box, content=content, rotation_deg=turn)
    after = resized(placement, handle, *hand)
    assume(min(after.frame.width, after.frame.height) > 10)
    found = largest(ways_of(box, turn, handle, is_proportional=True), hand)
    np.testing.assert_allclose(mapped(placement.corners, found), after.corners, atol=1e-6)
    seen = placement.matrix.then(found) if handle.is_corner else placement.matrix
    np.testing.assert_allclose(seen.as_tuple(), after.matrix.as_tuple(), atol=1e-6)


def test_without_a_way_nothing_changes():
    (way,) = ways_of(Box(10, 20, 100, 50), 30.0, Handle.E, is_proportional=True)
    assert way.map_after(0, 0).as_tuple() == pytest.approx((1, 0, 0, 1, 0, 0))
