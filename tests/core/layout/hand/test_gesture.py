"""Turning, mirroring, snapping, shapes and why something looks rough."""

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from harnet.core.layout.hand.gesture import (
    Handle,
    flipped,
    moved,
    panned,
    resized,
    resized_box,
    scaled_to_width,
    turned_towards,
)
from harnet.core.layout.hand.snapping import lines_of_page, snapped_edge, snapped_move
from harnet.core.layout.placing import Content, Fit, Placement, Source, fitted
from harnet.core.layout.shape import Shape, outline_of, path_text
from harnet.core.layout.turned_box import TurnedBox, bounds_of
from harnet.core.measure.density import effective_density
from harnet.core.measure.geometry import Box, Matrix
from harnet.core.pictures.roughness import Cause, roughness_of

ways = st.floats(-200, 200)
placements = st.builds(
    Placement,
    source=st.builds(
        Source,
        px_w=st.integers(1, 9000),
        px_h=st.integers(1, 9000),
        tag_x=st.just(72.0),
        tag_y=st.just(72.0),
    ),
    frame=st.builds(Box, ways, ways, st.floats(5, 900), st.floats(5, 900)),
    content=st.builds(Content, st.floats(0.02, 4), st.floats(0.02, 4), ways, ways),
    rotation_deg=st.floats(0, 359),
)


class TestAnyChainOfWork:
    """However a picture is handled, its density is formula 1 on the matrix that is drawn."""

    steps = st.lists(
        st.one_of(
            st.tuples(st.just("move"), ways, ways),
            st.tuples(st.just("pan"), ways, ways),
            st.tuples(st.sampled_from([h.name for h in Handle]), ways, ways),
            st.tuples(st.just("turn"), ways, ways),
            st.tuples(st.just("flip"), ways, ways),
            st.tuples(st.sampled_from([f.name for f in Fit]), ways, ways),
        ),
        max_size=6,
    )

    @given(placements, steps)
    def test_density_is_that_of_the_matrix(self, placement, steps):
        for kind, dx, dy in steps:
            if kind == "move":
                placement = moved(placement, dx, dy)
            elif kind == "pan":
                placement = panned(placement, dx, dy)
            elif kind == "turn":
                placement = replace(placement, rotation_deg=dx % 360)
            elif kind == "flip":
                placement = flipped(placement, dx > 0)
            elif kind in Fit.__members__:
                content = fitted(placement.source, placement.frame, Fit[kind])
                placement = replace(placement, content=content)
            else:
                placement = resized(placement, Handle[kind], dx, dy)
        source, matrix = placement.source, placement.matrix
        by_formula = effective_density(int(source.px_w), int(source.px_h), matrix)
        assert placement.density.x == pytest.approx(by_formula.x)
        assert by_formula.x == pytest.approx(72 / placement.content.scale_x, rel=1e-6)
        assert by_formula.y == pytest.approx(72 / placement.content.scale_y, rel=1e-6)

    @given(placements, st.booleans())
    def test_mirroring_twice_changes_nothing_and_once_no_figure(self, placement, across):
        once = flipped(placement, across)
        assert once.density.x == pytest.approx(placement.density.x)
        assert (once.matrix.determinant < 0) != (placement.matrix.determinant < 0)
        twice = flipped(once, across)
        assert twice.content.offset_x == pytest.approx(placement.content.offset_x, abs=1e-6)
        assert twice.content.flip_h == placement.content.flip_h

    @given(placements, st.floats(2, 3000))
    def test_the_reach_bar_scales_to_the_width_it_shows(self, placement, width):
        after = scaled_to_width(placement, width)
        factor = after.frame.width / placement.frame.width
        now = 72 * placement.source.px_w / placement.density.worst
        sides = (after.frame.width, after.frame.height)
        if min(sides) > 3 and max(sides) < 199_000:
            assert now * factor == pytest.approx(width, rel=1e-6)
        assert after.density.x == pytest.approx(placement.density.x / factor)


class TestTurning:
    @pytest.mark.parametrize(
        "pointer, angle", [((0, -9), 0), ((9, 0), 90), ((0, 9), 180), ((-9, 0), 270), ((9, -9), 45)]
    )
    def test_the_upper_side_looks_at_the_pointer(self, pointer, angle):
        assert turned_towards(0, (0, 0), pointer, 0) == pytest.approx(angle)

    def test_in_steps_of_15_degrees(self):
        assert turned_towards(0, (0, 0), (9, 1), 15) == 90
        assert turned_towards(33, (0, 0), (0, 0), 15) == 33, "no direction, no turn"

    @given(
        st.builds(TurnedBox, st.builds(Box, ways, ways, st.floats(5, 90), st.floats(5, 90)),
                  st.floats(0, 359)),
        st.sampled_from(Handle), ways, ways,
    )  # fmt: skip
    def test_a_frame_pulled_by_a_handle_keeps_the_opposite_one(self, frame, handle, dx, dy):
        def place(one, share):
            turn = Matrix.rotation(one.rotation_deg)
            x, y = turn.applied((share[0] - 0.5) * one.box.width, (share[1] - 0.5) * one.box.height)
            return one.box.centre[0] + x, one.box.centre[1] + y

        opposite = (1 - handle.value[0], 1 - handle.value[1])
        after = resized_box(frame, handle, dx, dy)
        assert place(after, opposite) == pytest.approx(place(frame, opposite), abs=1e-6)


