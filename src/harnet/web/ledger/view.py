"""The ledger of a job as its template shows it."""

import math
from collections import Counter
from dataclasses import dataclass
from operator import attrgetter

from flask import render_template

from harnet.core.ledger.lines import Line, tried_on, verdict_counts, wanted_lines
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
from harnet.studio.jobs.jobs import target_of
from harnet.studio.layout.placed import Placed, has_own_target
from harnet.studio.layout.placing import items_in
from harnet.studio.ledger.lines import lines_of_job, placed_for
from harnet.studio.pictures.picture import facts_of_picture
from harnet.studio.preflight.trying import findings_under
from harnet.web.common.shared import JobHeader
from harnet.web.common.units import shown_unit
from harnet.web.drawing.marks import mark_of
from harnet.web.drawing.ruler import Ruler, ruler_of, scale_of_lines, spots_of_lines
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


_FILTERS = ("page", "file_state", "colour", "kind")


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
    target: Target
    settled: list[Line]
    """Every placement against the job's target."""
    every: list[Line]
    """Every placement against the target that is tried, if one is."""
    lines: list[Line]
    start: int
    rows: list[Row]

    @property
    def next_start(self) -> int:
        """Where the next rows begin; 0 where these are the last."""
        end = self.start + len(self.rows)
        return end if end < len(self.lines) else 0


def shown_of(
    session: Session, job: Job, query: LedgerQuery, start: int = 0, most: int = CHUNK
) -> LedgerPage:
    """The ledger's lines that are asked for, and the rows of those to show first."""
    job_target = target_of(job)
    target = query.tried or job_target
    settled = lines_of_job(session, job)
    every = settled if query.tried is None else tried_on(settled, query.tried, job_target)
    lines = _selected_in_sight(wanted_lines(every, query.wanted, target.density_ppi), query)
    placed = placed_for(session, lines[start : start + most], target)
    return LedgerPage(
        query=query,
        target=target,
        settled=settled,
        every=every,
        lines=lines,
        start=start,
        rows=[row_of(job, one) for one in placed],
    )


def _selected_in_sight(lines: list[Line], query: LedgerQuery) -> list[Line]:
    """The lines, with the one that was pressed on the ruler first where it is far down."""
    selected = query.parts["select"]
    if selected and any(str(line.item_id) == selected for line in lines[CHUNK:]):
        lines.sort(key=lambda line: str(line.item_id) != selected)
    return lines


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
    would = findings_under(session, job, query.tried) if query.tried is not None else None
    return render_template(
        "ledger/_ledger.html" if is_fragment else "ledger/page.html",
        header=header,
        job=job,
        shown=shown,
        query=query,
        counts=verdict_counts(shown.every),
        would=would,
        filters={name: _choices(shown.every, name) for name in _FILTERS},
        heads=HEADS,
        chosen=chosen or set(),
        bars=Bars.of(shown.target),
        ruler=_ruler(shown, header.target, chosen or set()),
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


def _ruler(shown: LedgerPage, job_target: Target, chosen: set[int]) -> Ruler:
    spots = spots_of_lines(shown.every)
    wanted = shown.query.wanted
    counts = verdict_counts(shown.every)
    below = sum(count for verdict, count in counts.items() if verdict.falls_short)
    brushed = (wanted.from_ppi, wanted.to_ppi) if wanted.to_ppi and wanted.from_ppi else None
    scale = scale_of_lines(shown.settled, job_target)
    return ruler_of(spots, job_target, below, scale, chosen, shown.query.tried, brushed)


def _choices(lines: list[Line], name: str) -> list[tuple[str, int]]:
    """The values that occur in a column, and how often."""
    column = "page_number" if name == "page" else name
    found = Counter(map(attrgetter(column), lines))
    return [(str(value), count) for value, count in sorted(found.items())]


def selected_items(
    session: Session, job: Job, query: LedgerQuery, values: list[int], takes_all: bool
) -> list[Item]:
    """The placements that a batch is about: those ticked, or all that the filter shows."""
    if takes_all:
        values = [line.item_id for line in shown_of(session, job, query, most=0).lines]
    return items_in(session, job, values)
