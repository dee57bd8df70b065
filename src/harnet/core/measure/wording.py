"""How figures are written: units always, thousands apart, a real minus."""

import math
from collections.abc import Sequence
from functools import lru_cache

from harnet.core.measure.density import EffectiveDensity
from harnet.core.measure.rounding import half_up
from harnet.core.measure.units import Unit, from_points

_SPACE = "\u00a0"
"""No-break space, between thousands and before a percent sign."""
_MINUS = "\u2212"
READ_DIGITS = {Unit.MM: 1, Unit.CM: 1, Unit.INCH: 2, Unit.POINT: 1, Unit.PX: 1}
"""Decimals that a length is read with."""
_SHORT_DIGITS = {Unit.MM: 0, Unit.CM: 1, Unit.INCH: 2, Unit.POINT: 0, Unit.PX: 0}
_REACH_DIGITS = {Unit.MM: 1, Unit.CM: 2, Unit.INCH: 2, Unit.POINT: 1, Unit.PX: 0}
_SHORT_FROM = 100
_TYPED_DIGITS = {Unit.MM: 2, Unit.CM: 3, Unit.INCH: 3, Unit.POINT: 2, Unit.PX: 2}


def grouped(figure: int) -> str:
    """A whole number with its thousands apart.

    >>> grouped(5184) == "5\u00a0184"
    True
    """
    return f"{figure:,}".replace(",", _SPACE).replace("-", _MINUS)


def first_of(names: Sequence[str], most: int) -> str:
    """Names one after the other, and how many more there are beyond the first ones.

    >>> first_of(["Ada", "Bo", "Cy", "Dee"], 2), first_of(["Ada"], 2)
    ('Ada, Bo and 2 more', 'Ada')
    """
    more = f" and {len(names) - most} more" if len(names) > most else ""
    return ", ".join(names[:most]) + more


def px_text(px_w: int | None, px_h: int | None) -> str:
    """Pixels as width × height, empty for a vector picture."""
    return "" if px_w is None or px_h is None else f"{grouped(px_w)} × {grouped(px_h)}"


@lru_cache(1024)
def ppi_text(density_ppi: float) -> str:
    """A density without needless decimals; tenths only where a whole number would mislead.

    >>> ppi_text(269.9), ppi_text(212.3), ppi_text(300.0), ppi_text(202.5)
    ('269.9', '212', '300', '202.5')
    """
    whole = half_up(density_ppi)
    near_whole_tens = abs(density_ppi - whole) >= 0.05 and whole % 10 == 0
    is_half = abs(density_ppi * 2 - half_up(density_ppi * 2)) < 1e-6
    return limit_text(density_ppi) if near_whole_tens or is_half else str(whole)


@lru_cache(1024)
def limit_text(density_ppi: float) -> str:
    """A limit as exactly as it is judged by, to a tenth.

    >>> limit_text(202.5), limit_text(149.6), limit_text(300.0)
    ('202.5', '149.6', '300')
    """
    return f"{density_ppi:.1f}".removesuffix(".0")


def density_text(density: EffectiveDensity) -> str:
    """An effective density in ppi: one figure, or both where the picture is uneven."""
    if density.is_uneven:
        return f"{ppi_text(density.x)} / {ppi_text(density.y)}"
    return ppi_text(density.judged)


def share_text(share: float, signed: bool = False) -> str:
    """A share in whole percent.

    >>> share_text(-0.29) == "\u221229\u00a0%"
    True
    """
    percent = half_up(share * 100)
    sign = "+" if signed and percent > 0 else _MINUS if percent < 0 else ""
    return f"{sign}{abs(percent)}{_SPACE}%"


def length_text(
    length_pt: float, unit: Unit, px_per_inch: float = 96.0, digits: int | None = None
) -> str:
    """A length as a bare figure in `unit`, with as many decimals as that is usually read with.

    >>> length_text(9, Unit.INCH), length_text(9, Unit.MM)
    ('0.13', '3.2')
    """
    figure = from_points(length_pt, unit, px_per_inch)
    return _decimal(figure, READ_DIGITS[unit] if digits is None else digits)


def exact_length_text(length_pt: float, unit: Unit, px_per_inch: float = 96.0) -> str:
    """A length for a field that is typed into, or where a hair counts, such as a bleed.

    >>> exact_length_text(9, Unit.INCH)
    '0.125'
    """
    return length_text(length_pt, unit, px_per_inch, _TYPED_DIGITS[unit])


def size_text(
    width_pt: float,
    height_pt: float,
    unit: Unit,
    px_per_inch: float = 96.0,
    digits: int | None = None,
) -> str:
    """A size such as `148 × 210 mm`."""
    width = length_text(width_pt, unit, px_per_inch, digits)
    height = length_text(height_pt, unit, px_per_inch, digits)
    return f"{width} × {height} {unit.value}"


def short_length_text(length_pt: float, unit: Unit, px_per_inch: float = 96.0) -> str:
    """A length for a drawing's label, in whole millimetres or hundredths of an inch."""
    return length_text(length_pt, unit, px_per_inch, _SHORT_DIGITS[unit])


def short_size_text(
    width_pt: float, height_pt: float, unit: Unit, px_per_inch: float = 96.0
) -> str:
    """A size for a badge or a row of a table, in whole millimetres or hundredths of an inch."""
    return size_text(width_pt, height_pt, unit, px_per_inch, _SHORT_DIGITS[unit])


def reach_text(
    width_pt: float,
    height_pt: float,
    unit: Unit,
    px_per_inch: float = 96.0,
    is_short: bool = False,
) -> str:
    """The largest size, rounded down, so that whoever uses it never falls short.

    >>> reach_text(252, 167.9, Unit.INCH), reach_text(252, 167.9, Unit.MM, is_short=True)
    ('3.5 × 2.33 in', '88.9 × 59.2 mm')
    """
    sides = [from_points(side, unit, px_per_inch) for side in (width_pt, height_pt)]
    # A whole millimetre of a small picture would be too much to give away.
    is_coarse = is_short and min(sides) >= _SHORT_FROM
    digits = (_SHORT_DIGITS if is_coarse else _REACH_DIGITS)[unit]
    width, height = (_decimal(_rounded_down(side, digits), digits) for side in sides)
    return f"{width} × {height} {unit.value}"


def _rounded_down(figure: float, digits: int) -> float:
    """A hair below a step counts as the step: 300 pixels at 300 ppi are an inch."""
    factor = float(10**digits)
    return math.floor(figure * factor + 1e-6) / factor


def _decimal(figure: float, digits: int) -> str:
    text = f"{half_up(figure * 10**digits) / 10**digits:.{digits}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return "0" if text == "-0" else text.replace("-", _MINUS)


def bytes_text(size_bytes: int) -> str:
    """A file's size on disk, in powers of 1000."""
    if size_bytes < 1000:
        return f"{size_bytes} bytes"
    for factor, name in ((1e9, "GB"), (1e6, "MB")):
        if size_bytes >= factor:
            return f"{size_bytes / factor:.1f} {name}"
    return f"{size_bytes / 1000:.0f} kB"


def memory_text(size_bytes: int) -> str:
    """Unpacked memory, in powers of 1024."""
    return f"{size_bytes / 2**20:.1f} MiB"


def counted(number: int, one: str, many: str | None = None) -> str:
    """A number with its noun.

    >>> counted(1, "page"), counted(2, "page")
    ('1 page', '2 pages')
    """
    return f"{grouped(number)} {one if number == 1 else many or one + 's'}"
