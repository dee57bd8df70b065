"""Rounding as people do it: halves go up, away from zero."""

import math

_HAIR = 1e-9
"""A half that lost its last bits in arithmetic is still a half."""


def half_up(figure: float) -> int:
    """The nearest whole number; a half goes to the larger one, below zero to the smaller one.

    >>> half_up(2.5), half_up(3.5), half_up(-2.5), half_up(0.49)
    (3, 4, -3, 0)
    """
    whole = math.floor(abs(figure) + 0.5 + _HAIR * max(1.0, abs(figure)))
    return whole if figure >= 0 else -whole
