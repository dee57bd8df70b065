"""The copy that a frame needs: exactly its pixels, placed at exactly 100 %, never invented."""

from dataclasses import replace

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from harnet.core.copies.frame_copy import frame_copy, visible_part, with_copy
from harnet.core.copies.recipe import PixelBox
from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.placing import Content, Fit, Placement, Source, fitted
from harnet.core.measure.density import pixels_needed
from harnet.core.measure.geometry import Box
from harnet.core.targets.shipped import target_named

COATED = target_named("coated")
MM = 72 / 25.4


def made(placement, target=COATED):
    """The copy's own source, as it will be read from its file."""
    recipe = frame_copy(placement, target).recipe
    return Source(
        px_w=recipe.px_w, px_h=recipe.px_h, tag_x=recipe.density_x, tag_y=recipe.density_y
    )


def test_a_frame_of_336_by_267_mm_needs_3969_by_3154_px():
    # arithmetic
    source = Source(px_w=5184, px_h=4200, tag_x=72, tag_y=72)
    frame = Box(0, 0, 336 * MM, 267 * MM)
    placement = Placement(source=source, frame=frame, content=fitted(source, frame, Fit.COVER))
    copy = frame_copy(placement, COATED)
    assert (copy.needed_px_w, copy.needed_px_h) == (3969, 3154)
    assert (copy.recipe.px_w, copy.recipe.px_h) == (3969, 3154)
    assert (copy.recipe.density_x, copy.is_too_small) == (300, False)


def test_only_what_the_frame_shows_is_kept():
    # 1000 px over 1000 pt; the frame shows 200 … 600 across and 100 … 300 down
    content = Content(1, 1, -200, -100)
    placement = Placement(
        source=Source(px_w=1000, px_h=800), frame=Box(50, 50, 400, 200), content=content
    )
    low = target_named("36")
    assert frame_copy(placement, low).recipe.crop == PixelBox(200, 100, 400, 200)
    flipped = replace(placement, content=replace(content, flip_h=True, flip_v=True))
    # mirrored, the same stretch of the frame shows the other end of the picture
    assert frame_copy(flipped, low).recipe.crop == PixelBox(400, 500, 400, 200)


def test_too_few_pixels_are_kept_as_they_are():
    content = Content(1, 1)
    placement = Placement(
        source=Source(px_w=400, px_h=300), frame=Box(0, 0, 400, 300), content=content
    )
    copy = frame_copy(placement, COATED)
    assert copy.is_too_small
    assert (copy.recipe.px_w, copy.recipe.px_h) == (400, 300)
    assert copy.recipe.density_x == 72, "at 100 % it keeps the size it has on the page"
    assert not copy.recipe.change.is_enlarging


def test_an_empty_part_of_the_frame_asks_for_no_pixels():
    content = Content(0.1, 0.1, 20, 10)
    placement = Placement(
        source=Source(px_w=1000, px_h=1000), frame=Box(0, 0, 200, 200), content=content
    )
    part = visible_part(placement)
    assert (part.left_pt, part.top_pt, part.width_pt, part.height_pt) == (20, 10, 100, 100)
    assert frame_copy(placement, COATED).needed_px_w == pixels_needed(100, 300)


@pytest.mark.parametrize(
    "placement, why",
    [
        (
            Placement(
                source=Source(px_w=100, px_h=100, is_vector=True),
                frame=Box(0, 0, 50, 50),
                content=Content(1, 1),
            ),
            "vector picture",
        ),
        (
            Placement(
                source=Source(px_w=100, px_h=100),
                frame=Box(0, 0, 50, 50),
                content=Content(1, 1, 60, 0),
            ),
            "shows no part",
        ),
    ],
)
def test_where_there_is_nothing_to_copy(placement, why):
    with pytest.raises(ValueOutOfRange, match=why):
        frame_copy(placement, COATED)


placements = st.builds(
    Placement,
    source=st.builds(
        Source,
        px_w=st.integers(50, 9000),
        px_h=st.integers(50, 9000),
        tag_x=st.just(72.0),
        tag_y=st.just(72.0),
    ),
    frame=st.builds(
        Box, st.floats(-50, 50), st.floats(-50, 50), st.floats(5, 900), st.floats(5, 900)
    ),
    content=st.builds(
        Content,
        st.floats(0.02, 2),
        st.floats(0.02, 2),
        st.floats(-400, 100),
        st.floats(-400, 100),
        st.booleans(),
        st.booleans(),
    ),
    rotation_deg=st.floats(0, 360),
)


@given(placements, st.sampled_from([36.0, 72.0, 150.0, 300.0]))
def test_the_copy_stands_at_100_percent_over_what_was_visible(placement, ppi):
    target = target_named(str(ppi))
    try:
        part = visible_part(placement)
    except ValueOutOfRange:
        assume(False)
    copy = frame_copy(placement, target)
    after = with_copy(placement, made(placement, target))
    assert after.native_share == pytest.approx(1)
    density = after.density
    if not copy.is_too_small:
        assert density.x == pytest.approx(ppi) and density.y == pytest.approx(ppi)
        assert not copy.recipe.change.is_enlarging
    else:
        assert density.x == pytest.approx(placement.density.x)
    assert after.frame == placement.frame and after.rotation_deg == placement.rotation_deg
    # it covers the part that was visible, and reaches less than a pixel (of its own) beyond it
    now = visible_part(after)
    pixel_x, pixel_y = 72 / density.x, 72 / density.y
    assert now.left_pt <= part.left_pt + pixel_x * 0.51
    assert now.right_pt >= part.right_pt - pixel_x * 0.51
    assert abs(after.drawn_size_pt[0] - part.width_pt) <= 2 * pixel_x + 1e-6
    assert abs(after.drawn_size_pt[1] - part.height_pt) <= 2 * pixel_y + 1e-6
