"""The canvas of the Pages view, and what of it a browser shows already.

An edit changes a few placements of a page that may hold hundreds. The page says what it shows, and
the answer draws only what differs from that.
"""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from hashlib import blake2b

from flask import Response, after_this_request, request

from harnet.core.layout.grid import grid_lines
from harnet.core.measure.geometry import Box
from harnet.core.measure.wording import counted
from harnet.store.tables.jobs import Item, Job, Page
from harnet.studio.jobs.jobs import page_of, target_of
from harnet.studio.layout.guides import columns_on, grid_of, guides_of_page
from harnet.studio.layout.placed import PICTURE, file_state_of
from harnet.web.common.units import shown_unit
from harnet.web.drawing.pages import (
    Drawn,
    DrawnPreview,
    bleed_box,
    drawn_of,
    px_pt_of,
    seen_box,
    spread_of,
)

SHOWN_HEADER = "Harnet-Shown"
"""The request header in which a page says what it shows: the stamp of its canvas, then one for
each placement in the order they are drawn, apart by full stops."""
_STAMP_BYTES = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    """One page of a spread: where it lies, its bleed and margins, and what is on it."""

    page: Page
    number: int
    x: float
    bleed: Box
    margin: Box | None
    columns: tuple[Box, ...]
    grid: tuple[Sequence[float], Sequence[float]]
    """Where grid lines cross the page, across and down."""
    guides: Mapping[str, Sequence[float]]
    items: tuple[Drawn, ...]
    """What is to be drawn: everything, or on a kept canvas what differs from what is shown."""

    @property
    def bleed_x(self) -> float:
        """The left edge of its bleed on the canvas."""
        return self.x + self.bleed.x


@dataclass(frozen=True, slots=True, kw_only=True)
class Canvas:
    """A page, or two that face each other, as the canvas shows them."""

    view_box: str
    sheets: tuple[Sheet, ...]
    px_pt: float
    """Points that a screen pixel takes when the spread fits the canvas at 1280 × 800."""
    stamp: str
    """Changes with everything on the canvas but the drawings of placements."""
    is_kept: bool
    """Whether the page shows this canvas already, so that changed placements are enough."""

    @property
    def label(self) -> str:
        """What is on the pages, for those who do not see them."""
        return ", ".join(
            f"Page {sheet.number} with {counted(len(sheet.page.items), 'item')}"
            for sheet in self.sheets
        )


def canvas_of(job: Job, number: int, selected_ids: Collection[int], quality: str) -> Canvas:
    """A page ready to draw, beside the one it faces; only what the asking page shows otherwise."""
    numbers = spread_of(job, number)
    seen = seen_box(job, numbers)
    view_box = f"{seen.x:.3f} {seen.y:.3f} {seen.width:.3f} {seen.height:.3f}"
    look = DrawnPreview(selected_ids, px_pt_of(job, number), quality)
    stamp = _canvas_stamp(job, numbers, look)
    stamps = {item.id: _item_stamp(item, look) for item in _items_on(job, numbers)}
    shown_stamp, *shown = request.headers.get(SHOWN_HEADER, "").split(".")
    is_kept = shown_stamp == stamp and len(shown) == len(stamps)
    known = dict(zip(stamps, shown, strict=True)) if is_kept else {}
    if is_kept:
        _say_kept()
    sheets, x = [], 0.0
    for one in numbers:
        page = page_of(job, one)
        margin = job.margin_pt
        inner = Box(margin, margin, page.width_pt - 2 * margin, page.height_pt - 2 * margin)
        has_margin = 0 < margin < min(page.width_pt, page.height_pt) / 2
        sheets.append(
            Sheet(
                page=page,
                number=one,
                x=x,
                bleed=bleed_box(job, page),
                margin=inner if has_margin else None,
                columns=columns_on(job, page),
                grid=(
                    grid_lines(grid_of(job), page.width_pt, margin),
                    grid_lines(grid_of(job), page.height_pt, margin),
                ),
                guides=guides_of_page(page),
                items=tuple(
                    drawn_of(job, item, one, look, stamp=stamps[item.id])
                    for item in page.items
                    if not stamps[item.id] or known.get(item.id) != stamps[item.id]
                ),
            )
        )
        x += page.width_pt
    return Canvas(
        view_box=view_box, sheets=tuple(sheets), px_pt=look.px_pt, stamp=stamp, is_kept=is_kept
    )


def _say_kept() -> None:
    """Has the page put the answer in its place part by part, its canvas kept."""

    @after_this_request
    def add(response: Response) -> Response:
        response.headers["HX-Reswap"] = "redraw"
        return response


def _items_on(job: Job, numbers: Sequence[int]) -> list[Item]:
    return [item for number in numbers for item in page_of(job, number).items]


def _canvas_stamp(job: Job, numbers: Sequence[int], look: DrawnPreview) -> str:
    """Of the pages, their order of placements and all that every placement is drawn with."""
    pages = [page_of(job, number) for number in numbers]
    return _stamp(
        [(page.id, page.position, page.width_pt, page.height_pt, page.target) for page in pages],
        [(guides_of_page(page), [item.id for item in page.items]) for page in pages],
        (job.bleed_pt, job.margin_pt, grid_of(job), shown_unit(job), target_of(job)),
        (look.px_pt, look.quality),
    )


def _item_stamp(item: Item, look: DrawnPreview) -> str:
    """Of what one placement is drawn with; a selected one is always drawn and has none."""
    if item.id in look.selected_ids:
        return ""
    has_file = item.kind == PICTURE and item.picture is not None
    return _stamp(item.version, file_state_of(item) if has_file else None)


def _stamp(*parts: object) -> str:
    return blake2b(repr(parts).encode(), digest_size=_STAMP_BYTES).hexdigest()
