"""Registration on open photographs; the whole trial stands in docs/registration.md."""

import numpy
import pytest

from harnet.core.documents.same_shot import Registration, Sureness, sureness_of
from harnet.core.measure.geometry import Matrix
from harnet.media.pixels.registration.alike import ALIKE_BITS, AlikePoints
from harnet.media.pixels.registration.features import features_of, hashes_of, mirrored
from harnet.media.pixels.registration.register import registered, sought
from tests.trials.registration import changed, grey_of, off_by_px, photographs


@pytest.mark.parametrize("name", ["astronaut", "coffee", "flower"])
@pytest.mark.parametrize("seed", range(3))
def test_parts_are_found_to_within_a_pixel_or_so(name, seed):
    chance = numpy.random.default_rng(seed)
    image, change = changed(photographs()[name], chance, area=0.4)
    found = registered(sought(image), grey_of(photographs()[name]))
    assert sureness_of(found, change.quality) is Sureness.SURE
    # One pixel of the image is four of the original.
    assert off_by_px(found, image.shape, change) < 2


@pytest.mark.parametrize(("one", "other"), [("astronaut", "chelsea"), ("brick", "gravel")])
def test_another_picture_is_none(one, other):
    image, change = changed(photographs()[one], numpy.random.default_rng(4))
    found = registered(sought(image), grey_of(photographs()[other]))
    assert sureness_of(found, change.quality) is Sureness.NONE


def test_nearly_the_same_shot_is_never_sure():
    chance = numpy.random.default_rng(1)
    for _ in range(4):
        image, change = changed(photographs()["motorcycle left"], chance, scale=0.5)
        found = registered(sought(image), grey_of(photographs()["motorcycle right"]))
        assert sureness_of(found, change.quality) is not Sureness.SURE


def test_a_flat_image_is_nowhere():
    flat = numpy.full((80, 120), 0.5, numpy.float32)
    assert registered(sought(flat), grey_of(photographs()["camera"])) is None
    assert registered(sought(flat[:4]), grey_of(photographs()["camera"])) is None


def test_points_in_the_mirror_are_those_of_the_mirrored_image():
    image = grey_of(photographs()["camera"])
    ours = mirrored(features_of(image, 256, 300), image.shape[1])
    theirs = features_of(image[:, ::-1], 256, 300)
    bits, alike = hashes_of(ours, 300), 0
    for place, one in zip(theirs.places, hashes_of(theirs, 300), strict=True):
        near = numpy.hypot(*(ours.places - place).T) < 2
        if near.any():
            alike += numpy.bitwise_count(bits[near] ^ one).sum(axis=1).min() <= 24
    assert alike > 0.7 * len(theirs.places)


@pytest.mark.parametrize("pictures", [0, 1, 300])
def test_alike_points_are_those_that_comparing_all_with_all_finds(pictures):
    chance = numpy.random.default_rng(pictures)
    shelf = [chance.integers(0, 2**64, (40, 2), numpy.uint64) for _ in range(pictures)]
    wanted = chance.integers(0, 2**64, (60, 2), numpy.uint64)
    if pictures:
        # Forty of them are points of the last picture, each with a tenth of its bits turned over.
        flips = numpy.packbits(chance.random((40, 128)) < 0.1, axis=1).view(numpy.uint64)
        wanted[:40] = shelf[-1] ^ flips
    apart = [
        numpy.bitwise_count(wanted[:, None] ^ one[None]).sum(axis=2).min(axis=1) for one in shelf
    ]
    all_with_all = [int((one <= ALIKE_BITS).sum()) for one in apart]
    counts = AlikePoints(shelf).counts(wanted)
    assert len(counts) == pictures
    assert all(one <= most for one, most in zip(counts, all_with_all, strict=True))
    if pictures:
        assert counts[-1] >= 0.85 * all_with_all[-1] > 25
        assert sum(counts[:-1]) == 0


class TestSureness:
    def found(self, **more):
        values = {
            "edge_px": 300,
            "to_original": Matrix.scaling(2, 2),
            "similarity": 0.95,
            "points": 40,
            "unevenness": 0.001,
            "beyond_px": 0.0,
        }
        return Registration(**values | more)

    @pytest.mark.parametrize(
        ("more", "quality", "sureness"),
        [
            ({}, 90, Sureness.SURE),
            ({"similarity": 0.85}, 90, Sureness.PERHAPS),
            # Formula 17: what lost detail need not be as alike.
            ({"similarity": 0.85}, 59, Sureness.SURE),
            ({"similarity": 0.85, "to_original": Matrix.scaling(4, 4)}, 90, Sureness.SURE),
            ({"similarity": 0.79, "to_original": Matrix.scaling(4, 4)}, 50, Sureness.PERHAPS),
            ({"unevenness": 0.02}, 90, Sureness.PERHAPS),
            ({"unevenness": 0.02, "edge_px": 50}, 90, Sureness.SURE),
            ({"beyond_px": 1.5}, 90, Sureness.PERHAPS),
            ({"points": 5}, 90, Sureness.PERHAPS),
            ({"points": 4}, 90, Sureness.NONE),
            ({"similarity": 0.49}, 90, Sureness.NONE),
        ],
    )
    def test_formula_17(self, more, quality, sureness):
        assert sureness_of(self.found(**more), quality) is sureness
