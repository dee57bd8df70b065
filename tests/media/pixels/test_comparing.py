"""Images beside their originals in colour: open photographs with what people do to them."""

import numpy
import pytest
from PIL import Image
from skimage.color import deltaE_cie76

from harnet.core.documents.comparison import (
    Comparison,
    Outcome,
    comparison_as_values,
    comparison_from_values,
)
from harnet.core.measure.geometry import Matrix
from harnet.media.pixels.registration.comparing import compared, jpeg_of, lab_of
from harnet.media.pixels.registration.seen import SeenImage, beside_original
from harnet.media.pixels.registration.tone import toned
from tests.trials.changes import KINDS, LEAVE, changed, scenes, used

BY_NAME = {kind.name: kind for kind in KINDS}


def beside(name, kind, strength, seed=1):
    """An image of a photograph after a change, and the comparison with the photograph."""
    original, chance = scenes()[name], numpy.random.default_rng(seed)
    image, box = used(original, chance)
    image, quality = changed(image, BY_NAME[kind], strength, chance)
    across = (box[2] - box[0]) / image.width
    down = (box[3] - box[1]) / image.height
    to_original = Matrix(across, 0, 0, down, box[0], box[1])
    seen = SeenImage(numpy.asarray(image), quality)
    return image, beside_original(seen, numpy.asarray(original), to_original)


@pytest.mark.parametrize("strength", range(3))
@pytest.mark.parametrize("kind", [kind.name for kind in KINDS if kind.right == LEAVE])
@pytest.mark.parametrize("name", ["coffee", "astronaut"])
def test_what_was_edited_is_never_replaced_unasked(name, kind, strength):
    _, found = beside(name, kind, strength)
    assert not found.outcome.is_replaced_unasked
    assert found.is_softened or found.places or found.outcome is Outcome.ANOTHER


@pytest.mark.parametrize("kind", ["nothing but smaller", "compressed", "sharpened", "grainy"])
@pytest.mark.parametrize("strength", range(3))
def test_what_resampling_and_compression_explain_is_the_same(kind, strength):
    _, found = beside("coffee", kind, strength)
    assert found.outcome is Outcome.SAME
    assert found.tone is None


@pytest.mark.parametrize("kind", ["darker", "lighter", "saturation", "grey", "sepia", "warmer"])
def test_another_tone_is_found_and_carried_over(kind):
    original = scenes()["coffee"]
    image, box = used(original, numpy.random.default_rng(3))
    made, quality = changed(image, BY_NAME[kind], 2, numpy.random.default_rng(3))
    part = numpy.asarray(original.resize(image.size, Image.Resampling.BOX, box=box), float)
    found = compared(numpy.asarray(made), part.astype(numpy.float32), jpeg_of(quality))
    assert found.outcome is Outcome.ANOTHER_TONE
    assert found.tone.words
    # As an independent library measures it: seen from a little farther, nothing is left of it.
    new = Image.fromarray(numpy.clip(toned(part, found.tone), 0, 255).astype(numpy.uint8))
    labs = [lab_of(numpy.asarray(one.reduce(4))) for one in (made, new)]
    assert deltaE_cie76(*labs).mean() < 2
    assert found.untoned > 3 * found.difference


def test_a_hue_that_is_turned_is_a_matrix():
    _, found = beside("coffee", "hue turned", 1)
    assert found.outcome is Outcome.ANOTHER_TONE


def test_a_colour_picture_is_no_reduction_of_a_grey_one():
    original = scenes()["coffee"]
    image, box = used(original, numpy.random.default_rng(4))
    grey = original.convert("L").convert("RGB")
    part = numpy.asarray(grey.resize(image.size, Image.Resampling.BOX, box=box), numpy.float32)
    assert not compared(numpy.asarray(image), part).outcome.is_replaced_unasked


def test_the_place_of_a_patch_is_told():
    original = scenes()["chelsea"]
    image = original.resize((300, 200), Image.Resampling.LANCZOS)
    part = numpy.asarray(original.resize((300, 200), Image.Resampling.BOX), numpy.float32)
    image.paste((20, 200, 60), (90, 60, 150, 100))
    found = compared(numpy.asarray(image), part, jpeg_of(None))
    assert found.outcome is Outcome.EDITED
    [place] = found.places
    edges = place.left * 300, place.top * 200, place.right * 300, place.bottom * 200
    assert edges == pytest.approx((90, 60, 150, 100), abs=8)


def test_another_shot_is_one():
    original, other = (scenes()[name].resize((240, 160)) for name in ("coffee", "chelsea"))
    found = compared(numpy.asarray(original), numpy.asarray(other, numpy.float32))
    assert found.outcome is Outcome.ANOTHER


def test_values_come_back_as_they_were():
    _, found = beside("coffee", "sepia", 2)
    assert comparison_from_values(comparison_as_values(found)) == found


def test_lab_of_white_grey_and_red():
    # CIE 15:2004; red of sRGB in Lab (D50) as ICC profiles of sRGB give it, from memory.
    patches = numpy.array([[[255, 255, 255], [0, 0, 0], [255, 0, 0]]], numpy.uint8)
    white, black, red = lab_of(patches)[0]
    assert white == pytest.approx([100, 0, 0], abs=0.05)
    assert black == pytest.approx([0, 0, 0], abs=0.05)
    assert red == pytest.approx([54.29, 80.81, 69.89], abs=0.2)


def test_bounds_are_inclusive_and_an_outcome_follows_from_figures():
    same = {"difference": 2.0, "floor": 0.0, "area": 3.5, "spot": 5.0, "untoned": 2.0}
    assert Comparison(**same).outcome is Outcome.SAME
    assert Comparison(**same | {"spot": 5.1}, outside=1.0).outcome is Outcome.EDITED
    assert Comparison(**same | {"spot": 5.1}, differing_share=0.4).outcome is Outcome.ANOTHER
    assert Comparison(**same, is_softened=True).outcome is Outcome.EDITED


def test_one_bit_is_a_threshold_and_never_a_dither():
    original = scenes()["coffee"].convert("L")
    small = original.resize((original.width // 3, original.height // 3), Image.Resampling.BOX)
    cut = small.point(lambda value: 255 * (value > 120)).convert("RGB")
    dithered = small.convert("1").convert("RGB")
    colours = numpy.asarray(original.convert("RGB"))
    whole = Matrix.scaling(original.width / small.width, original.height / small.height)
    found = beside_original(SeenImage(numpy.asarray(cut), is_bilevel=True), colours, whole)
    assert found.outcome is Outcome.SAME
    assert found.threshold == pytest.approx(120, abs=16)
    found = beside_original(SeenImage(numpy.asarray(dithered), is_bilevel=True), colours, whole)
    assert not found.outcome.is_replaced_unasked
