"""What people type and what they read."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.expression import length_meant
from harnet.core.measure.units import Unit, from_points, to_points
from harnet.core.measure.wording import (
    bytes_text,
    counted,
    exact_length_text,
    grouped,
    length_text,
    memory_text,
    ppi_text,
    px_text,
    reach_text,
    share_text,
    size_text,
)
from harnet.core.pictures.picture import Colour, Facts, Kind, facts_as_values, facts_from_values


@given(st.floats(-1e5, 1e5), st.sampled_from(Unit), st.floats(10, 2400))
def test_units_convert_there_and_back(length, unit, per_inch):
    there = from_points(to_points(length, unit, per_inch), unit, per_inch)
    assert there == pytest.approx(length, abs=1e-9)


@pytest.mark.parametrize(
    "text, points",
    [
        ("10", 28.346),
        ("10mm", 28.346),
        ("1 cm", 28.346),
        ("1in", 72),
        ("-3 pt", -3),
        ("2,5 in", 180),
    ],
)
def test_lengths_as_typed(text, points):
    assert length_meant(text, Unit.MM) == pytest.approx(points, abs=0.001)


@pytest.mark.parametrize("text", ["", "wide", "10 miles", "1e9", "1" * 40, "4 5", "nan"])
def test_other_texts_are_no_length(text):
    with pytest.raises(ValueOutOfRange, match="is not a"):
        length_meant(text, Unit.MM)


def test_figures_are_written_with_thousands_apart_and_a_real_minus():
    assert grouped(1234567) == "1\u00a0234\u00a0567"
    assert share_text(-0.294) == "\u221229\u00a0%"
    assert share_text(0.144, signed=True) == "+14\u00a0%"
    assert share_text(0.001, signed=True) == "0\u00a0%"
    assert px_text(5184, 3456) == "5\u00a0184 × 3\u00a0456"
    assert px_text(None, None) == ""


def test_a_density_is_not_rounded_across_a_boundary():
    assert ppi_text(269.9) == "269.9"
    assert ppi_text(270.0) == "270"
    assert ppi_text(212.4) == "212"


def test_sizes_and_bytes():
    assert size_text(419.53, 595.28, Unit.MM) == "148 × 210 mm"
    assert size_text(72, 36, Unit.INCH, digits=2) == "1 × 0.5 in"
    assert bytes_text(999) == "999 bytes"
    assert bytes_text(6_800_000) == "6.8 MB"
    assert memory_text(5184 * 3456 * 3) == "51.3 MiB"
    assert counted(1, "picture is", "pictures are") == "1 picture is"


def test_facts_survive_being_written_as_a_row():
    facts = Facts(
        kind=Kind.RASTER,
        format="tiff",
        px_w=10,
        px_h=20,
        density_x=300.0,
        density_y=None,
        colour=Colour.LAB,
        bits=16,
        channels=3,
        alpha=False,
        lossy=False,
        icc="x",
        frames=2,
        size_bytes=99,
    )
    assert facts_from_values(facts_as_values(facts)) == facts


class TestReach:
    """The largest size is rounded down: nobody who uses it falls short."""

    @pytest.mark.parametrize(
        "px, ppi, unit, expected",
        [
            # 1 050 × 700 px at 300: 3.5 × 2.333 in, and never "4 × 2 in"
            ((1050, 700), 300, Unit.INCH, "3.5 × 2.33 in"),
            ((1050, 700), 300, Unit.MM, "88.9 × 59.2 mm"),
            ((3600, 2400), 300, Unit.INCH, "12 × 8 in"),
            ((850, 850), 300, Unit.INCH, "2.83 × 2.83 in"),
        ],
    )
    def test_as_a_text(self, px, ppi, unit, expected):
        assert reach_text(*(one * 72 / ppi for one in px), unit) == expected

    @given(st.floats(1, 14_400), st.sampled_from(Unit), st.booleans())
    def test_is_never_more_than_it_is(self, length, unit, is_short):
        text = reach_text(length, length, unit, is_short=is_short)
        shown = float(text.split()[0])
        assert shown <= from_points(length, unit) + 1e-6


def test_a_bleed_of_an_eighth_of_an_inch_is_shown_whole():
    assert exact_length_text(9, Unit.INCH) == "0.125"
    assert length_text(9, Unit.INCH) == "0.13"
