"""Pages as SVG: what the templates draw, every figure ready; lengths in points."""

import json
from collections.abc import Collection
from dataclasses import dataclass, replace

from harnet.core.layout.facing import spread_at
from harnet.core.layout.figures import frame_pixels
from harnet.core.layout.hand.following import Change, ways_of
from harnet.core.layout.hand.gesture import Handle
from harnet.core.layout.placing import Placement
from harnet.core.layout.shape import Shape, outline_of, path_text
from harnet.core.layout.turned_box import TurnedBox
from harnet.core.measure.geometry import Box, Matrix, turned_about
from harnet.core.measure.verdict import Verdict
from harnet.core.measure.wording import ppi_text, px_text, reach_text
from harnet.core.preflight.subject import FileState
from harnet.media.pagedrawing.text_lines import TextLine, TextStyle, lines_lost, lines_of
from harnet.store.tables.jobs import Item, Job, Page
from harnet.studio.jobs.jobs import page_count, page_of, target_of
from harnet.studio.layout.gestures import STEP_DEG, Geometry, geometry_of
from harnet.studio.layout.placed import FRAME, TEXT, Placed, placed_from, target_for
from harnet.web.common.units import shown_unit
from harnet.web.drawing.marks import mark_of

_ROOM_PX = (814.0, 514.0)
"""The canvas at 1280 × 800, which badges and handles are sized for."""
_MARGIN_SHARE = 0.02
_TURN_HANDLE_PX = 24.0


@dataclass(frozen=True, slots=True)
class Mark:
    """A handle of the selected frame, where it lies on the page."""

    name: str
    x: float
    y: float
    is_corner: bool
    ways: str
    """How the frame follows when it is pulled, as JSON."""
    scales_picture: bool
    """Whether what the frame shows is scaled with it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Selection:
    """The outline and handles of the selected frame, and how far it may reach."""

    outline: str
    marks: tuple[Mark, ...]
    turn_from: tuple[float, float]
    turn_at: tuple[float, float]
    turn_step_deg: float = STEP_DEG
    reach_outline: str = ""
    reach_label: str = ""
    reach_at: tuple[float, float] = (0, 0)

    @property
    def reach_plate_px(self) -> float:
        """How wide the plate behind the label of the reach is."""
        return 6.2 * len(self.reach_label) + 12


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawn:
    """One item on the page; `outline` is the path that clips or draws it."""

    item: Item
    number: int
    outline: str
    box: Box
    turn: str
    px_pt: float
    selection: Selection | None = None
    matrix: str = ""
    is_missing: bool = False
    badge: str = ""
    badge_class: str = ""
    badge_at: tuple[float, float] = (0, 0)
    lines: tuple[TextLine, ...] = ()
    overflows: bool = False
    style: TextStyle | None = None
    placed: Placed | None = None
    quality: str = "light"
    stamp: str = ""

    @property
    def right(self) -> float:
        """The box's right edge, before it is turned."""
        return self.box.x + self.box.width

    @property
    def bottom(self) -> float:
        """The box's lower edge, before it is turned."""
        return self.box.y + self.box.height

    @property
    def badge_plate_px(self) -> float:
        """How wide the plate behind the badge is."""
        return 5.9 * len(self.badge) + 34

    @property
    def kind(self) -> str:
        """picture, frame, text, rectangle or line."""
        return self.item.kind

    @property
    def label(self) -> str:
        """What it is, for those who do not see it."""
        if self.placed:
            return f"{self.placed.name}, {self.badge}"
        if self.badge:
            return f"empty frame, {self.badge}"
        if not self.lines:
            return self.kind
        lost = " text does not fit" if self.overflows else ""
        return f"text: {' '.join(line.text for line in self.lines)}{lost}"


@dataclass(frozen=True, slots=True)
class DrawnPreview:
    """How items are drawn: which are selected, points a screen pixel takes, preview quality."""

    selected_ids: Collection[int] = ()
    px_pt: float = 1.0
    quality: str = "light"


def spread_of(job: Job, number: int) -> list[int]:
    """The numbers of the pages seen together: like a book's, the first stands alone."""
    return spread_at(number, page_count(job), job.is_facing)


