"""Pictures of pictures: upright, small, and honest about their pixels."""

import io

import numpy as np
import pytest
from PIL import Image
from skimage import data as bundled

from harnet.media.pixels.examination import examine
from harnet.media.pixels.previews import SIZES, rung
from tests.support.pictures import photo


@pytest.mark.parametrize("mode", ["RGB", "L", "1", "P", "CMYK", "RGBA", "LAB"])
@pytest.mark.parametrize("ending", ["png", "tif", "jpg", "bmp", "gif", "webp"])
def test_every_kind_gets_its_previews_at_its_true_proportion(tmp_path, mode, ending):
    path = tmp_path / f"a.{ending}"
    try:
        if mode == "LAB":
            Image.frombytes("LAB", (600, 400), photo(600, 400).tobytes()).save(path)
        else:
            Image.fromarray(photo(600, 400)).convert(mode).save(path)
    except (OSError, ValueError):
        pytest.skip(f"Pillow writes no {mode} {ending}")
    previews = examine(path, path.name, tmp_path).previews
    assert set(previews) == {*SIZES, "spot"}
    with Image.open(previews["thumb"]) as image:
        assert image.size == (320, 213) and image.mode in ("RGB", "RGBA", "L")


def test_previews_are_upright(tmp_path):
    exif = Image.Exif()
    exif[274] = 6
    Image.fromarray(photo(600, 400)).save(tmp_path / "a.jpg", exif=exif)
    previews = examine(tmp_path / "a.jpg", "a.jpg", tmp_path).previews
    with Image.open(previews["thumb"]) as image:
        assert image.size == (213, 320)


def test_a_rung_of_the_ladder_shows_as_many_squares_as_its_density(tmp_path):
    path = tmp_path / "a.png"
    Image.fromarray(photo(900, 700)).save(path)
    spot = examine(path, "a.png", tmp_path).previews["spot"]
    with Image.open(spot) as image:
        assert image.size == (300, 300)
    for ppi in (1, 2, 3, 12):
        pixels = np.asarray(Image.open(io.BytesIO(rung(spot.read_bytes(), ppi, 120))), int)
        assert pixels.shape[:2] == (120, 120)
        steps = np.abs(np.diff(pixels, axis=1)).sum(axis=(0, 2)) > 0
        assert steps.sum() == ppi - 1, ppi


def test_drawings_in_pixels_are_told_from_photographs(tmp_path):
    def looks(pixels, name="a.png"):
        Image.fromarray(pixels).save(tmp_path / name)
        return examine(tmp_path / name, name, tmp_path).looks_drawn

    lines = np.full((400, 600), 255, "uint8")
    lines[::20, :] = lines[:, ::25] = 0
    assert looks(lines)
    assert looks(np.stack([lines] * 3, axis=-1)), "in RGB too"
    # scikit-image's bundled photograph and scanned page (public domain or CC0)
    assert not looks(bundled.coffee())
    assert not looks(np.full((400, 600), 255, "uint8")), "an empty sheet is no drawing"
    assert not looks(photo(600, 400))
