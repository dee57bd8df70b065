"""Effective density, reach and headroom: formulas 1 to 5, 7, 9 and 10."""

import math
from dataclasses import dataclass

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.geometry import Matrix
from harnet.core.measure.units import POINTS_PER_INCH

ASSUMED_DENSITY_PPI = 72.0
"""What a picture without a density tag counts as, only where a size is needed."""
UNEVEN_ABOVE = 0.01
"""Common practice, no source: a difference of one percent not visible."""
_JUDGED_TO_PPI = 0.05


@dataclass(frozen=True, slots=True)
class EffectiveDensity:
    """Pixels per inch of a picture as it stands on the page, in ppi.

    `x` and `y` run along the picture's own axes; `worst` is the lowest in any direction.
    """

    x: float
    y: float
    worst: float

    @property
    def evenness(self) -> float:
        """`max / min − 1` of the two axes: 0 is even, 0.16 is stretched by 16 %."""
        return evenness_of(self.x, self.y)

    @property
    def is_uneven(self) -> bool:
        """Whether the two axes differ by more than one percent."""
        return is_uneven(self.evenness)

    @property
    def judged(self) -> float:
        """`worst` rounded to 0.05 ppi, so that a tag's rounding does not decide a verdict."""
        return judged_ppi(self.worst)


def evenness_of(across: float, down: float) -> float:
    """How far two densities, or two scales, stand apart: `max / min − 1`."""
    return max(across, down) / min(across, down) - 1


def is_uneven(evenness: float) -> bool:
    """Whether an evenness is seen; a hair above one percent from rounding is not."""
    return round(evenness, 9) > UNEVEN_ABOVE


def judged_ppi(density_ppi: float) -> float:
    """A density rounded to 0.05 ppi.

    >>> judged_ppi(299.9994)
    300.0
    """
    return round(round(density_ppi / _JUDGED_TO_PPI) * _JUDGED_TO_PPI, 2)


def effective_density(px_w: int, px_h: int, matrix: Matrix) -> EffectiveDensity:
    """Density of `px_w × px_h` pixels drawn by a matrix from the unit square to points.

    Raises:
        ValueOutOfRange: no pixels, or a matrix that draws nothing.

    >>> effective_density(300, 600, Matrix(72, 0, 0, 72, 0, 0))
    EffectiveDensity(x=300.0, y=600.0, worst=300.0)
    """
    if px_w < 1 or px_h < 1:
        raise ValueOutOfRange(f"a picture needs at least 1 × 1 pixels, not {px_w} × {px_h}")
    width, height = matrix.u_length, matrix.v_length
    if width == 0 or height == 0:
        raise ValueOutOfRange("a picture of no width or no height has no density")
    x, y = POINTS_PER_INCH * px_w / width, POINTS_PER_INCH * px_h / height
    return EffectiveDensity(x, y, POINTS_PER_INCH / _largest_step_pt(px_w, px_h, matrix))


def _largest_step_pt(px_w: int, px_h: int, matrix: Matrix) -> float:
    """The longest way one pixel step can go: the largest singular value of `[p q]`."""
    pa, pb = matrix.a / px_w, matrix.b / px_w
    qa, qb = matrix.c / px_h, matrix.d / px_h
    pp, qq, pq = pa * pa + pb * pb, qa * qa + qb * qb, pa * qa + pb * qb
    return math.sqrt((pp + qq + math.hypot(pp - qq, 2 * pq)) / 2)


def native_length_pt(px: int, tag_ppi: float | None) -> float:
    """Length of `px` pixels at the density tag; without a usable tag at 72 ppi, an assumption."""
    return POINTS_PER_INCH * px / (tag_ppi or ASSUMED_DENSITY_PPI)


def reach_pt(px: float, target_ppi: float) -> float:
    """The longest that `px` pixels may get and still meet the target, in points.

    >>> round(reach_pt(850, 300) / 72, 2)
    2.83

    Raises:
        ValueOutOfRange: a figure that is not above 0.
    """
    if not target_ppi > 0:
        raise ValueOutOfRange(f"a density must be above 0 ppi, not {target_ppi:g}")
    return POINTS_PER_INCH * px / target_ppi


def headroom(density_ppi: float, target_ppi: float) -> float:
    """How much larger the picture may get (+) or how far it is short (−), as a share."""
    return density_ppi / target_ppi - 1


def pixels_needed(length_pt: float, target_ppi: float) -> int:
    """Pixels that fill a length at the target, rounded up.

    >>> pixels_needed(72, 300)
    300
    """
    return math.ceil(length_pt / POINTS_PER_INCH * target_ppi - 1e-6)


def density_from_screen(lines_per_inch: float, factor: float) -> float:
    """Density for a halftone line screen; the quality factor is 1.5 to 2.

    Raises:
        ValueOutOfRange: a factor outside 1.5 to 2, or no line screen.

    >>> density_from_screen(150, 1.5)
    225.0
    """
    if not 1.5 <= factor <= 2:
        raise ValueOutOfRange(f"the quality factor lies between 1.5 and 2, not {factor:g}")
    if not lines_per_inch > 0:
        raise ValueOutOfRange(f"a line screen must be above 0 lpi, not {lines_per_inch:g}")
    return lines_per_inch * factor


def density_from_distance(distance_in: float) -> float:
    """Density at which normal sight no longer tells pixels apart, `distance_in` inches away.

    One arc minute is decimal visual acuity 1.0 (ISO 8596, from memory).

    Raises:
        ValueOutOfRange: a figure that is not above 0.
    """
    if not distance_in > 0:
        raise ValueOutOfRange(f"a viewing distance must be above 0, not {distance_in:g} in")
    return 1 / (distance_in * math.tan(math.radians(1 / 60)))
