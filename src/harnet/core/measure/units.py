"""Lengths: units, conversion to points, and reading what a person types."""

from enum import Enum

from harnet.core.errors import ValueOutOfRange

POINTS_PER_INCH = 72.0
"""ISO 32000-2, 8.3.2.3: the default user space unit is 1/72 inch."""
MM_PER_INCH = 25.4
CSS_PX_PER_INCH = 96.0
"""CSS Values and Units Level 3, absolute lengths: 1px = 1/96in."""


class Unit(Enum):
    """A unit of length on the page; `px` is the CSS pixel unless a density is stated."""

    MM = "mm"
    CM = "cm"
    INCH = "in"
    POINT = "pt"
    PX = "px"

    @classmethod
    def named(cls, name: str) -> "Unit":
        """The unit with this short name.

        Raises:
            ValueOutOfRange: no such unit.

        >>> Unit.named("mm")
        <Unit.MM: 'mm'>
        """
        try:
            return cls(name)
        except ValueError:
            known = ", ".join(unit.value for unit in cls)
            raise ValueOutOfRange(f"“{name}” is not a unit; use one of {known}") from None


_POINTS_PER = {
    Unit.MM: POINTS_PER_INCH / MM_PER_INCH,
    Unit.CM: POINTS_PER_INCH / MM_PER_INCH * 10,
    Unit.INCH: POINTS_PER_INCH,
    Unit.POINT: 1.0,
}


def points_per(unit: Unit, px_per_inch: float = CSS_PX_PER_INCH) -> float:
    """Points in one `unit`; a pixel counts as 1/`px_per_inch` inch.

    Raises:
        ValueOutOfRange: a density that is not above 0.
    """
    if not px_per_inch > 0:
        raise ValueOutOfRange(f"a density must be above 0 ppi, not {px_per_inch:g}")
    return POINTS_PER_INCH / px_per_inch if unit is Unit.PX else _POINTS_PER[unit]


def to_points(length: float, unit: Unit, px_per_inch: float = CSS_PX_PER_INCH) -> float:
    """A length in `unit`, in points.

    >>> to_points(1, Unit.INCH)
    72.0
    """
    return length * points_per(unit, px_per_inch)


def from_points(length_pt: float, unit: Unit, px_per_inch: float = CSS_PX_PER_INCH) -> float:
    """A length in points, in `unit`.

    >>> round(from_points(72, Unit.MM), 4)
    25.4
    """
    return length_pt / points_per(unit, px_per_inch)
