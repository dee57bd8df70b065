"""How large a picture can print: figures in a unit, and outlines beside a sheet on one scale."""

from collections.abc import Sequence
from dataclasses import dataclass

from harnet.core.layout.figures import figures_of, natural_reach_pt
from harnet.core.layout.placing import placed_at_native_size, source_from
from harnet.core.layout.sheets import A_SERIES_MM
from harnet.core.measure.units import Unit
from harnet.core.measure.wording import ppi_text, size_text
from harnet.core.pictures.picture import Facts
from harnet.core.targets.target import Target

_PT_PER_MM = 72 / 25.4
_SHEETS_MM = [(name, *size) for name, size in A_SERIES_MM.items()]
_SCENE_PX = (430.0, 300.0)
_LABEL_PX = 17.0
_MARGIN_PX = 6.0


@dataclass(frozen=True, slots=True)
class Reach:
    """How large a picture may get for a target."""

    target: Target
    ppi: float
    size: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Silhouette:
    """A picture's outline at a density, or the sheet, in pixels of the drawing."""

    label: str
    width: float
    height: float
    y: float
    is_sheet: bool
    has_room: bool

    @property
    def text_y(self) -> float:
        """The base line of its name."""
        return self.y + 15


def limits_for(facts: Facts, target: Target) -> Target:
    """The limits that a picture of these facts is judged by."""
    return figures_of(placed_at_native_size(source_from(facts), 0, 0), target).target


def reach_for(facts: Facts, target: Target, unit: Unit) -> str:
    """The largest size for a target, in a unit; "any size" for what has no pixels."""
    reach = natural_reach_pt(facts, target)
    if reach is None:
        return "any size"
    digits = {Unit.MM: 0, Unit.PX: 0, Unit.POINT: 0}.get(unit, 1)
    return size_text(*reach, unit, digits=digits)


def reaches_of(facts: Facts, unit: Unit, targets: Sequence[Target]) -> list[Reach]:
    """The largest size for every target."""
    return [
        Reach(target, limits_for(facts, target).density_ppi, reach_for(facts, target, unit))
        for target in targets
    ]


def silhouettes_of(facts: Facts, targets: Sequence[Target]) -> list[Silhouette]:
    """An outline for every target and a sheet of the A series, all on one scale, largest first.

    The sheet is the largest whose area is at most half of the largest outline's, so that both
    can be seen.
    """
    reaches = {
        limits_for(facts, target).density_ppi: natural_reach_pt(facts, target) or (1.0, 1.0)
        for target in targets
    }
    sizes = [(f"{ppi_text(ppi)} ppi", *size, False) for ppi, size in sorted(reaches.items())]
    sizes.append(_sheet_beside(sizes[0][1], sizes[0][2]))
    widest, tallest = max(size[1] for size in sizes), max(size[2] for size in sizes)
    room_w, room_h = (edge - 2 * _MARGIN_PX for edge in _SCENE_PX)
    scale = min(room_w / widest, room_h / tallest)
    drawn = []
    for index, (label, width, height, is_sheet) in enumerate(sizes):
        next_up = [size for size in sizes[index + 1 :] if not size[3]]
        gap = (height - next_up[0][2]) * scale if next_up else height * scale
        drawn.append(
            Silhouette(
                label=label,
                width=width * scale,
                height=height * scale,
                y=_SCENE_PX[1] - _MARGIN_PX - height * scale,
                is_sheet=is_sheet,
                has_room=gap >= _LABEL_PX and width * scale > 60,
            )
        )
    return drawn


def _sheet_beside(width: float, height: float) -> tuple[str, float, float, bool]:
    fitting = [
        sheet for sheet in _SHEETS_MM if 2 * sheet[1] * sheet[2] * _PT_PER_MM**2 <= width * height
    ]
    name, sheet_w, sheet_h = fitting[-1] if fitting else _SHEETS_MM[0]
    return f"{name}, same scale", sheet_w * _PT_PER_MM, sheet_h * _PT_PER_MM, True