def bleed_box(job: Job, page: Page) -> Box:
    """Trim and bleed of a page."""
    bleed = job.bleed_pt
    return Box(-bleed, -bleed, page.width_pt + 2 * bleed, page.height_pt + 2 * bleed)


def seen_box(job: Job, numbers: list[int]) -> Box:
    """What the canvas shows of these pages, with a margin around their bleed."""
    pages = [page_of(job, number) for number in numbers]
    bleed = job.bleed_pt
    width = sum(page.width_pt for page in pages) + 2 * bleed
    height = max(page.height_pt for page in pages) + 2 * bleed
    margin = _MARGIN_SHARE * max(width, height)
    return Box(-bleed - margin, -bleed - margin, width + 2 * margin, height + 2 * margin)


def px_pt_of(job: Job, number: int) -> float:
    """Points that a screen pixel takes on the canvas of this page, all of it in view."""
    seen = seen_box(job, spread_of(job, number))
    return max(seen.width / _ROOM_PX[0], seen.height / _ROOM_PX[1])


def drawn_of(
    job: Job,
    item: Item,
    number: int,
    look: DrawnPreview,
    geometry: Geometry | None = None,
    stamp: str = "",
) -> Drawn:
    """An item ready to draw; `geometry` stands in for the row's own while the hand moves.

    `stamp` is told to the page with the drawing; without one it is drawn anew with every answer.
    """
    is_selected = item.id in look.selected_ids
    shape = geometry or geometry_of(item)
    if isinstance(shape, Placement):
        placed = placed_from(item, number, target_of(job), shape)
        return _picture(job, placed, look, is_selected, stamp)
    turn = turned_about(shape.rotation_deg, shape.box.centre)
    outline = outline_of(shape.box, Shape(item.shape), item.radius_pt).mapped(turn)
    style = TextStyle(**item.style) if item.kind == TEXT else None
    lines = tuple(lines_of(item.text or "", style, shape.box.width)) if style else ()
    drawn = Drawn(
        item=item,
        number=number,
        stamp=stamp,
        outline=path_text(outline),
        box=shape.box,
        turn=_matrix(turn),
        px_pt=look.px_pt,
        selection=_selection_of_box(shape, turn, look.px_pt) if is_selected else None,
        lines=lines,
        style=style,
        overflows=style is not None and lines_lost(lines, style, shape.box.height) > 0,
    )
    if item.kind == FRAME:
        target = target_for(item, target_of(job))
        needed = px_text(*frame_pixels(shape.box, target.density_ppi))
        at = turn.applied(shape.box.x + 6 * look.px_pt, _badge_y(shape.box, look.px_pt))
        badge = f"needs {needed} px at {ppi_text(target.density_ppi)}"
        return replace(drawn, badge=badge, badge_class="unknown", badge_at=at)
    return drawn


def _badge_y(box: Box, px_pt: float) -> float:
    return box.y + box.height - 26 * px_pt


def _picture(job: Job, placed: Placed, look: DrawnPreview, is_selected: bool, stamp: str) -> Drawn:
    placement, figures, px_pt = placed.placement, placed.figures, look.px_pt
    frame, turn = placement.frame, placement.turn
    density = figures.density
    badge = f"{ppi_text(density.judged)} ppi" if density else "vector"
    if placed.file_state is not FileState.IN_PLACE:
        badge += f", {_STATE_WORDS[placed.file_state]}"
    return Drawn(
        item=placed.item,
        number=placed.page_number,
        stamp=stamp,
        outline=path_text(placement.outline),
        box=frame,
        turn=_matrix(turn),
        px_pt=px_pt,
        selection=_selection(job, placed, px_pt) if is_selected else None,
        matrix=_matrix(placement.matrix),
        is_missing=placed.file_state is FileState.MISSING,
        badge=badge,
        badge_class=mark_of(figures),
        badge_at=turn.applied(frame.x + 6 * px_pt, _badge_y(frame, px_pt)),
        placed=placed,
        quality=placed.item.quality or look.quality,
    )


