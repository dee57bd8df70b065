"""How large a picture can print: figures in a unit, and a drawing beside a sheet on one scale."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from harnet.core.layout.figures import figures_of, natural_reach_pt
from harnet.core.layout.placing import placed_at_native_size, source_from
from harnet.core.layout.sheets import A_SERIES_MM, LETTER_SERIES_IN
from harnet.core.measure.units import POINTS_PER_INCH, Unit
from harnet.core.measure.wording import reach_text
from harnet.core.pictures.picture import Facts
from harnet.core.targets.target import Target

_PT_PER_MM = 72 / 25.4
_ROOM_PX, _FLOOR_PX = (290.0, 288.0), 294.0
"""Room for the drawing, and where its floor is; names stand to its right."""
_LABEL_PX = 17.0
_MOST_TIMES = 3.0
"""What is so many times as wide as the picture would leave little of it."""
_SAME_SHARE = 0.01


@dataclass(frozen=True, slots=True)
class Reach:
    """How large a picture may get for a target."""

    target: Target
    ppi: float
    size: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ReachOutline:
    """How far the picture reaches for other targets, in pixels of the drawing."""

    label: str
    width: float
    height: float
    top: float
    label_y: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ReachScene:
    """The picture at its reach for one target, beside a sheet everybody knows, on one scale.

    All stand on the drawing's lower left corner; figures in pixels of the drawing.
    """

    target: Target
    width: float
    height: float
    top: float
    sheet_name: str
    sheet_width: float
    sheet_height: float
    sheet_top: float
    outlines: tuple[ReachOutline, ...]
    beyond: tuple[str, ...]
    """What reaches too far to be drawn on this scale."""


def limits_for(facts: Facts, target: Target) -> Target:
    """The limits that a picture of these facts is judged by."""
    return figures_of(placed_at_native_size(source_from(facts), 0, 0), target).target


def reach_for(facts: Facts, target: Target, unit: Unit, is_short: bool = True) -> str:
    """The largest size for a target, in a unit; "any size" for what has no pixels."""
    reach = natural_reach_pt(facts, target)
    if reach is None:
        return "any size"
    return reach_text(*reach, unit, is_short=is_short)


def reaches_of(facts: Facts, unit: Unit, targets: Sequence[Target]) -> list[Reach]:
    """The largest size for every target."""
    return [
        Reach(
            target,
            limits_for(facts, target).density_ppi,
            reach_for(facts, target, unit, is_short=False),
        )
        for target in targets
    ]


def reach_scene(
    facts: Facts, targets: Sequence[Target], chosen: Target, is_inches: bool
) -> ReachScene:
    """The drawing for a chosen target; targets whose reach is the same share an outline."""
    width, height = natural_reach_pt(facts, chosen) or (1.0, 1.0)
    sheet_name, sheet_w, sheet_h = _sheet_beside(width, height, is_inches)
    others: dict[float, list[str]] = {}
    for target in targets:
        reach_w, _ = natural_reach_pt(facts, target) or (1.0, 1.0)
        same = next((one for one in others if abs(one / reach_w - 1) < _SAME_SHARE), reach_w)
        if abs(width / reach_w - 1) >= _SAME_SHARE:
            others.setdefault(same, []).append(target.name)
    most = max(width, sheet_w) * _MOST_TIMES
    drawn = {one: names for one, names in others.items() if one <= most}
    ratio = height / width
    widest = max([width, sheet_w, *drawn])
    tallest = max([height, sheet_h, *(one * ratio for one in drawn)])
    scale = min(_ROOM_PX[0] / widest, _ROOM_PX[1] / tallest)
    outlines, free = [], 0.0
    for one in sorted(drawn, reverse=True):
        top = _FLOOR_PX - one * ratio * scale
        free = max(top + 4, free + _LABEL_PX)
        outlines.append(
            ReachOutline(
                label=", ".join(drawn[one]),
                width=one * scale,
                height=one * ratio * scale,
                top=top,
                label_y=min(free, _FLOOR_PX),
            )
        )
    return ReachScene(
        target=chosen,
        width=width * scale,
        height=height * scale,
        top=_FLOOR_PX - height * scale,
        sheet_name=sheet_name,
        sheet_width=sheet_w * scale,
        sheet_height=sheet_h * scale,
        sheet_top=_FLOOR_PX - sheet_h * scale,
        outlines=tuple(outlines),
        beyond=tuple(name for one, names in others.items() if one > most for name in names),
    )


def _sheet_beside(width: float, height: float, is_inches: bool) -> tuple[str, float, float]:
    """The sheet whose area comes closest to that of a picture; sizes in points."""
    known = LETTER_SERIES_IN if is_inches else {"Business card": (55.0, 85.0), **A_SERIES_MM}
    per_pt = POINTS_PER_INCH if is_inches else _PT_PER_MM
    sheets = [(name, w * per_pt, h * per_pt) for name, (w, h) in known.items()]

    def distance(sheet: tuple[str, float, float]) -> float:
        return abs(math.log(sheet[1] * sheet[2] / (width * height)))

    return min(sheets, key=distance)