class TestSnapping:
    lines = lines_of_page(400, 600, 30, 10, [Box(100, 100, 50, 80)])

    @pytest.mark.parametrize(
        "box, way",
        [
            # left edge to the trim, the margin, the bleed; right edge to the page's right
            (Box(3, 300, 20, 20), (-3, 0)),
            (Box(28, 300, 20, 20), (2, 0)),
            (Box(-13, 310, 20, 20), (3, 0)),
            (Box(382, 320, 20, 20), (-2, 0)),
            # its middle to the page's middle
            (Box(188, 309, 20, 20), (2, 0)),
            # to a neighbour's edges and middle
            (Box(152, 55, 20, 20), (-2, 0)),
            (Box(260, 182, 20, 20), (0, -2)),
            # too far from everything
            (Box(215, 420, 20, 20), (0, 0)),
        ],
    )
    def test_a_moved_box_rests_on_the_nearest_line(self, box, way):
        dx, dy, guides = snapped_move(box, self.lines, 5)
        assert (dx, dy) == pytest.approx(way)
        assert bool(guides) == (way != (0, 0))

    @given(st.builds(Box, ways, ways, st.floats(5, 90), st.floats(5, 90)), st.floats(0.1, 20))
    def test_never_farther_than_its_reach_and_twice_is_once(self, box, reach):
        dx, dy, _ = snapped_move(box, self.lines, reach)
        assert abs(dx) <= reach and abs(dy) <= reach
        rested = Box(box.x + dx, box.y + dy, box.width, box.height)
        again = snapped_move(rested, self.lines, reach)
        assert abs(again[0]) < 1e-6 and abs(again[1]) < 1e-6

    def test_a_pulled_edge(self):
        assert snapped_edge(397, self.lines.across, 5) == 3
        assert snapped_edge(215, self.lines.across, 5) == 0

    def test_guides_span_both(self):
        _, _, guides = snapped_move(Box(152, 300, 20, 20), self.lines, 5)
        (upright,) = [guide for guide in guides if guide.is_vertical]
        assert (upright.at, upright.start, upright.end) == (150, 100, 320)


class TestShapes:
    def test_a_rectangle_is_its_corners(self):
        outline = outline_of(Box(1, 2, 3, 4), Shape.RECTANGLE, 9)
        assert [outline.start, *(step[-1] for step in outline.steps)] == [
            (1, 2), (4, 2), (4, 6), (1, 6),
        ]  # fmt: skip
        assert path_text(outline).startswith("M1.0000 2.0000L4.0000 2.0000")

    @pytest.mark.parametrize("width, height", [(100, 100), (200, 80)])
    def test_an_ellipse_is_round_to_a_thousandth(self, width, height):
        outline = outline_of(Box(-width / 2, -height / 2, width, height), Shape.ELLIPSE, 0)
        at = outline.start
        for step in outline.steps:
            if len(step) == 3:
                for t in (0.25, 0.5, 0.75):
                    weights = [(1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3]
                    points = [at, *step]
                    x, y = (
                        sum(w * p[axis] for w, p in zip(weights, points, strict=True))
                        for axis in (0, 1)
                    )
                    # x²/a² + y²/b² = 1: arithmetic of the ellipse
                    assert math.hypot(2 * x / width, 2 * y / height) == pytest.approx(1, abs=1e-3)
            at = step[-1]

    def test_a_radius_is_at_most_half_the_shorter_side(self):
        outline = outline_of(Box(0, 0, 100, 40), Shape.ROUNDED, 999)
        assert outline.start == (20, 0)

    def test_bounds(self):
        assert bounds_of([(1, 5), (3, 2)]) == Box(1, 2, 2, 3)


@pytest.mark.parametrize(
    "screen, shown, file, ppi, cause",
    [
        (1400, 1400, 5184, 455, Cause.NEITHER),
        (2800, 1400, 5184, 455, Cause.PREVIEW),
        (2800, 1400, 5184, 61, Cause.BOTH),
        (600, 312, 312, 61, Cause.PICTURE),
        (2000, 1012, 1012, 310, Cause.NEITHER),
    ],
)
def test_preview_or_picture(screen, shown, file, ppi, cause):
    found = roughness_of(screen, shown, file, ppi, 270)
    assert found.cause is cause
    assert f"{ppi} ppi" in found.sentence
