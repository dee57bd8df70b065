"""Formula 15: common practice, no source; and what travels along."""

from dataclasses import replace

import pytest

from harnet.core.documents.document import DocumentFacts, Leftover, LeftoverKind, Repeated
from harnet.core.documents.images import ImageKind, about_values, painted_from, row_of
from harnet.core.documents.shrinking import shrunk_to
from harnet.core.documents.travelling import cropped_parts, travelling_bytes
from harnet.core.measure.geometry import Matrix
from tests.core.preflight.test_package_rules import image


def at(ppi, number=1, **more):
    """An image of 2 × 2 in at a density."""
    px = round(2 * ppi)
    return image(number, px, px_h=px, matrix=Matrix(144, 0, 0, 144, 0, 0), **more)


@pytest.mark.parametrize("ppi", [72, 96, 110, 150, 200, 220, 300, 330])
def test_each_usual_density(ppi):
    found = shrunk_to([at(ppi, number) for number in range(4)])
    assert (found.ppi, found.at_it, found.pictures, found.denser) == (ppi, 4, 4, ())


def test_fewest_and_least_share():
    assert shrunk_to([at(220, number) for number in range(3)]) is None
    six_of_ten = [at(220, n) for n in range(6)] + [at(400 + 30 * n, 10 + n) for n in range(4)]
    assert shrunk_to(six_of_ten).denser == (10, 11, 12, 13)
    five_of_nine = [at(220, n) for n in range(5)] + [at(400 + 30 * n, 10 + n) for n in range(4)]
    assert shrunk_to(five_of_nine) is None


@pytest.mark.parametrize(("ppi", "is_it"), [(222, True), (218, True), (223, False), (217, False)])
def test_within_one_percent(ppi, is_it):
    assert (shrunk_to([at(ppi, number) for number in range(4)]) is not None) is is_it


def test_the_size_it_was_placed_with_counts():
    later = [at(440, number, placed_ppi=(220.0, 220.0)) for number in range(4)]
    assert shrunk_to(later).ppi == 220


def test_what_is_not_made_of_pixels_or_not_seen_does_not_count():
    images = [at(220, number) for number in range(3)]
    assert shrunk_to([*images, at(220, 9, unseen="hidden")]) is None
    assert shrunk_to([*images, at(220, 9, kind=ImageKind.VECTOR)]) is None
    assert shrunk_to([*images, at(220, 9, is_assumed=True)]) is None


def test_a_file_is_cropped_by_its_largest_view():
    quarter, half = (0.25, 0, 0, 0), (0.5, 0, 0, 0)
    images = [image(1, crop=half, part="a"), image(2, crop=quarter, part="a")]
    (found,) = cropped_parts(images)
    assert (found.share, found.picture.id, found.about_bytes) == (0.25, 2, 25_000)
    assert cropped_parts([*images, image(3, part="a")]) == []
    assert cropped_parts([image(1, crop=(0.005, 0, 0, 0))]) == []


def test_bytes_that_nobody_sees():
    read = DocumentFacts(
        name="x",
        pages=[],
        leftovers=(Leftover(part="b", kind=LeftoverKind.UNUSED, size_bytes=7),),
        repeated=(Repeated(parts=("c", "d", "e"), size_bytes=10),),
    )
    assert travelling_bytes(read, [image(1, crop=(0.25, 0, 0, 0))]) == 25_000 + 7 + 20


def test_an_image_is_kept_as_it_is():
    one = image(
        4,
        crop=(0.1, 0.2, 0.0, 0.3),
        shape_name="Map",
        heading="Tides",
        effects=("tinted",),
        placed_ppi=(10.0, 20.0),
        quality=80,
        is_assumed=True,
        kind=ImageKind.VECTOR,
        link="x",
    )
    assert painted_from(4, row_of(one)) == one
    plain = replace(one, crop=(0.0,) * 4, shape_name="", heading="", effects=(), placed_ppi=None)
    plain = replace(plain, quality=None, is_assumed=False, kind=ImageKind.RASTER, link="")
    assert set(about_values(plain)) == {"part", "size_bytes"}
