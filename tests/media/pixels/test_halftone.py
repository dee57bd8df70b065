"""The simulated press, measured from its drawings."""

import io
from pathlib import Path
from tempfile import mkdtemp

import numpy
import pytest
import pyvips
from PIL import Image, ImageCms

from harnet.core.measure.geometry import Matrix
from harnet.core.pictures.halftone import Angles, Press
from harnet.media.facts.read import facts_of
from harnet.media.pixels.colour import generic_cmyk, inked
from harnet.media.pixels.exact import write_exact
from harnet.media.pixels.halftone import Lens, PrintedPicture, printed_sample, sample_inks

PX_PER_INCH, EDGE = 1200.0, 240
LENS = Lens(EDGE, PX_PER_INCH)


@pytest.fixture
def printed(tmp_path):
    """A picture as what is printed: an inch across, around the sample's middle."""

    def make(image, **how):
        folder = Path(mkdtemp(dir=tmp_path))
        source, exact = folder / "picture.png", folder / "exact.tif"
        image.save(source)
        write_exact(source, facts_of(source), "picture.png", exact)
        matrix = Matrix.scaling(72, 72).then(Matrix.translation(-36, -36))
        return PrintedPicture(path=exact, **({"matrix": matrix} | how))

    return make


def drawn(data):
    """The light of a drawing, 0 to 1, by the sRGB curve (IEC 61966-2-1, from memory)."""
    value = numpy.asarray(Image.open(io.BytesIO(data)).convert("RGB")) / 255
    return numpy.where(value <= 0.04045, value / 12.92, ((value + 0.055) / 1.055) ** 2.4)


def black(tone):
    """A grey picture that takes so much black ink."""
    return Image.new("L", (64, 64), round(255 * (1 - tone)))


