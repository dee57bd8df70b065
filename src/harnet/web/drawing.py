"""A page as SVG: what the templates draw, every figure ready; lengths in points."""

from dataclasses import dataclass, replace

from harnet.core.geometry import Box, Matrix, turned_about
from harnet.core.gesture import Handle
from harnet.core.placing import Placement
from harnet.core.preflight.finding import FileState
from harnet.core.units import Unit
from harnet.core.verdict import Verdict
from harnet.core.wording import ppi_text, size_text
from harnet.media.textlines import TextLine, TextStyle, lines_of
from harnet.store.models import Item, Job, Page
from harnet.studio.jobs import target_of
from harnet.studio.placed import PICTURE, TEXT, Placed, frame_of, placed_from, unit_of
from harnet.web.marks import mark_of

_ROOM_PX = (844.0, 514.0)
"""The canvas at 1280 × 800, which badges and handles are sized for."""
_MARGIN_SHARE = 0.02


@dataclass(frozen=True, slots=True)
class Mark:
    """A handle of the selected frame, where it lies on the page."""

    name: str
    x: float
    y: float
    is_corner: bool


@dataclass(frozen=True, slots=True)
class Selection:
    """The outline and handles of the selected frame, and how far it may reach."""

    outline: str
    marks: tuple[Mark, ...]
    reach_outline: str
    reach_label: str
    reach_at: tuple[float, float]


@dataclass(frozen=True, slots=True)
class Drawn:
    """One item on the page."""

    item: Item
    matrix: str
    clip: str
    is_missing: bool
    badge: str
    badge_class: str
    badge_at: tuple[float, float]
    turn: str
    box: Box
    lines: tuple[TextLine, ...]
    style: TextStyle | None
    selection: Selection | None
    placed: Placed | None
    px_pt: float

    @property
    def kind(self) -> str:
        """picture, text or rectangle."""
        return self.item.kind

    @property
    def preview_size(self) -> str:
        """The preview that is shown."""
        return "light"


@dataclass(frozen=True, slots=True)
class Canvas:
    """A page with its trim, bleed and items, as the canvas shows it."""

    page: Page
    number: int
    view_box: str
    bleed: Box
    items: tuple[Drawn, ...]
    px_pt: float
    """Points that a screen pixel takes when the page fits the canvas at 1280 × 800."""


def canvas_of(job: Job, number: int, selected_id: int | None = None) -> Canvas:
    """A page ready to draw."""
    page = job.pages[number - 1]
    box, seen = bleed_box(job, page), _seen_box(job, page)
    px_pt = px_pt_of(job, page)
    items = tuple(drawn_of(job, item, number, px_pt, item.id == selected_id) for item in page.items)
    view_box = f"{seen.x:.3f} {seen.y:.3f} {seen.width:.3f} {seen.height:.3f}"
    return Canvas(page, number, view_box, box, items, px_pt)


def bleed_box(job: Job, page: Page) -> Box:
    """Trim and bleed of a page."""
    bleed = job.bleed_pt
    return Box(-bleed, -bleed, page.width_pt + 2 * bleed, page.height_pt + 2 * bleed)


def _seen_box(job: Job, page: Page) -> Box:
    box = bleed_box(job, page)
    margin = _MARGIN_SHARE * max(box.width, box.height)
    return Box(box.x - margin, box.y - margin, box.width + 2 * margin, box.height + 2 * margin)


def px_pt_of(job: Job, page: Page) -> float:
    """Points that a screen pixel takes on this page's canvas."""
    seen = _seen_box(job, page)
    return max(seen.width / _ROOM_PX[0], seen.height / _ROOM_PX[1])


def drawn_of(
    job: Job,
    item: Item,
    number: int,
    px_pt: float,
    is_selected: bool,
    geometry: Placement | Box | None = None,
) -> Drawn:
    """An item ready to draw; `geometry` stands in for the row's own while the hand moves."""
    if item.kind == PICTURE:
        placement = geometry if isinstance(geometry, Placement) else None
        placed = placed_from(item, number, target_of(job), placement)
        return _picture(job, placed, px_pt, is_selected)
    box = geometry if isinstance(geometry, Box) else frame_of(item)
    turn = turned_about(item.rotation_deg, box.centre)
    style = TextStyle(**item.style) if item.kind == TEXT else None
    corners = [turn.applied(x, y) for x, y in box.corners()]
    return Drawn(
        item,
        "",
        _points(corners),
        False,
        "",
        "",
        (0, 0),
        _matrix(turn),
        box,
        tuple(lines_of(item.text or "", style, box.width)) if style else (),
        style,
        Selection(_points(corners), _marks(box, turn), "", "", (0, 0)) if is_selected else None,
        None,
        px_pt,
    )


def _picture(job: Job, placed: Placed, px_pt: float, is_selected: bool) -> Drawn:
    placement, figures = placed.placement, placed.figures
    frame, turn = placement.frame, placement.turn
    density = figures.density
    badge = f"{ppi_text(density.judged)} ppi" if density else "line art"
    is_missing = placed.file_state is FileState.MISSING
    if is_missing:
        badge += ", file missing"
    return Drawn(
        placed.item,
        _matrix(placement.matrix),
        _points(placement.clip),
        is_missing,
        badge,
        mark_of(figures),
        turn.applied(frame.x + 6 * px_pt, frame.y + frame.height - 26 * px_pt),
        _matrix(turn),
        frame,
        (),
        None,
        _selection(job, placed, px_pt) if is_selected else None,
        placed,
        px_pt,
    )


def _selection(job: Job, placed: Placed, px_pt: float) -> Selection:
    placement, figures = placed.placement, placed.figures
    frame, turn = placement.frame, placement.turn
    outline, label = "", ""
    reach_w, reach_h = figures.crop_reach_w_pt, figures.crop_reach_h_pt
    if reach_w is not None and reach_h is not None and figures.verdict.falls_short:
        reach = Box(frame.x, frame.y, reach_w, reach_h)
        outline = _points([turn.applied(x, y) for x, y in reach.corners()])
        unit, per_inch = unit_of(job)
        size = size_text(reach_w, reach_h, unit, per_inch, 0 if unit is not Unit.INCH else 1)
        label = f"reach at {ppi_text(figures.target.density_ppi)}: {size}"
    return Selection(
        _points(placement.clip),
        _marks(frame, turn),
        outline,
        label,
        turn.applied(frame.x + 6 * px_pt, frame.y + 6 * px_pt),
    )


def _marks(frame: Box, turn: Matrix) -> tuple[Mark, ...]:
    marks = []
    for handle in Handle:
        share_x, share_y = handle.value
        x, y = turn.applied(frame.x + share_x * frame.width, frame.y + share_y * frame.height)
        marks.append(Mark(handle.name.lower(), x, y, handle.is_corner))
    return tuple(marks)


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
    upright = replace(placed.placement, rotation_deg=0.0)
    frame = upright.frame
    view_box = f"{frame.x:.4f} {frame.y:.4f} {frame.width:.4f} {frame.height:.4f}"
    return Crop(placed.item.picture.sha256, frame, view_box, _matrix(upright.matrix))


def verdict_class(verdict: Verdict | None) -> str:
    """The name of a grain mark; an empty page has the mark for unknown."""
    return verdict.value if verdict else "unknown"
