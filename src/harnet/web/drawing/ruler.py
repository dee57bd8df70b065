"""The density ruler: every placement of a job on one log scale of ppi, in sixteenths of an octave.

Dots stand on steps counted from the job's target, so that none crosses its flag. A step of more
than five is drawn as one column, the taller the more there are; hovering says how many.
"""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise

from harnet.core.ledger.ruler_scale import step_headroom
from harnet.core.measure.verdict import Verdict
from harnet.core.targets.target import HIGHEST_PPI, LOWEST_PPI, Target
from harnet.studio.lines.ruler import MOST_STACKED, RulerPlacement

WIDTH_PX = 1244.0
_DOT_PX, _FLOOR_PX, _MARGIN_PX = 11.0, 70.0, 20.0
_COLUMN_PX = (26.0, 58.0)
"""The lowest and the highest column."""
_TICKS = (18, 36, 72, 100, 150, 225, 300, 450, 600, 900, 1200, 2400, 4800)


@dataclass(frozen=True, slots=True)
class Band:
    """The stretch of a verdict."""

    verdict: Verdict
    x: float
    width: float

    @property
    def text_x(self) -> float:
        """Where its name begins."""
        return self.x + 6


@dataclass(frozen=True, slots=True)
class Dot:
    """A placement, drawn."""

    spot: RulerPlacement
    x: float
    y: float
    is_selected: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """A step that holds more placements than dots: its worst verdict, and where it lies in ppi."""

    x: float
    height: float
    count: int
    verdict: Verdict
    from_ppi: float
    to_ppi: float
    has_selected: bool

    @property
    def left(self) -> float:
        """Its left edge."""
        return self.x - 4

    @property
    def top(self) -> float:
        """Its upper edge; it stands on the scale."""
        return 75 - self.height


@dataclass(frozen=True, slots=True)
class Scale:
    """The log scale: from `low_ppi` on the left to `high_ppi` on the right, in pixels."""

    low_ppi: float
    high_ppi: float

    def x_of(self, density_ppi: float) -> float:
        """Where a density stands."""
        share = math.log(density_ppi / self.low_ppi) / math.log(self.high_ppi / self.low_ppi)
        return _MARGIN_PX + share * (WIDTH_PX - 2 * _MARGIN_PX)

    def ppi_at(self, x: float) -> float:
        """The density at a place, within what a target can be."""
        share = (x - _MARGIN_PX) / (WIDTH_PX - 2 * _MARGIN_PX)
        ppi = self.low_ppi * math.exp(share * math.log(self.high_ppi / self.low_ppi))
        return min(HIGHEST_PPI, max(LOWEST_PPI, ppi))


@dataclass(frozen=True, slots=True, kw_only=True)
class Ruler:
    """The drawing, in pixels."""

    bands: tuple[Band, ...]
    ticks: tuple[tuple[float, int], ...]
    dots: tuple[Dot, ...]
    columns: tuple[Column, ...]
    flag_x: float
    target: Target
    below_count: int
    scale: Scale
    brush: tuple[float, float] | None = None

    @property
    def brush_width(self) -> float:
        """How wide the brushed part is; 0 where nothing is brushed."""
        return self.brush[1] - self.brush[0] if self.brush else 0.0

    @property
    def flag_left(self) -> float:
        """The left edge of the flag's pole."""
        return self.flag_x - 1

    @property
    def flag_text_x(self) -> float:
        """Where the flag's words begin."""
        return self.flag_x + 6

    @property
    def flag_value(self) -> int:
        """Where the flag stands, in whole ppi."""
        return round(self.target.density_ppi)


def ruler_of(
    spots: Sequence[RulerPlacement],
    job_target: Target,
    below_count: int,
    scale: Scale,
    selected_ids: Iterable[int] = (),
    tried: Target | None = None,
    brushed_ppi: tuple[float, float] | None = None,
) -> Ruler:
    """The ruler of a job; `tried` is the target that its flag was dragged to."""
    target = tried or job_target
    chosen = set(selected_ids)
    levels: dict[int, int] = {}
    dots, columns = [], []
    most = max((spot.on_step for spot in spots), default=1)
    for spot in spots:
        middle_ppi = _ppi_of_step(spot.step + 0.5, job_target)
        x = scale.x_of(min(scale.high_ppi, max(scale.low_ppi, middle_ppi)))
        if spot.on_step > MOST_STACKED:
            low, high = (_ppi_of_step(spot.step + side, job_target) for side in (0, 1))
            is_chosen = spot.item_id in chosen
            height = _COLUMN_PX[0] + spot.on_step / most * (_COLUMN_PX[1] - _COLUMN_PX[0])
            columns.append(
                Column(
                    x=x,
                    height=height,
                    count=spot.on_step,
                    verdict=spot.verdict,
                    from_ppi=low,
                    to_ppi=high,
                    has_selected=is_chosen,
                )
            )
        else:
            level = levels[spot.step] = levels.get(spot.step, -1) + 1
            dots.append(Dot(spot, x, _FLOOR_PX - level * _DOT_PX, spot.item_id in chosen))
    brush = None
    if brushed_ppi is not None:
        brush = (scale.x_of(brushed_ppi[0]), scale.x_of(brushed_ppi[1]))
    ticks = tuple(
        (scale.x_of(tick), tick) for tick in _TICKS if scale.low_ppi < tick < scale.high_ppi
    )
    return Ruler(
        bands=tuple(_bands(scale, target)),
        ticks=ticks,
        dots=tuple(dots),
        columns=tuple(columns),
        flag_x=scale.x_of(target.density_ppi),
        target=target,
        below_count=below_count,
        scale=scale,
        brush=brush,
    )


def scale_between(ends: tuple[int, int] | None, target: Target) -> Scale:
    """A scale that holds all zones of the job's target, and the lowest and highest step of dots."""
    densities = [_ppi_of_step(step, target) for step in ends or ()]
    low = min([target.floor_ppi / 3, *(ppi * 0.9 for ppi in densities)])
    high = max([target.ceiling_ppi * 2.7, *(ppi * 1.15 for ppi in densities)])
    return Scale(low, high)


def _bands(scale: Scale, target: Target) -> list[Band]:
    limits = [target.floor_ppi, target.passes_from_ppi, target.density_ppi, target.ceiling_ppi]
    inside = [min(scale.high_ppi, max(scale.low_ppi, ppi)) for ppi in limits]
    edges = [scale.low_ppi, *inside, scale.high_ppi]
    return [
        Band(verdict, scale.x_of(start), scale.x_of(end) - scale.x_of(start))
        for verdict, (start, end) in zip(Verdict, pairwise(edges), strict=True)
    ]


def _ppi_of_step(step: float, target: Target) -> float:
    return target.density_ppi * (1 + step_headroom(step))
