"""Recipes of print copies: what they ask, what they cost, and what is refused."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from harnet.core.copies.recipe import (
    Compression,
    CopyColour,
    CopyFormat,
    Kernel,
    Padding,
    PadEdges,
    PixelBox,
    Recipe,
    checked,
    copy_bytes,
    plain_copy,
    recipe_as_values,
    recipe_from_values,
)
from harnet.core.copies.size import ChangedField, CopySize, at_density, copy_size
from harnet.core.errors import ValueOutOfRange
from harnet.core.pictures.picture import Colour, Facts, Kind

MIB = 2**20


def facts(px_w=5184, px_h=3456, colour=Colour.RGB, bits=8, channels=3, **more):
    known = {"alpha": False, "lossy": True, "icc": None, "frames": 1, "size_bytes": 1} | more
    return Facts(
        kind=Kind.RASTER,
        format="jpeg",
        px_w=px_w,
        px_h=px_h,
        density_x=72.0,
        density_y=72.0,
        colour=colour,
        bits=bits,
        channels=channels,
        **known,
    )


PHOTO = facts()
WHOLE = PixelBox(0, 0, 5184, 3456)
SHRUNK = Recipe(crop=WHOLE, px_w=709, px_h=473, density_x=300, density_y=300)
ENLARGED = Recipe(crop=WHOLE, px_w=21600, px_h=14400, density_x=300, density_y=300)


class TestWhatACopyCosts:
    def test_enlarging_says_what_is_invented(self):
        # arithmetic, and stated in practice: 94.2 % invented, 889.9 MiB
        assert ENLARGED.change.interpolated_share == pytest.approx(0.942, abs=0.0005)
        assert copy_bytes(ENLARGED, PHOTO) / MIB == pytest.approx(889.9, abs=0.05)

    def test_shrinking_invents_nothing(self):
        assert SHRUNK.change.interpolated_share == 0 and not SHRUNK.change.is_enlarging

    def test_an_edge_that_shrinks_does_not_make_up_for_one_that_grows(self):
        change = Recipe(
            crop=PixelBox(0, 0, 100, 100), px_w=50, px_h=200, density_x=300, density_y=300
        ).change
        assert change.is_enlarging and change.interpolated_share == 0.5

    @pytest.mark.parametrize(
        "change, channels",
        [
            ({}, 3),
            ({"colour": CopyColour.GREY}, 1),
            ({"colour": CopyColour.CMYK}, 4),
            ({"colour": CopyColour.SRGB, "bits": 16}, 6),
            (
                {"padding": Padding(left=10, top=10, right=10, bottom=10)},
                3 * 729 * 493 / (709 * 473),
            ),
        ],
    )
    def test_unpacked_bytes(self, change, channels):
        recipe = replace(SHRUNK, **change)
        assert copy_bytes(recipe, PHOTO) == pytest.approx(709 * 473 * channels)


class TestKernels:
    @pytest.mark.parametrize(
        "asked, shrinking, enlarging",
        [
            (Kernel.AUTO, Kernel.LANCZOS3, Kernel.NOHALO),
            (Kernel.NEAREST, Kernel.NEAREST, Kernel.NEAREST),
            (Kernel.LINEAR, Kernel.LINEAR, Kernel.LINEAR),
            (Kernel.CUBIC, Kernel.CUBIC, Kernel.CUBIC),
            (Kernel.MITCHELL, Kernel.MITCHELL, Kernel.CUBIC),
            (Kernel.LANCZOS3, Kernel.LANCZOS3, Kernel.CUBIC),
        ],
    )
    def test_the_one_that_works_is_told(self, asked, shrinking, enlarging):
        assert replace(SHRUNK, kernel=asked).used_kernel is shrinking
        assert replace(ENLARGED, kernel=asked).used_kernel is enlarging


REFUSED = [
    ({"crop": PixelBox(0, 0, 0, 10)}, PHOTO, "at least 1 × 1"),
    ({"crop": PixelBox(10, 0, 5184, 10)}, PHOTO, "extends beyond the picture"),
    ({"crop": PixelBox(-1, 0, 10, 10)}, PHOTO, "extends beyond the picture"),
    ({"px_w": 0}, PHOTO, "at least 1 × 1 pixels, not 0 × 473"),
    ({"px_h": -5}, PHOTO, "at least 1 × 1"),
    ({"px_w": 500_000, "px_h": 100, "may_interpolate": True}, PHOTO, "too large"),
    ({"px_w": 30_000, "px_h": 30_000, "may_interpolate": True}, PHOTO, "limit is 400 megapixels"),
    ({"padding": Padding(left=-1)}, PHOTO, "crop"),
    ({"padding": Padding(left=710, edges=PadEdges.MIRROR)}, PHOTO, "as wide as the picture"),
    ({"density_x": 0.0}, PHOTO, "density tag is between"),
    ({"density_y": float("nan")}, PHOTO, "density tag is between"),
    ({"quality": 0}, PHOTO, "between 1 and 100"),
    ({"quality": 101}, PHOTO, "between 1 and 100"),
    ({"bits": 12}, PHOTO, "8 or 16"),
    ({"px_w": 5185}, PHOTO, "interpolat"),
    ({"format": CopyFormat.PNG, "colour": CopyColour.CMYK}, PHOTO, "PNG cannot hold CMYK"),
    ({"format": CopyFormat.PNG}, facts(colour=Colour.CMYK), "PNG cannot hold CMYK"),
    ({"format": CopyFormat.PNG}, facts(colour=Colour.LAB), "hold CMYK or Lab"),
    ({"colour": CopyColour.CMYK}, facts(alpha=True), "CMYK copy cannot hold alpha"),
    ({"format": CopyFormat.JPEG}, facts(colour=Colour.LAB), "JPEG cannot hold Lab"),
    ({"format": CopyFormat.JPEG, "bits": 16}, PHOTO, "8 bits per channel"),
    ({"format": CopyFormat.JPEG}, facts(bits=16), "8 bits per channel"),
    ({"format": CopyFormat.JPEG}, facts(alpha=True), "cannot hold alpha"),
    (
        {"format": CopyFormat.JPEG, "px_w": 70_000, "px_h": 50, "may_interpolate": True},
        PHOTO,
        "at most 65535",
    ),
]


class TestRefusals:
    @pytest.mark.parametrize("change, of, why", REFUSED)
    def test_what_cannot_be_is_refused_with_a_reason(self, change, of, why):
        with pytest.raises(ValueOutOfRange, match=why):
            checked(replace(SHRUNK, **change), of)

    @pytest.mark.parametrize(
        "change",
        [
            {},
            {"crop": PixelBox(5183, 3455, 1, 1), "px_w": 1, "px_h": 1},
            {"px_w": 5184, "px_h": 3456},
            {"px_w": 5185, "may_interpolate": True},
            {"quality": 1, "format": CopyFormat.JPEG},
            {"padding": Padding(left=709, edges=PadEdges.MIRROR)},
        ],
    )
    def test_what_just_can_be_is_allowed(self, change):
        recipe = replace(SHRUNK, **change)
        assert checked(recipe, PHOTO) is recipe

    def test_line_art_needs_no_copy(self):
        line_art = replace(PHOTO, px_w=None, px_h=None, kind=Kind.VECTOR)
        with pytest.raises(ValueOutOfRange, match="sharp at any size"):
            checked(SHRUNK, line_art)


recipes = st.builds(
    Recipe,
    crop=st.builds(PixelBox, *[st.integers(0, 9999)] * 4),
    px_w=st.integers(1, 9999),
    px_h=st.integers(1, 9999),
    density_x=st.floats(1, 2400),
    density_y=st.floats(1, 2400),
    kernel=st.sampled_from(Kernel),
    padding=st.builds(
        Padding,
        left=st.integers(0, 99),
        top=st.integers(0, 99),
        right=st.integers(0, 99),
        bottom=st.integers(0, 99),
        edges=st.sampled_from(PadEdges),
    ),
    colour=st.sampled_from(CopyColour),
    bits=st.sampled_from([None, 8, 16]),
    format=st.sampled_from(CopyFormat),
    compression=st.sampled_from(Compression),
    is_big_endian=st.booleans(),
)


@given(recipes)
def test_a_recipe_kept_as_plain_values_comes_back_the_same(recipe):
    assert recipe_from_values(recipe_as_values(recipe)) == recipe


def test_the_plain_copy_keeps_every_pixel():
    recipe = plain_copy(PHOTO, 300)
    assert (recipe.px_w, recipe.px_h, recipe.format) == (5184, 3456, CopyFormat.JPEG)
    assert plain_copy(facts(bits=16, lossy=False), 300).format is CopyFormat.TIFF


class TestSizeOfACopy:
    def test_each_figure_leads_in_turn(self):
        # arithmetic: 5 184 × 3 456 px; 60 mm at 300 ppi are 709 px
        mm = 72 / 25.4
        by_width = copy_size(WHOLE, ChangedField.WIDTH, 60 * mm, 300)
        assert (by_width.px_w, by_width.px_h) == (709, 472)
        by_height = copy_size(WHOLE, ChangedField.HEIGHT, 40 * mm, 300)
        assert (by_height.px_w, by_height.px_h) == (709, 472)
        assert copy_size(WHOLE, ChangedField.PX_W, 2592, 300).px_h == 1728
        assert copy_size(WHOLE, ChangedField.PX_H, 1728, 300).px_w == 2592
        coarser = at_density(by_width, 150)
        assert (coarser.px_w, coarser.px_h) == (355, 236)
        half = copy_size(PixelBox(10, 10, 1001, 500), ChangedField.SHARE, 0.5, 300)
        assert (half.px_w, half.px_h) == (501, 250)

    @given(
        st.builds(PixelBox, st.just(0), st.just(0), st.integers(1, 20000), st.integers(1, 20000)),
        st.floats(0.001, 1),
    )
    def test_a_smaller_share_never_enlarges(self, crop, share):
        size = copy_size(crop, ChangedField.SHARE, share, 300)
        assert 1 <= size.px_w <= crop.width and 1 <= size.px_h <= crop.height

    @pytest.mark.parametrize("figure", [0, -3, float("nan"), float("inf")])
    @pytest.mark.parametrize("leads", list(ChangedField))
    def test_nonsense_is_refused(self, leads, figure):
        with pytest.raises(ValueOutOfRange, match="above 0"):
            copy_size(WHOLE, leads, figure, 300)

    def test_absurd_sizes_and_broken_pixels_are_refused(self):
        with pytest.raises(ValueOutOfRange, match="too many for a copy"):
            copy_size(WHOLE, ChangedField.PX_W, 5e6, 300)
        with pytest.raises(ValueOutOfRange, match="whole pixels"):
            copy_size(WHOLE, ChangedField.PX_W, 100.5, 300)


@given(st.integers(1, 20_000), st.integers(1, 20_000), st.floats(36, 1200))
def test_twice_the_density_is_exactly_twice_the_pixels(px_w, px_h, ppi):
    doubled = at_density(CopySize(px_w, px_h, ppi), 2 * ppi)
    assert (doubled.px_w, doubled.px_h) == (2 * px_w, 2 * px_h)


@given(*[st.integers(-3000, 3000)] * 4)
def test_a_crop_is_clamped_and_never_lost(left, top, width, height):
    whole = PixelBox(0, 0, 600, 400)
    crop = PixelBox(left, top, width, height).clamped_to(whole)
    assert 0 <= crop.left < crop.left + crop.width <= 600
    assert 0 <= crop.top < crop.top + crop.height <= 400
    if left >= 0 and left + width <= 600 and width >= 1:
        assert (crop.left, crop.width) == (left, width)
