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
    grouped,
    memory_text,
    ppi_text,
    px_text,
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
