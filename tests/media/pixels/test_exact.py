"""Exact previews hold every pixel; differences agree with the library's own and with arithmetic."""

import io
from itertools import pairwise

import numpy as np
import pytest
from PIL import Image
from skimage import data as bundled
from skimage.metrics import structural_similarity

from harnet.media.facts.read import facts_of
from harnet.media.pixels.difference import difference
from harnet.media.pixels.exact import exact_square, exact_tile, levels_of, write_exact
from tests.support.pictures import photo


def exact(path, target):
    write_exact(path, facts_of(path), path.name, target)
    return target


def pieced_together(path):
    level = levels_of(path)[0]
    pixels = np.zeros((level.px_h, level.px_w, 3), "uint8")
    for row in range(-(-level.px_h // 256)):
        for column in range(-(-level.px_w // 256)):
            with Image.open(io.BytesIO(exact_tile(path, 0, column, row))) as tile:
                part = np.asarray(tile)
            top, left = row * 256, column * 256
            pixels[top : top + part.shape[0], left : left + part.shape[1]] = part
    return pixels


@pytest.mark.parametrize("orientation", [1, 3, 6])
def test_the_tiles_are_the_picture_pixel_for_pixel(tmp_path, orientation):
    exif = Image.Exif()
    exif[274] = orientation
    Image.fromarray(photo(700, 300)).save(tmp_path / "a.tif", exif=exif)
    path = exact(tmp_path / "a.tif", tmp_path / "exact.tif")
    turned = np.rot90(photo(700, 300), {1: 0, 3: 2, 6: -1}[orientation])
    assert (pieced_together(path) == turned).all()
    widths = [level.px_w for level in levels_of(path)]
    assert all(wide // 2 == narrow for wide, narrow in pairwise(widths))


@pytest.mark.parametrize("mode", ["1", "L", "P", "CMYK", "RGBA", "LAB"])
def test_every_colour_becomes_srgb(tmp_path, mode):
    if mode == "LAB":
        Image.frombytes("LAB", (300, 200), photo().tobytes()).save(tmp_path / "a.tif")
    else:
        Image.fromarray(photo()).convert(mode).save(tmp_path / "a.tif")
    path = exact(tmp_path / "a.tif", tmp_path / "exact.tif")
    assert pieced_together(path).std() > 10


@pytest.fixture
def pair(tmp_path):
    """scikit-image's photograph of a coffee cup (CC0), and the same more coarsely packed."""
    pixels = bundled.coffee()
    Image.fromarray(pixels).save(tmp_path / "one.png")
    Image.fromarray(pixels).save(tmp_path / "other.jpg", quality=40)
    with Image.open(tmp_path / "other.jpg") as image:
        packed = np.asarray(image)
    files = [tmp_path / "one.png", tmp_path / "other.jpg"]
    exacts = [exact(path, tmp_path / f"{path.stem}-exact.tif") for path in files]
    return pixels, packed, *exacts


def test_ssim_and_peak_are_the_librarys(pair):
    pixels, packed, one, other = pair
    found = difference(one, other)
    wanted = structural_similarity(pixels, packed, channel_axis=2, data_range=255)
    assert found.ssim == pytest.approx(wanted, abs=0.003)
    assert found.peak == pytest.approx(np.abs(pixels.astype(int) - packed).max(), abs=3)
    assert (found.px_w, found.px_h) == (600, 400)
    same = difference(one, one)
    assert (same.ssim, same.peak) == (1.0, 0)


def test_a_smaller_copy_is_measured_at_its_own_pixels(pair, tmp_path):
    pixels, _, one, _ = pair
    Image.fromarray(pixels).resize((300, 200), Image.Resampling.LANCZOS).save(tmp_path / "s.png")
    small = exact(tmp_path / "s.png", tmp_path / "s.tif")
    found = difference(one, small)
    assert (found.px_w, found.px_h) == (300, 200) and found.ssim > 0.98


def test_other_proportions_are_not_measured(pair, tmp_path):
    Image.fromarray(photo(300, 300)).save(tmp_path / "s.png")
    assert difference(pair[2], exact(tmp_path / "s.png", tmp_path / "s.tif")) is None


def test_a_square_of_real_pixels_lies_inside_the_picture(tmp_path):
    """Pillow cuts the same square out of the original."""
    pixels = photo(500, 400, seed=3)
    path = tmp_path / "a.png"
    Image.fromarray(pixels).save(path)
    made = exact(path, tmp_path / "exact.tif")
    for at, left, top in (((0.5, 0.5), 150, 100), ((0.0, 0.0), 0, 0), ((1.0, 1.0), 300, 200)):
        found = np.asarray(Image.open(io.BytesIO(exact_square(made, at, 200))))
        assert (found == pixels[top : top + 200, left : left + 200]).all()
    whole = Image.open(io.BytesIO(exact_square(made, (0.5, 0.5), 900)))
    assert whole.size == (400, 400), "as large as the shorter side"
