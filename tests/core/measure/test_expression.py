"""Sums of lengths as people type them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.expression import length_meant
from harnet.core.measure.units import Unit

MM = 72 / 25.4


@pytest.mark.parametrize(
    "text, mm",
    [
        # arithmetic
        ("120", 120),
        ("12,5", 12.5),
        ("210mm/2 - 5", 100),
        ("210 mm / 2 - 5 mm", 100),
        ("1in", 25.4),
        ("1 in + 1 cm", 35.4),
        ("2*(10 + 5mm)", 30),
        ("72pt", 25.4),
        ("96px", 25.4),
        ("-3", -3),
        ("10 − 4", 6),
        ("3 × 5 ÷ 2", 7.5),
        ("1 - 2 - 3", -4),
        ("12 / 2 / 3", 2),
        (".5in", 12.7),
    ],
)
def test_what_is_meant(text, mm):
    assert length_meant(text, Unit.MM) == pytest.approx(mm * MM)


@pytest.mark.parametrize(
    "text",
    [
        "", "  ", "wide", "5 miles", "5mm*5mm", "5/0", "5/2mm", "(5", "5)", "5+", "*5", "5 5",
        "1e5", "5**2", "__import__('os')", "(" * 60 + "5" + ")" * 60, "-" * 80 + "5",
    ],
)  # fmt: skip
def test_what_is_not_a_length_is_refused(text):
    with pytest.raises(ValueOutOfRange, match="is not a length"):
        length_meant(text, Unit.MM)


@given(st.text(alphabet="0123456789.,+-*/() mcinptx", max_size=30))
def test_nothing_else_ever_comes_out(text):
    try:
        points = length_meant(text, Unit.MM)
    except ValueOutOfRange:
        return
    assert abs(points) < 1e300
