"""Targets: their limits, their values as files hold them, the ruler's steps, and swapping."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.figures import figures_of
from harnet.core.layout.placing import Content, Fit, Placement, Source, fitted
from harnet.core.layout.swapping import (
    bits_apart,
    is_same_orientation,
    match_of,
    swapped,
)
from harnet.core.ledger.ruler_scale import ruler_step, step_headroom
from harnet.core.measure.geometry import Box
from harnet.core.pictures.picture import Colour
from harnet.core.targets.severity import Severity
from harnet.core.targets.shipped import SHIPPED, shipped, target_named
from harnet.core.targets.target import Expectations, checked_target
from harnet.core.targets.values import target_as_values, target_from_values

COATED = SHIPPED[0]


@pytest.mark.parametrize("target", SHIPPED, ids=lambda target: target.key)
class TestShipped:
    def test_makes_sense_and_says_why(self, target):
        assert checked_target(target) is target
        assert target.reason and shipped(target.key) is target

    def test_survives_as_values(self, target):
        assert target_from_values(target_as_values(target)) == target


def test_severities_and_expectations_survive_as_values():
    fussy = replace(
        COATED,
        expects=Expectations(
            colours=(Colour.CMYK,),
            formats=("tiff",),
            profiled=(Colour.CMYK,),
            allows_transparency=False,
            least_jpeg_quality=75,
        ),
        severities=(("file-loose", Severity.BLOCKING), ("rights-unknown", Severity.OFF)),
    )
    assert target_from_values(target_as_values(fussy)) == fussy


@pytest.mark.parametrize(
    "changes, says",
    [
        ({"density_ppi": 0}, "density is between"),
        ({"bilevel_ppi": 20_000}, "1-bit density"),
        ({"tolerance": 1.0}, "tolerance"),
        ({"floor_ppi": 271}, "floor is"),
        ({"ceiling_ppi": 299}, "ceiling is"),
        ({"name": " "}, "needs a name"),
        ({"expects": Expectations(least_jpeg_quality=101)}, "JPEG quality"),
    ],
)
def test_figures_that_make_no_sense_together(changes, says):
    with pytest.raises(ValueOutOfRange, match=says):
        checked_target(replace(COATED, **changes))


def test_a_target_is_found_by_key_name_and_figure():
    assert target_named("Newsprint").density_ppi == 150
    assert target_named("212,5 ppi").density_ppi == 212.5
    with pytest.raises(ValueOutOfRange, match="coated, uncoated"):
        target_named("cardboard")


@pytest.mark.parametrize(
    "headroom, step", [(0, 0), (-1e-12, 0), (-0.001, -1), (1, 16), (-0.5, -16), (0.044, 0)]
)
def test_the_ruler_counts_sixteenths_of_an_octave_from_the_target(headroom, step):
    assert ruler_step(headroom) == step


@given(st.floats(-0.99, 100))
def test_a_placement_stands_within_its_step(headroom):
    step = ruler_step(headroom)
    assert step_headroom(step) <= headroom + 1e-6
    assert headroom < step_headroom(step + 1) + 1e-6


def placed(px_w, px_h, frame, **content):
    source = Source(px_w=px_w, px_h=px_h)
    return Placement(
        source=source, frame=frame, content=replace(fitted(source, frame, Fit.COVER), **content)
    )


def seen(placement):
    """The part of the picture in the frame, in shares of its width and height."""
    width, height = placement.drawn_size_pt
    content, frame = placement.content, placement.frame
    return (
        -content.offset_x / width,
        -content.offset_y / height,
        frame.width / width,
        frame.height / height,
    )


class TestSwapping:
    def test_the_same_proportion_shows_the_same_part(self):
        before = placed(300, 200, Box(10, 10, 144, 72), flip_h=True)
        after = swapped(before, Source(px_w=3000, px_h=2000))
        assert seen(after) == pytest.approx(seen(before))
        assert after.density.x == pytest.approx(10 * before.density.x)
        assert after.content.flip_h and after.frame == before.frame

    def test_a_stretch_stays_where_the_proportion_is_the_same(self):
        before = Placement(
            source=Source(px_w=300, px_h=200), frame=Box(0, 0, 72, 72), content=Content(0.24, 0.36)
        )
        assert swapped(before, Source(px_w=600, px_h=400)).evenness == pytest.approx(
            before.evenness
        )

    @given(
        px_w=st.integers(50, 6000),
        px_h=st.integers(50, 6000),
        x=st.floats(-40, 0),
        y=st.floats(-20, 0),
    )
    def test_another_proportion_leaves_no_filled_frame_empty(self, px_w, px_h, x, y):
        before = Placement(
            source=Source(px_w=300, px_h=200),
            frame=Box(0, 0, 144, 72),
            content=Content(0.7, 0.7, offset_x=x, offset_y=y),
        )
        after = swapped(before, Source(px_w=px_w, px_h=px_h))
        width, height = after.drawn_size_pt
        content = after.content
        assert content.offset_x <= 1e-6 and content.offset_y <= 1e-6
        assert content.offset_x + width >= 144 - 1e-6
        assert content.offset_y + height >= 72 - 1e-6
        if abs(px_w / px_h / 1.5 - 1) > 0.005:
            assert not after.is_uneven

    def test_the_same_shot_goes_before_more_headroom(self):
        before = placed(300, 200, Box(0, 0, 144, 72))
        same = match_of(before, Source(px_w=900, px_h=600), COATED, 4)
        other = match_of(before, Source(px_w=3000, px_h=2000), COATED, 30)
        line = match_of(before, Source(px_w=100, px_h=100, is_vector=True), COATED, None)
        assert sorted([line, other, same], key=lambda one: one.rank)[0] is same
        assert same.figures == figures_of(swapped(before, Source(px_w=900, px_h=600)), COATED)
        assert not other.is_same_shot and not line.is_same_shot

    def test_orientation(self):
        landscape, portrait, square = (
            Source(px_w=300, px_h=200),
            Source(px_w=200, px_h=300),
            Source(px_w=300, px_h=290),
        )
        assert is_same_orientation(landscape, 100, 50) and not is_same_orientation(
            portrait, 100, 50
        )
        assert is_same_orientation(square, 100, 50) and is_same_orientation(square, 50, 100)

    def test_hashes_without_a_counterpart_say_nothing(self):
        assert bits_apart("", "ff") is None and bits_apart("ff", "fff") is None
        assert bits_apart("0f0f", "f0f0") == 16
