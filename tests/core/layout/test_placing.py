"""Placing, scaling and the hand: what holds whatever is done."""

import math
from dataclasses import replace
from itertools import pairwise

import pytest
from hypothesis import given, reject
from hypothesis import strategies as st

from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.figures import figures_of, reach_zones
from harnet.core.layout.hand.gesture import Handle, moved, panned, resized, resized_box
from harnet.core.layout.placing import (
    Adjusts,
    Content,
    EvenBy,
    Fit,
    Placement,
    Source,
    evened_out,
    fitted,
    placed_at_native_size,
    scaled_to_density,
    scaled_to_native,
    scaled_to_reach,
    with_frame_size,
)
from harnet.core.layout.turned_box import TurnedBox
from harnet.core.measure.density import effective_density
from harnet.core.measure.geometry import Box, Matrix, quarter_turns, turned_about
from harnet.core.measure.verdict import Verdict
from harnet.core.targets.shipped import target_named

lengths = st.floats(5, 3000)
scales = st.floats(0.02, 20)
ways = st.floats(-500, 500)
sources = st.builds(
    Source,
    px_w=st.integers(1, 30_000),
    px_h=st.integers(1, 30_000),
    tag_x=st.floats(20, 2400),
    tag_y=st.floats(20, 2400),
)
placements = st.builds(
    Placement,
    source=sources,
    frame=st.builds(Box, ways, ways, lengths, lengths),
    content=st.builds(Content, scales, scales, ways, ways, st.booleans(), st.booleans()),
    rotation_deg=st.floats(-360, 360),
)
give_way = st.sampled_from(Adjusts)


def possible(change, *arguments):
    """The change, where no frame grows beyond what a page can hold."""
    try:
        return change(*arguments)
    except ValueOutOfRange:
        return reject()


handles = st.sampled_from(Handle)


def densities(placement):
    return (placement.density.x, placement.density.y)


def corners(placement):
    return [placement.matrix.applied(x, y) for x, y in ((0, 0), (1, 0), (1, 1), (0, 1))]


def near(points, others, abs=1e-5):
    return all(p == pytest.approx(q, abs=abs) for p, q in zip(points, others, strict=True))


