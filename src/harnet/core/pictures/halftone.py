"""The simulated press: line screens with their angles, and dot gain."""

import math
from dataclasses import dataclass

from harnet.core.errors import ValueOutOfRange

LOWEST_LPI, HIGHEST_LPI = 10.0, 400.0
DOT_GAIN, HIGHEST_GAIN = 0.2, 0.5
"""Customary of offset presses (common practice, no source), and the most that can be set."""


@dataclass(frozen=True, slots=True)
class Angles:
    """The angles of the four screens, in degrees counter-clockwise.

    Common practice, no source: 30° apart for the dark inks, yellow between them.
    """

    cyan: float = 15.0
    magenta: float = 75.0
    yellow: float = 0.0
    black: float = 45.0

    @property
    def each(self) -> tuple[float, float, float, float]:
        """The angles in the order of the inks."""
        return self.cyan, self.magenta, self.yellow, self.black


@dataclass(frozen=True, slots=True)
class Press:
    """How a press prints tones: lines per inch (0 where it has no line screen), angles, dot gain.

    `dot_gain` is how much a tone of 50 % grows, as a share: 0.2 prints it as 70 %.
    """

    lpi: float
    angles: Angles = Angles()
    dot_gain: float = DOT_GAIN

    @property
    def has_screen(self) -> bool:
        """Whether tones are printed as dots in lines at all."""
        return self.lpi > 0


def checked_press(press: Press) -> Press:
    """The press, once its figures are some that a press can have.

    Raises:
        ValueOutOfRange: a figure out of its range; the text says which.
    """
    if press.has_screen and not LOWEST_LPI <= press.lpi <= HIGHEST_LPI:
        raise ValueOutOfRange(
            f"a line screen is between {LOWEST_LPI:g} and {HIGHEST_LPI:g} lpi, not {press.lpi:g}"
        )
    if not 0 <= press.dot_gain <= HIGHEST_GAIN:
        raise ValueOutOfRange(
            f"dot gain is between 0 and {100 * HIGHEST_GAIN:g} %, not {100 * press.dot_gain:g} %"
        )
    if not all(math.isfinite(angle) and -360 <= angle <= 360 for angle in press.angles.each):
        raise ValueOutOfRange("the angle of a screen is between −360 and 360 degrees")
    return press


def gained(tone: float, dot_gain: float) -> float:
    """A tone as it prints, both as shares of the paper covered; never above 1.

    The growth is a parabola that is highest at 50 %, where it is `dot_gain` (common practice, no
    source).

    >>> round(gained(0.5, 0.15), 6)
    0.65
    """
    return min(1.0, tone + 4 * dot_gain * tone * (1 - tone))
