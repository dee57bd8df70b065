"""Setting by figures: what is not given stays to the last bit, and what is given is reached."""

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.by_figures import FrameFigures, box_with, placement_with
from harnet.core.layout.figures import figures_of
from harnet.core.layout.hand.straight_line import line_between
from harnet.core.layout.placing import Fit as PictureFit
from harnet.core.layout.placing import Placement, Source, fitted, placed_at_native_size
from harnet.core.layout.swapping import filling_of
from harnet.core.layout.turned_box import TurnedBox
from harnet.core.measure.geometry import Box
from harnet.core.pictures.detail import Detail
from harnet.core.targets.shipped import target_named

COATED = target_named("coated")
SOURCE = Source(px_w=1200, px_h=800, tag_x=300.0, tag_y=300.0)
PLACED = placed_at_native_size(SOURCE, 20.123456, 30.654321)


@given(st.floats(-1000, 1000), st.floats(0, 360))
def test_setting_y_moves_neither_x_nor_the_size(y, rotation):
    before = replace(PLACED, rotation_deg=rotation)
    after = placement_with(before, FrameFigures(y_pt=y))
    assert after == replace(before, frame=replace(before.frame, y=y))


def test_width_crops_unless_the_proportion_is_kept():
    cropped = placement_with(PLACED, FrameFigures(width_pt=144))
    assert (cropped.frame.width, cropped.frame.height) == (144, PLACED.frame.height)
    assert cropped.content == PLACED.content
    scaled = placement_with(PLACED, FrameFigures(width_pt=144, keeps_proportion=True))
    # 288 × 192 pt at half the width
    assert (scaled.frame.width, scaled.frame.height) == (144, pytest.approx(96))
    assert scaled.density.worst == pytest.approx(600)
    tall = placement_with(PLACED, FrameFigures(height_pt=384, keeps_proportion=True))
    assert (tall.frame.width, tall.density.worst) == (pytest.approx(576), pytest.approx(150))


def test_density_scale_and_place_inside_the_frame():
    denser = placement_with(PLACED, FrameFigures(density_ppi=400))
    assert denser.density.worst == pytest.approx(400) and denser.frame == PLACED.frame
    smaller = placement_with(PLACED, FrameFigures(native_share=0.5))
    assert smaller.native_share == pytest.approx(0.5)
    panned = placement_with(PLACED, FrameFigures(picture_x_pt=-12))
    assert (panned.content.offset_x, panned.content.offset_y) == (-12, PLACED.content.offset_y)


@pytest.mark.parametrize(
    "figures",
    [
        FrameFigures(density_ppi=0),
        FrameFigures(native_share=-1),
        FrameFigures(width_pt=0),
        FrameFigures(width_pt=-5, keeps_proportion=True),
    ],
)
def test_what_cannot_be_is_refused(figures):
    with pytest.raises(ValueOutOfRange):
        placement_with(PLACED, figures)


def test_a_box_takes_figures_too():
    box = TurnedBox(Box(1, 2, 30, 40), 10)
    assert box_with(box, FrameFigures(rotation_deg=370)) == replace(box, rotation_deg=10)
    assert box_with(box, FrameFigures(height_pt=8)).box == Box(1, 2, 30, 8)
    with pytest.raises(ValueOutOfRange):
        box_with(box, FrameFigures(height_pt=0))


@given(
    st.tuples(st.floats(-500, 500), st.floats(-500, 500)),
    st.tuples(st.floats(-500, 500), st.floats(-500, 500)),
)
def test_a_line_ends_where_it_was_drawn_to(start, end):
    line = line_between(start, end)
    angle, half = math.radians(line.rotation_deg), line.box.width / 2
    x, y = line.box.centre
    reached = (x + math.cos(angle) * half, y + math.sin(angle) * half)
    assert reached == pytest.approx(end, abs=1e-6)


def test_a_line_in_steps():
    # 10 to the right and 9 down are nearly 45 degrees
    assert line_between((0, 0), (10, 9), 15).rotation_deg == 45
    assert line_between((0, 0), (1, -30), 15).rotation_deg == 270


class TestEnough:
    """What is judged to be enough needs no further pixel: a PNG's tag of 300 is 299.9994 ppi."""

    @pytest.mark.parametrize("px", [850, 1748, 2480, 3508, 7016])
    def test_at_native_size(self, px):
        tag = 11_811 * 0.0254
        source = Source(px_w=px, px_h=px, tag_x=tag, tag_y=tag)
        figures = figures_of(placed_at_native_size(source, 0, 0), COATED)
        assert figures.verdict.value == "full"
        assert (figures.needed_px_w, figures.needed_px_h) == (px, px)

    def test_what_falls_short_needs_all(self):
        frame = Box(0, 0, 336 / 25.4 * 72, 267 / 25.4 * 72)
        laid = fitted(SOURCE, frame, PictureFit.COVER)
        figures = figures_of(Placement(source=SOURCE, frame=frame, content=laid), COATED)
        # calculation: 336 × 267 mm at 300 are 3 969 × 3 154 px
        assert (figures.needed_px_w, figures.needed_px_h) == (3969, 3154)


def test_a_picture_that_was_enlarged_ranks_by_its_detail():
    frame = Box(0, 0, 288, 192)
    large = Source(px_w=4800, px_h=3200, tag_x=300.0, tag_y=300.0)
    enlarged = filling_of(frame, 0, large, COATED, Detail(share=0.2, confidence=0.9))
    honest = filling_of(frame, 0, SOURCE, COATED, Detail(share=0.95, confidence=0.9))
    # 1 200 ppi of which a fifth is detail are like 240; the other has its 300
    assert enlarged.honest_headroom == pytest.approx(240 / 300 - 1)
    assert honest.honest_headroom == pytest.approx(0) and honest.rank < enlarged.rank
    assert enlarged.detail.words(4800) == (
        "4\u00a0800 px wide, detail of about 960 (high confidence)"
    )