class TestWhatAlwaysHolds:
    @given(placements)
    def test_size_times_density_is_pixels(self, placement):
        width, height = placement.drawn_size_pt
        x, y = densities(placement)
        assert width / 72 * x == pytest.approx(placement.source.px_w)
        assert height / 72 * y == pytest.approx(placement.source.px_h)

    @given(placements, st.floats(-720, 720))
    def test_turning_leaves_the_density_alone(self, placement, angle):
        turned = replace(placement, rotation_deg=angle)
        assert densities(turned) == pytest.approx(densities(placement))
        assert turned.density.worst == pytest.approx(min(densities(placement)), rel=1e-6)

    @given(placements, lengths, lengths)
    def test_cropping_leaves_the_density_alone(self, placement, width, height):
        assert densities(with_frame_size(placement, width, height)) == densities(placement)

    @given(placements, ways, ways)
    def test_moving_and_panning_leave_the_density_alone(self, placement, dx, dy):
        assert densities(moved(placement, dx, dy)) == densities(placement)
        assert densities(panned(placement, dx, dy)) == densities(placement)

    @given(placements, handles, ways, ways)
    def test_the_density_always_follows_the_drawn_matrix(self, placement, handle, dx, dy):
        after = resized(placement, handle, dx, dy)
        drawn = effective_density(after.source.px_w, after.source.px_h, after.matrix)
        assert after.density == drawn

    @given(placements, give_way)
    def test_scaling_to_native_gives_the_tag_and_twice_changes_nothing(self, placement, way):
        once = possible(scaled_to_native, placement, way)
        assert densities(once) == pytest.approx((placement.source.tag_x, placement.source.tag_y))
        twice = scaled_to_native(once, way)
        assert near(corners(once), corners(twice), abs=1e-4)

    @given(placements, give_way, st.floats(10, 2400))
    def test_scaling_to_reach_gives_exactly_the_target(self, placement, way, ppi):
        reached = possible(scaled_to_reach, placement, target_named(str(ppi)), way)
        assert densities(reached) == pytest.approx((ppi, ppi))
        assert figures_of(reached, target_named(str(ppi))).verdict is Verdict.FULL

    @given(placements, st.sampled_from(EvenBy), give_way)
    def test_evening_out_leaves_one_density(self, placement, by, way):
        even = possible(evened_out, placement, by, way)
        assert even.density.evenness == pytest.approx(0, abs=1e-9)

    @given(placements, st.floats(10, 2400))
    def test_a_frame_that_stays_stays(self, placement, ppi):
        scaled = scaled_to_density(placement, ppi, ppi, Adjusts.CROP)
        assert scaled.frame == placement.frame

    @given(placements, ways, ways)
    def test_a_move_and_back_is_where_it_was(self, placement, dx, dy):
        back = moved(moved(placement, dx, dy), -dx, -dy)
        assert near(corners(back), corners(placement))

    @given(placements, handles, ways, ways)
    def test_the_handle_opposite_keeps_its_place(self, placement, handle, dx, dy):
        def opposite(one):
            share_x, share_y = 1 - handle.value[0], 1 - handle.value[1]
            frame = one.frame
            return one.turn.applied(
                frame.x + share_x * frame.width, frame.y + share_y * frame.height
            )

        after = resized(placement, handle, dx, dy)
        assert opposite(after) == pytest.approx(opposite(placement), abs=1e-6)

    @given(placements, st.sampled_from([h for h in Handle if not h.is_corner]), ways, ways)
    def test_an_edge_crops_and_leaves_the_picture_where_it_lies(self, placement, handle, dx, dy):
        after = resized(placement, handle, dx, dy)
        assert near(corners(after), corners(placement))

    @given(placements, st.sampled_from([h for h in Handle if h.is_corner]), ways, ways)
    def test_a_corner_keeps_the_frames_proportion(self, placement, handle, dx, dy):
        after = resized(placement, handle, dx, dy).frame
        before = placement.frame
        assert after.width / after.height == pytest.approx(before.width / before.height)

    @given(sources, st.builds(Box, ways, ways, lengths, lengths))
    def test_fits_do_what_their_words_say(self, source, frame):
        def drawn(fit):
            return Placement(
                source=source, frame=frame, content=fitted(source, frame, fit)
            ).drawn_size_pt

        whole, cover = drawn(Fit.CONTAIN), drawn(Fit.COVER)
        assert whole[0] <= frame.width * 1.000001 and whole[1] <= frame.height * 1.000001
        assert cover[0] >= frame.width * 0.999999 and cover[1] >= frame.height * 0.999999
        assert drawn(Fit.STRETCH) == pytest.approx((frame.width, frame.height))
        assert drawn(Fit.NATIVE) == pytest.approx(source.native_size_pt)


