"""The ledger of a job as its template shows it."""

import math
from collections.abc import Collection
from dataclasses import dataclass

from flask import render_template

from harnet.core.measure.wording import (
    density_text,
    ppi_text,
    px_text,
    share_text,
    short_size_text,
)
from harnet.core.pictures.colour_words import COLOUR_WORDS
from harnet.core.targets.target import Target
from harnet.store.database import Session
from harnet.store.tables.jobs import Item, Job
from harnet.studio.layout.placed import Placed, has_own_target
from harnet.studio.layout.placing import items_in
from harnet.studio.ledger.lines import LedgerLines, LineCounts, placed_for
from harnet.studio.lines.ruler import placements_on_ruler
from harnet.studio.pictures.picture import facts_of_picture
from harnet.studio.preflight.trying import findings_under
from harnet.web.common.shared import JobHeader
from harnet.web.common.units import shown_unit
from harnet.web.common.values import row_number
from harnet.web.drawing.marks import mark_of
from harnet.web.drawing.ruler import Ruler, ruler_of, scale_between
from harnet.web.ledger.query import LedgerQuery

CHUNK = 40
"""Rows that are sent at once; the next come when the last is seen."""


_BAR_PX, _BAR_LOW, _BAR_HIGH = 250.0, 0.12, 4.7
"""The bar runs from 12 % to 470 % of the target on a log scale."""


HEADS = (
    ("name", "Picture", False),
    ("page", "Page", False),
    ("pixels", "Pixels", True),
    ("size", "Size on page", True),
    ("ppi", "Effective ppi", True),
    ("", "bar", False),
    ("shortfall", "Headroom", True),
    ("evenness", "Evenness", False),
    ("file", "File", False),
)
"""What each column is sorted by, its name, and whether it holds figures."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """A placement as the ledger shows it."""

    placed: Placed
    pixels: str
    size: str
    ppi: str
    bar_px: float
    headroom: str
    evenness: str
    file: str

    @property
    def mark(self) -> str:
        """The name of its grain mark."""
        return mark_of(self.placed.figures)


def bar_px(density_share: float) -> float:
    """Length of the bar for a density over its target."""
    share = math.log(max(density_share, _BAR_LOW) / _BAR_LOW) / math.log(_BAR_HIGH / _BAR_LOW)
    return min(1.0, share) * _BAR_PX


def row_of(job: Job, placed: Placed) -> Row:
    """One line of the ledger."""
    assert placed.item.picture is not None
    unit, per_inch = shown_unit(job)
    facts, figures = facts_of_picture(placed.item.picture), placed.figures
    frame, density = placed.placement.frame, figures.density
    return Row(
        placed=placed,
        pixels=px_text(facts.px_w, facts.px_h),
        size=short_size_text(frame.width, frame.height, unit, per_inch),
        ppi=density_text(density) if density else "",
        bar_px=bar_px(1 + figures.headroom) if figures.headroom is not None else 0.0,
        headroom="any" if figures.headroom is None else share_text(figures.headroom, signed=True),
        evenness=f"{share_text(figures.evenness)} uneven" if figures.is_uneven else "even",
        file=" · ".join(_file_parts(placed, COLOUR_WORDS[facts.colour])),
    )


def _file_parts(placed: Placed, colour: str) -> list[str]:
    parts = [placed.file_state.value, colour]
    if has_own_target(placed.item):
        parts.append(f"target {ppi_text(placed.figures.target.density_ppi)}")
    return parts


@dataclass(frozen=True, slots=True, kw_only=True)
class LedgerPage:
    """What a view of the ledger holds."""

    query: LedgerQuery
    lines: LedgerLines
    """Against the target that is tried, if one is."""
    count: int
    """How many of them pass the filters."""
    start: int
    rows: list[Row]

    @property
    def target(self) -> Target:
        """What they are judged by."""
        return self.lines.target

    @property
    def next_start(self) -> int:
        """Where the next rows begin; 0 where these are the last."""
        end = self.start + len(self.rows)
        return end if end < self.count else 0


def shown_of(
    session: Session, job: Job, query: LedgerQuery, start: int = 0, most: int | None = CHUNK
) -> LedgerPage:
    """The ledger's rows that are asked for; `most` of them from `start` on, None for all."""
    lines = LedgerLines(session, job, query.tried)
    shown = lines.shown(query.wanted, start, most, _far_down(lines, query))
    return LedgerPage(
        query=query,
        lines=lines,
        count=len(shown) if most is None else lines.count(query.wanted),
        start=start,
        rows=[row_of(job, one) for one in placed_for(session, shown, lines.target)],
    )


def _far_down(lines: LedgerLines, query: LedgerQuery) -> int | None:
    """The item that was pressed on the ruler, where its line would not be among the first."""
    selected = row_number(query.parts["select"])
    if selected is None or not lines.holds(query.wanted, selected):
        return None
    at_once = lines.shown(query.wanted, most=CHUNK)
    return None if any(line.item_id == selected for line in at_once) else selected


def ledger_view(
    session: Session,
    job: Job,
    query: LedgerQuery,
    chosen: set[int] | None = None,
    is_fragment: bool = False,
    message: str = "",
) -> str:
    """The ledger as a page, or as the fragment that replaces it."""
    header = JobHeader.of(job)
    shown = shown_of(session, job, query)
    counts = shown.lines.counts()
    would = findings_under(session, job, query.tried) if query.tried is not None else None
    return render_template(
        "ledger/_ledger.html" if is_fragment else "ledger/page.html",
        header=header,
        job=job,
        shown=shown,
        query=query,
        counts=counts,
        would=would,
        heads=HEADS,
        chosen=chosen or set(),
        bars=Bars.of(shown.target),
        ruler=_ruler(shown, counts, header.target, chosen or ()),
        is_fragment=is_fragment,
        message=message,
    )


@dataclass(frozen=True, slots=True)
class Bars:
    """Where the bars of all rows have their target and their tolerance, in pixels."""

    target_px: float
    near_px: float

    @classmethod
    def of(cls, target: Target) -> "Bars":
        """The places for a target."""
        return cls(bar_px(1.0), bar_px(1 - target.tolerance))

    @property
    def near_width(self) -> float:
        """How wide the tolerance is."""
        return self.target_px - self.near_px

    @property
    def flag_left(self) -> float:
        """The left edge of the target's mark."""
        return self.target_px - 1


def _ruler(
    shown: LedgerPage, counts: LineCounts, job_target: Target, chosen: Collection[int]
) -> Ruler:
    spots = placements_on_ruler(shown.lines, chosen)
    wanted = shown.query.wanted
    below = sum(count for verdict, count in counts.verdicts.items() if verdict.falls_short)
    brushed = (wanted.from_ppi, wanted.to_ppi) if wanted.to_ppi and wanted.from_ppi else None
    scale = scale_between(shown.lines.ends, job_target)
    return ruler_of(spots, job_target, below, scale, chosen, shown.query.tried, brushed)


def selected_items(
    session: Session, job: Job, query: LedgerQuery, values: list[int], takes_all: bool
) -> list[Item]:
    """The placements that a batch is about: those ticked, or all that the filter shows."""
    if takes_all:
        values = LedgerLines(session, job, query.tried).item_ids(query.wanted)
    return items_in(session, job, values)
