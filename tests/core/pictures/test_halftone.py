"""Dot gain and what a press may be: formula 16."""

import pytest

from harnet.core.errors import ValueOutOfRange
from harnet.core.pictures.halftone import Angles, Press, checked_press, gained
from harnet.core.targets.shipped import SHIPPED
from harnet.core.targets.target import own_target
from harnet.core.targets.values import target_as_values, target_from_values


@pytest.mark.parametrize(
    "tone, gain, printed",
    [
        # Arithmetic: 4 · g · a · (1 − a) is g at a half and 0 at both ends.
        (0.0, 0.2, 0.0),
        (0.25, 0.2, 0.4),
        (0.5, 0.2, 0.7),
        (0.75, 0.2, 0.9),
        (1.0, 0.2, 1.0),
        (0.9, 0.5, 1.0),
        (0.4, 0.0, 0.4),
    ],
)
def test_dot_gain(tone, gain, printed):
    assert gained(tone, gain) == pytest.approx(printed)


def test_screens_lie_at_the_customary_angles():
    # Common practice, no source.
    assert Angles().each == (15, 75, 0, 45)


@pytest.mark.parametrize(
    "press, words",
    [
        (Press(5), "between 10 and 400 lpi, not 5"),
        (Press(150, dot_gain=0.6), "between 0 and 50 %, not 60 %"),
        (Press(150, Angles(black=float("inf"))), "angle"),
    ],
)
def test_a_press_that_cannot_be(press, words):
    with pytest.raises(ValueOutOfRange, match=words):
        checked_press(press)


def test_no_screen_is_a_press_too():
    assert not checked_press(Press(0)).has_screen


class TestScreensOfTargets:
    def test_a_screen_needs_one_and_a_half_pixels_a_line(self):
        for target in SHIPPED:
            if target.screen_lpi:
                assert 1.5 <= target.density_ppi / target.screen_lpi <= 2.1, target.key

    def test_kept_ones_from_before_take_their_own(self):
        for target in SHIPPED:
            values = target_as_values(target)
            assert target_from_values(values) == target
            del values["screen_lpi"]
            assert target_from_values(values).screen_lpi == target.screen_lpi

    def test_a_custom_figure_keeps_the_screen(self):
        assert own_target(240, SHIPPED[0]).screen_lpi == SHIPPED[0].screen_lpi