class TestExamples:
    uneven = Placement(
        source=Source(px_w=709, px_h=906),
        frame=Box(0, 0, 300, 440),
        content=Content(72 / 171, 72 / 148),
    )

    def test_uneven_scaling_shows_as_two_densities(self):
        assert densities(self.uneven) == pytest.approx((171, 148))
        assert self.uneven.is_uneven
        assert self.uneven.density.evenness == pytest.approx(0.155, abs=0.001)

    @pytest.mark.parametrize("by, ppi", [(EvenBy.X, 171), (EvenBy.Y, 148), (EvenBy.MEAN, 158.67)])
    def test_evened_out_by(self, by, ppi):
        even = evened_out(self.uneven, by, Adjusts.FRAME)
        assert even.density.x == pytest.approx(ppi, abs=0.01)

    def test_one_percent_is_even(self):
        barely = replace(self.uneven, content=Content(72 / 202, 72 / 200))
        assert not barely.is_uneven

    def test_a_flip_mirrors_in_place(self):
        plain = placed_at_native_size(Source(px_w=100, px_h=50, tag_x=72, tag_y=72), 10, 20)
        flipped = replace(plain, content=replace(plain.content, flip_h=True))
        assert flipped.matrix.applied(0, 0) == pytest.approx((110, 20))
        assert flipped.matrix.applied(1, 1) == pytest.approx((10, 70))

    def test_vector_art_is_full_at_any_size(self):
        placed = placed_at_native_size(Source(px_w=100, px_h=100, is_vector=True), 0, 0)
        figures = figures_of(placed, target_named("300"))
        assert (figures.verdict, figures.density, figures.headroom) == (Verdict.FULL, None, None)
        assert scaled_to_reach(placed, target_named("300"), Adjusts.FRAME) is placed

    def test_reach_of_the_crop_is_where_scaling_to_reach_leads(self):
        target = target_named("300")
        figures = figures_of(self.uneven, target)
        reached = scaled_to_reach(self.uneven, target, Adjusts.FRAME)
        size = (reached.frame.width, reached.frame.height)
        assert size == pytest.approx((figures.crop_reach_w_pt, figures.crop_reach_h_pt))

    def test_zones_of_the_reach_bar_touch_and_end_where_verdicts_change(self):
        zones = reach_zones(1012, target_named("300"))
        assert [zone.verdict.value for zone in zones] == [
            "surplus",
            "full",
            "near",
            "thin",
            "coarse",
        ]
        assert all(a.to_pt == b.from_pt for a, b in pairwise(zones))
        assert zones[1].to_pt / 72 * 25.4 == pytest.approx(85.7, abs=0.05)
        assert zones[3].to_pt / 72 * 25.4 == pytest.approx(257, abs=0.1)

    def test_one_bit_art_reaches_for_its_own_density(self):
        art = placed_at_native_size(
            Source(px_w=2400, px_h=2400, tag_x=72, tag_y=72, is_bilevel=True), 0, 0
        )
        reached = scaled_to_reach(art, target_named("coated"), Adjusts.FRAME)
        assert reached.density.x == pytest.approx(1200)

    @pytest.mark.parametrize("width", [0, -5, 1.9, math.inf, math.nan])
    def test_impossible_frames_are_refused(self, width):
        with pytest.raises(ValueOutOfRange, match="a frame measures"):
            with_frame_size(self.uneven, width, 100)

    def test_a_handle_pulled_through_its_frame_stops_at_the_smallest(self):
        assert resized(self.uneven, Handle.E, -9999, 0).frame.width == 2
        assert resized(self.uneven, Handle.SE, -9999, -9999).frame.width == pytest.approx(2)
        assert resized_box(TurnedBox(Box(0, 0, 50, 50)), Handle.NW, 999, 10) == TurnedBox(
            Box(48, 10, 2, 40)
        )


class TestMatrices:
    @given(st.floats(-720, 720), ways, ways)
    def test_a_turn_about_a_point_leaves_the_point(self, angle, x, y):
        assert turned_about(angle, (x, y)).applied(x, y) == pytest.approx((x, y), abs=1e-6)

    @pytest.mark.parametrize("orientation", range(1, 9))
    def test_orientations_map_the_unit_square_onto_itself(self, orientation):
        matrix = quarter_turns(orientation)
        square = {(0, 0), (1, 0), (1, 1), (0, 1)}
        assert {matrix.applied(x, y) for x, y in square} == square

    def test_orientation_6_is_a_quarter_turn_to_the_right(self):
        # Exif (CIPA DC-008, from memory): the 0th row is the right-hand side
        assert quarter_turns(6).applied(0, 0) == (1, 0)
        assert quarter_turns(6).applied(1, 0) == (1, 1)

    def test_then_applies_the_inner_map_first(self):
        both = Matrix.translation(1, 0).then(Matrix.scaling(10, 10))
        assert both.applied(0, 0) == (10, 0)