_STATE_WORDS = {
    FileState.MISSING: "file missing",
    FileState.CHANGED: "file changed",
    FileState.CARRIED: "carried",
    FileState.LOOSE: "loose",
}


def _selection_of_box(shape: TurnedBox, turn: Matrix, px_pt: float) -> Selection:
    turn_from, turn_at = _turn_handle(shape.box, turn, px_pt)
    return Selection(
        outline=_points(shape.corners),
        marks=_marks(shape.box, shape.rotation_deg, is_picture=False),
        turn_from=turn_from,
        turn_at=turn_at,
    )


def _selection(job: Job, placed: Placed, px_pt: float) -> Selection:
    placement, figures = placed.placement, placed.figures
    frame, turn = placement.frame, placement.turn
    outline, label = "", ""
    reach_w, reach_h = figures.crop_reach_w_pt, figures.crop_reach_h_pt
    if reach_w is not None and reach_h is not None and figures.verdict.falls_short:
        reach = Box(frame.x, frame.y, reach_w, reach_h)
        outline = _points([turn.applied(x, y) for x, y in reach.corners()])
        unit, per_inch = shown_unit(job)
        size = reach_text(reach_w, reach_h, unit, per_inch, is_short=True)
        label = f"reach at {ppi_text(figures.target.density_ppi)}: {size}"
    turn_from, turn_at = _turn_handle(frame, turn, px_pt)
    return Selection(
        outline=_points(placement.corners),
        marks=_marks(frame, placement.rotation_deg, is_picture=True),
        turn_from=turn_from,
        turn_at=turn_at,
        reach_outline=outline,
        reach_label=label,
        reach_at=turn.applied(frame.x + 6 * px_pt, frame.y + 6 * px_pt),
    )


def _turn_handle(
    box: Box, turn: Matrix, px_pt: float
) -> tuple[tuple[float, float], tuple[float, float]]:
    middle = box.x + box.width / 2
    return turn.applied(middle, box.y), turn.applied(middle, box.y - _TURN_HANDLE_PX * px_pt)


def _marks(frame: Box, rotation_deg: float, *, is_picture: bool) -> tuple[Mark, ...]:
    turn, marks = turned_about(rotation_deg, frame.centre), []
    for handle in Handle:
        share_x, share_y = handle.value
        x, y = turn.applied(frame.x + share_x * frame.width, frame.y + share_y * frame.height)
        ways = ways_of(frame, rotation_deg, handle, is_proportional=is_picture)
        marks.append(
            Mark(
                name=handle.name.lower(),
                x=x,
                y=y,
                is_corner=handle.is_corner,
                ways=json.dumps([[_short(way.across), _short(way.down)] for way in ways]),
                scales_picture=is_picture and handle.is_corner,
            )
        )
    return tuple(marks)


def _short(change: Change) -> list[float]:
    return [float(f"{value:.7g}") for value in change]


def _points(points: list[tuple[float, float]]) -> str:
    return " ".join(f"{x:.4f},{y:.4f}" for x, y in points)


def _matrix(matrix: Matrix) -> str:
    return "matrix(" + " ".join(f"{value:.8g}" for value in matrix.as_tuple()) + ")"


@dataclass(frozen=True, slots=True)
class Crop:
    """A small drawing of a picture as its frame shows it, upright."""

    sha256: str
    frame: Box
    view_box: str
    matrix: str


def crop_of(placed: Placed) -> Crop:
    """The part of a picture that its frame shows, at its true proportion."""
    assert placed.item.picture is not None
    return crop_in(placed.item.picture.sha256, placed.placement)


def crop_in(sha256: str, placement: Placement) -> Crop:
    """The part of a picture that a frame would show."""
    upright = replace(placement, rotation_deg=0.0)
    frame = upright.frame
    view_box = f"{frame.x:.4f} {frame.y:.4f} {frame.width:.4f} {frame.height:.4f}"
    return Crop(sha256, frame, view_box, _matrix(upright.matrix))


def verdict_class(verdict: Verdict | None) -> str:
    """The name of a grain mark; an empty page has the mark for unknown."""
    return verdict.value if verdict else "unknown"
