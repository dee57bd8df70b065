"""How much detail pixels carry, and how alike pictures look, on real photographs.

The photographs are those that scikit-image ships; enlarged by a known factor with Pillow, the
estimate must come close to its inverse.
"""

import pytest
import pyvips
from PIL import Image
from skimage import data

from harnet.core.layout.swapping import SAME_SHOT_WITHIN_BITS, bits_apart
from harnet.media.pixels.detail import TILE_PX, detail_of
from harnet.media.pixels.likeness import likeness_of

PHOTOGRAPHS = ("astronaut", "coffee", "chelsea", "rocket")


def photograph(name):
    return Image.fromarray(getattr(data, name)())


def detail(image):
    return detail_of(pyvips.Image.new_from_array(image.convert("RGB")))


@pytest.mark.parametrize("name", PHOTOGRAPHS)
class TestPhotographs:
    def test_as_they_are_carry_detail_everywhere(self, name):
        found = detail(photograph(name))
        assert found.share > 0.9 and not found.is_much_lower

    @pytest.mark.parametrize("factor", [3, 4])
    def test_enlarged_are_exposed(self, name, factor):
        image = photograph(name)
        larger = image.resize((image.width * factor, image.height * factor), Image.BICUBIC)
        found = detail(larger)
        assert found.is_much_lower
        # Bicubic enlarging leaves a little beyond the old limit.
        assert 1 / factor * 0.8 < found.share < 1 / factor + 0.22

    def test_are_alike_at_other_sizes_and_qualities(self, name, tmp_path):
        image = photograph(name)
        image.save(tmp_path / "one.png")
        image.resize((image.width // 3, image.height // 3)).save(tmp_path / "o.jpg", quality=50)
        one, other = likeness_of(tmp_path / "one.png"), likeness_of(tmp_path / "o.jpg")
        assert bits_apart(one, other) <= SAME_SHOT_WITHIN_BITS


def test_different_photographs_are_not_alike(tmp_path):
    hashes = []
    for name in PHOTOGRAPHS:
        photograph(name).save(tmp_path / f"{name}.png")
        hashes.append(likeness_of(tmp_path / f"{name}.png"))
    apart = [
        bits_apart(one, other) for index, one in enumerate(hashes) for other in hashes[index + 1 :]
    ]
    assert min(apart) > SAME_SHOT_WITHIN_BITS


def test_smooth_pictures_say_little():
    smooth = pyvips.Image.xyz(600, 600)[0].linear(0.2, 40).cast("uchar").copy(interpretation="b-w")
    found = detail_of(smooth)
    assert found is None or not found.is_much_lower


def test_small_pictures_are_not_judged():
    assert detail(photograph("astronaut").resize((TILE_PX - 1, 400))) is None
