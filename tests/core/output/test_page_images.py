"""Page images: pixels, pages and names. The pixels of pages are arithmetic."""

from dataclasses import replace

import pytest

from harnet.core.errors import ValueOutOfRange
from harnet.core.output.page_images import (
    ImageFormat,
    ImageSettings,
    SizeBy,
    checked_image_settings,
    image_name,
    image_settings_as_values,
    image_settings_from_values,
    page_numbers,
)

INCH = 72.0


# Page 13⅓ × 7½ in and 10 × 7½ in: arithmetic, and stated in practice.
@pytest.mark.parametrize(
    "ppi, px",
    [
        (96, (1280, 720)), (100, (1333, 750)), (150, (2000, 1125)), (200, (2667, 1500)),
        (250, (3333, 1875)), (300, (4000, 2250)),
    ],
)  # fmt: skip
def test_a_slide_at_the_usual_densities(ppi, px):
    assert ImageSettings(density_ppi=ppi).px_for(40 / 3 * INCH, 7.5 * INCH) == px


def test_a_page_of_pixels_leaves_with_others():
    # 1920 × 1080 px at 96 are 20 × 11.25 in.
    page = 20 * INCH, 11.25 * INCH
    assert ImageSettings(density_ppi=300).px_for(*page) == (6000, 3375)
    assert ImageSettings(density_ppi=96).px_for(*page) == (1920, 1080)
    by_width = ImageSettings(size_by=SizeBy.WIDTH, edge_px=1920)
    assert by_width.density_for(*page) == 96 and by_width.px_for(*page) == (1920, 1080)
    assert ImageSettings(size_by=SizeBy.HEIGHT, edge_px=540).px_for(*page) == (960, 540)


@pytest.mark.parametrize(
    "text, numbers",
    [
        ("all", [1, 2, 3, 4, 5]), ("", [1, 2, 3, 4, 5]), ("3", [3]), ("1-3", [1, 2, 3]),
        ("5, 1 – 2", [1, 2, 5]), ("2;2 2", [2]), ("4 - 5 1", [1, 4, 5]),
    ],
)  # fmt: skip
def test_pages_as_a_person_writes_them(text, numbers):
    assert page_numbers(text, 5) == numbers


@pytest.mark.parametrize("text", ["0", "6", "3-1", "one", "1-", "-3", "1.5"])
def test_pages_that_are_none(text):
    with pytest.raises(ValueOutOfRange):
        page_numbers(text, 5)


def test_names_sort_by_page():
    settings = ImageSettings(format=ImageFormat.TIFF, names="{title} {page} at {ppi}")
    assert image_name(settings, "Handbook", 7, 120, 299.99) == "Handbook 007 at 300.tif"


@pytest.mark.parametrize(
    "changes",
    [
        {"density_ppi": 71.9},
        {"density_ppi": 1200.1},
        {"size_by": SizeBy.HEIGHT, "edge_px": 60_001},
        {"quality": 0},
        {"names": "{title}"},
        {"size_by": SizeBy.BYTES, "format": ImageFormat.JPEG, "limit_bytes": 999},
    ],
)
def test_settings_that_make_no_sense(changes):
    with pytest.raises(ValueOutOfRange):
        checked_image_settings(replace(ImageSettings(), **changes))


def test_settings_survive_as_values():
    settings = ImageSettings(
        format=ImageFormat.JPEG,
        size_by=SizeBy.BYTES,
        density_ppi=150,
        edge_px=0,
        limit_bytes=500_000,
        quality=80,
        pages="2-4",
    )
    assert image_settings_from_values(image_settings_as_values(settings)) == settings