class TestDots:
    @pytest.mark.parametrize("tone", [0.1, 0.3, 0.5, 0.7, 0.9])
    @pytest.mark.parametrize("angle", [0, 15, 45, 75])
    def test_a_tone_covers_its_share_of_the_paper(self, printed, tone, angle):
        press = Press(100, Angles(black=angle), 0.0)
        one = printed(black(tone), black_only=True)
        paper, full = (
            drawn(printed_sample([printed(black(ink), black_only=True)], LENS, press)).mean()
            for ink in (0, 1)
        )
        light = drawn(printed_sample([one], LENS, press)).mean()
        assert (paper - light) / (paper - full) == pytest.approx(tone, abs=0.015)

    def test_dot_gain_grows_the_dots(self, printed):
        one, solid = printed(black(0.5), black_only=True), None
        light = drawn(printed_sample([one], LENS, Press(100, dot_gain=0.2))).mean()
        solid = printed(black(1), black_only=True)
        full = drawn(printed_sample([solid], LENS, Press(100))).mean()
        assert (1 - light) / (1 - full) == pytest.approx(0.7, abs=0.015)

    @pytest.mark.parametrize("lpi, angle", [(75, 45), (100, 15), (133, 75), (150, 0)])
    def test_the_screen_has_its_ruling_and_its_angle(self, printed, lpi, angle):
        one = printed(black(0.4), black_only=True)
        press = Press(lpi, Angles(black=angle), 0.0)
        light = drawn(printed_sample([one], LENS, press)).mean(axis=2)
        # A Fourier transform finds the lines on its own: steps of 5 lines per inch.
        power = numpy.abs(numpy.fft.fft2(light - light.mean()))
        row, column = numpy.unravel_index(power[: EDGE // 2].argmax(), (EDGE // 2, EDGE))
        along = numpy.fft.fftfreq(EDGE, 1 / PX_PER_INCH)
        assert numpy.hypot(along[row], along[column]) == pytest.approx(lpi, abs=5)
        found = numpy.degrees(numpy.arctan2(-along[row], along[column])) % 90
        assert min(abs(found - angle), 90 - abs(found - angle)) < 3

    def test_the_screen_stands_still_under_the_loupe(self, printed):
        one, press = printed(black(0.4), black_only=True), Press(100)
        here = drawn(printed_sample([one], LENS, press))
        moved = Lens(EDGE, PX_PER_INCH, x_in=40 / PX_PER_INCH, y_in=0)
        there = drawn(printed_sample([one], moved, press))
        assert numpy.abs(here[:, 40:] - there[:, :-40]).mean() < 0.01

    def test_dots_too_fine_to_draw_become_their_mean(self, printed):
        one, press = printed(Image.new("RGB", (64, 64), (180, 90, 60))), Press(150)
        coarse = drawn(printed_sample([one], Lens(EDGE, 1200), press)).mean(axis=(0, 1))
        fine = drawn(printed_sample([one], Lens(20, 96), press))
        assert fine.std(axis=(0, 1)).max() < 0.01
        assert fine.mean(axis=(0, 1)) == pytest.approx(coarse, abs=0.02)


def test_full_inks_have_the_colours_of_the_profile(printed):
    # Little CMS, through Pillow, is the reference.
    solid = Image.new("CMYK", (1, 1), (0, 255, 255, 0))
    seen = ImageCms.profileToProfile(
        solid,
        str(generic_cmyk()),
        ImageCms.createProfile("sRGB"),
        renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC,
        outputMode="RGB",
        flags=ImageCms.Flags.BLACKPOINTCOMPENSATION,
    ).getpixel((0, 0))
    # The red that this overprint shows takes both inks in full.
    one = printed(Image.new("RGB", (64, 64), seen))
    data = printed_sample([one], LENS, Press(100, dot_gain=0.0))
    found = numpy.asarray(Image.open(io.BytesIO(data)))[100:140, 100:140].mean(axis=(0, 1))
    assert found == pytest.approx(seen, abs=14)


class TestPixels:
    def test_each_pixel_is_a_square_of_its_own_size(self, printed):
        stripes = Image.fromarray(numpy.tile(numpy.uint8([[0, 255]]), (60, 30)))
        light = drawn(printed_sample([printed(stripes)], LENS, Press(0)))[EDGE // 2, :, 0]
        edges = numpy.flatnonzero(numpy.abs(numpy.diff(light > 0.5)))
        # 60 pixels to the inch, 1 200 drawn pixels to the inch.
        assert set(numpy.diff(edges)) == {20}

    def test_too_many_pixels_are_reduced_to_the_target(self, printed):
        stripes = Image.fromarray(numpy.tile(numpy.uint8([[0, 255]]), (600, 300)))
        sharp = drawn(printed_sample([printed(stripes)], LENS, Press(0)))
        less = drawn(printed_sample([printed(stripes, most_ppi=(150, 150))], LENS, Press(0)))
        assert sharp.std() > 0.4 and less.std() < 0.1

    def test_outside_of_its_frame_there_is_paper(self, printed):
        one = printed(black(1), outline=((-3, -3), (0, -3), (0, 3), (-3, 3)))
        light = drawn(printed_sample([one], LENS, Press(0)))
        assert light[EDGE // 2, EDGE // 2 - 20, 0] < 0.1
        assert light[EDGE // 2, EDGE // 2 + 20].min() > 0.95
        assert light[EDGE // 2 + 60, EDGE // 2 - 20].min() > 0.95

    def test_from_afar_what_an_eye_cannot_separate_is_even(self, printed):
        stripes = Image.fromarray(numpy.tile(numpy.uint8([[0, 255]]), (200, 100)))
        one = printed(stripes)
        near = Lens(EDGE, PX_PER_INCH)
        # Lines of 1/200 inch, seen with points of 1/40 inch.
        far = Lens(EDGE, PX_PER_INCH, blur_in=1 / 40)
        middle = slice(80, 160)
        assert drawn(printed_sample([one], near, Press(0)))[middle, middle].std() > 0.4
        assert drawn(printed_sample([one], far, Press(0)))[middle, middle].std() < 0.02


def test_the_table_agrees_with_the_conversion_itself():
    pixels = numpy.random.default_rng(5).integers(0, 256, (60, 60, 3), dtype=numpy.uint8)
    image = pyvips.Image.new_from_array(pixels, interpretation="srgb")
    exactly = inked(image, generic_cmyk()).numpy().astype(int)
    found = numpy.abs(sample_inks(image, None).astype(int) - exactly)
    # Inks run from 0 to 255.
    assert found.mean() < 1 and found.max() <= 8
