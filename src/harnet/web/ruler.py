"""The density ruler: every placement of a job on one log scale of ppi."""

import math
from dataclasses import dataclass
from itertools import pairwise

from harnet.core.target import Target
from harnet.core.verdict import Verdict
from harnet.studio.placed import Placed

_WIDTH_PX, _DOT_PX, _FLOOR_PX = 1244.0, 11.0, 70.0
_MOST_STACKED = 5
_TICKS = (18, 36, 72, 100, 150, 225, 300, 450, 600, 900, 1200, 2400, 4800)


@dataclass(frozen=True, slots=True)
class Band:
    """The stretch of a verdict."""

    verdict: Verdict
    x: float
    width: float


@dataclass(frozen=True, slots=True)
class Dot:
    """A placement."""

    placed: Placed
    x: float
    y: float
    is_selected: bool


@dataclass(frozen=True, slots=True)
class Ruler:
    """The drawing, in pixels."""

    bands: tuple[Band, ...]
    ticks: tuple[tuple[float, int], ...]
    dots: tuple[Dot, ...]
    flag_x: float
    below_count: int


def ruler_of(placed: list[Placed], target: Target, selected_id: int | None) -> Ruler:
    """Dots by effective ppi; 1-bit art stands where it would against its own target."""
    densities = [_comparable_ppi(one, target) for one in placed]
    known = [density for density in densities if density is not None]
    low = min([target.floor_ppi / 3, *(density * 0.9 for density in known)])
    high = max([target.ceiling_ppi * 2.7, *(density * 1.1 for density in known)])

    def x_of(density_ppi: float) -> float:
        share = math.log2(density_ppi / low) / math.log2(high / low)
        return 20 + share * (_WIDTH_PX - 40)

    edges = [low, target.floor_ppi, target.passes_from_ppi, target.density_ppi, target.ceiling_ppi]
    edges.append(high)
    bands = [
        Band(verdict, x_of(start), x_of(end) - x_of(start))
        for verdict, (start, end) in zip(Verdict, pairwise(edges), strict=True)
    ]
    stacked: dict[int, int] = {}
    dots = []
    for one, density in zip(placed, densities, strict=True):
        if density is None:
            continue
        column = round(x_of(density) / _DOT_PX)
        level = min(stacked.get(column, 0), _MOST_STACKED - 1)
        stacked[column] = stacked.get(column, 0) + 1
        y = _FLOOR_PX - level * _DOT_PX
        dots.append(Dot(one, column * _DOT_PX, y, one.item.id == selected_id))
    ticks = tuple((x_of(tick), tick) for tick in _TICKS if low < tick < high)
    below = sum(one.figures.verdict.falls_short for one in placed)
    return Ruler(tuple(bands), ticks, tuple(dots), x_of(target.density_ppi), below)


def _comparable_ppi(placed: Placed, target: Target) -> float | None:
    figures = placed.figures
    if figures.judged_ppi is None:
        return None
    return figures.judged_ppi * target.density_ppi / figures.target.density_ppi
