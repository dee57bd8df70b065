"""The ledger of a job: its lines as the database filters, sorts, counts and tries them."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from sqlalchemy import (
    ColumnElement,
    Float,
    Integer,
    Select,
    Subquery,
    case,
    cast,
    func,
    literal,
    or_,
    select,
    true,
)
from sqlalchemy.orm import Session, joinedload

from harnet.core.ledger.lines import VERDICTS, Line, LineFilter
from harnet.core.ledger.ruler_scale import STEP_HAIR, STEPS_AN_OCTAVE
from harnet.core.measure.verdict import Verdict, edges_of
from harnet.core.targets.target import Target
from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.preflight import Judgement
from harnet.store.tally import VERDICTS as VERDICTS_TALLIED
from harnet.studio.jobs.jobs import target_of
from harnet.studio.layout.placed import Placed, placed_from

_KEPT = (
    Judgement.name,
    Judgement.verdict_rank,
    Judgement.judged_ppi,
    Judgement.headroom,
    Judgement.ruler_step,
    Judgement.evenness,
    Judgement.is_uneven,
    Judgement.is_bilevel,
    Judgement.has_own_target,
    Judgement.file_state,
    Judgement.colour,
    Judgement.kind,
    Judgement.pixels,
    Judgement.area_pt,
)
"""A line's columns after its item and its page, in a line's order."""
_CHOICES = {"page": "page_number", "file_state": "file_state", "colour": "colour", "kind": "kind"}
"""Filters that are chosen from a list, and the column of each."""
_FEW = ("file_state", "colour", "kind")
"""Those with few values."""


@dataclass(frozen=True, slots=True)
class LineCounts:
    """How many lines of a job there are of each sort."""

    verdicts: dict[Verdict, int]
    """Worst first, zeros included."""
    choices: dict[str, list[tuple[str, int]]]
    """By filter, `page`, `file_state`, `colour` and `kind`: the values that occur, in order."""

    @property
    def every(self) -> int:
        """How many there are."""
        return sum(self.verdicts.values())


class LedgerLines:
    """A job's lines: every placed picture against the job's target, or one that is tried.

    With another target nothing is written; placements that are judged by a target of their own, or
    of their page, stay as they are. All is read straight from the connection: fifty thousand lines
    need no identity map.
    """

    def __init__(self, session: Session, job: Job, tried: Target | None = None) -> None:
        """Takes the lines of a job as they are kept; `session` holds it."""
        self.link = session.connection()
        self._job_target = target_of(job)
        self._job_id = job.id
        self._of_job = Judgement.job_id == job.id
        self.target = tried or self._job_target
        self.rows = self._rows(tried)

    def _rows(self, tried: Target | None) -> Subquery:
        changed = {} if tried is None else _tried_columns(tried, self._job_target)
        kept = [changed.get(column.key, column).label(column.key) for column in _KEPT]
        page = (Page.position + 1).label("page_number")
        asked = select(Judgement.item_id, page, *kept).where(self._of_job)
        # Every line has a page; joined like this, it is read only where it is asked for.
        return asked.outerjoin(Page, Page.id == Judgement.page_id).subquery("line")

    def shown(
        self, wanted: LineFilter, start: int = 0, most: int | None = None, first: int | None = None
    ) -> list[Line]:
        """The lines that pass, in their order; equal ones stay page by page.

        Args:
            wanted: The filters and the order.
            start: How many lines are left out at the top.
            most: How many are told; None for all.
            first: The item of the line that stands before all others.
        """
        order = self._order(wanted)
        if first is not None:
            order.insert(0, (self.rows.c.item_id == first).desc())
        asked = self._passing(wanted, *self.rows.c).order_by(*order).offset(start).limit(most)
        return [Line._make(row) for row in self.link.execute(asked).all()]

    def count(self, wanted: LineFilter) -> int:
        """How many lines pass."""
        if not wanted.picks:
            return sum(self._on_pages.values())
        found: int = self.link.execute(self._passing(wanted, func.count())).scalar_one()
        return found

    def item_ids(self, wanted: LineFilter) -> list[int]:
        """The items of all lines that pass, in no order."""
        return list(self.link.execute(self._passing(wanted, self.rows.c.item_id)).scalars())

    def holds(self, wanted: LineFilter, item_id: int) -> bool:
        """Whether the line of an item passes."""
        asked = self._passing(wanted, true()).where(self.rows.c.item_id == item_id)
        return self.link.execute(asked).first() is not None

    def counts(self) -> LineCounts:
        """How many lines there are of each sort, whatever is shown of them."""
        line = self.rows.c
        few = (line.verdict_rank, *(line[_CHOICES[name]] for name in _FEW))
        ranks: Counter[int] = Counter()
        choices: dict[str, Counter[Any]] = {name: Counter() for name in _CHOICES}
        # Few sorts occur together: the database counts those, and they are added up here.
        for rank, *values, count in self.link.execute(select(*few, func.count()).group_by(*few)):
            ranks[rank] += count
            for name, value in zip(_FEW, values, strict=True):
                choices[name][value] += count
        choices["page"].update(self._on_pages)
        return LineCounts(
            {verdict: ranks[rank] for rank, verdict in enumerate(VERDICTS)},
            {
                name: [(str(value), count) for value, count in sorted(found.items())]
                for name, found in choices.items()
            },
        )

    @cached_property
    def _on_pages(self) -> dict[int, int]:
        """How many lines each page has that has any, by the pages' own tallies."""
        verdicts = sum(
            (Page.tally[place] for place in range(2, VERDICTS_TALLIED + 1)), Page.tally[1]
        )
        asked = select(Page.position + 1, verdicts).where(Page.job_id == self._job_id, verdicts > 0)
        return {row[0]: row[1] for row in self.link.execute(asked)}

    @cached_property
    def ends(self) -> tuple[int, int] | None:
        """The lowest and the highest step of the ruler by the job's own target; None without."""
        ends = (func.min(Judgement.ruler_step), func.max(Judgement.ruler_step))
        low, high = self.link.execute(select(*ends).where(self._of_job)).one()
        return None if low is None or high is None else (low, high)

    def _passing(self, wanted: LineFilter, *columns: Any) -> Select[Any]:
        line = self.rows.c
        asked = select(*columns).select_from(self.rows)
        if wanted.verdict:
            ranks = {verdict.value: rank for rank, verdict in enumerate(VERDICTS)}
            asked = asked.where(line.verdict_rank == ranks.get(wanted.verdict, -1))
        for name, column in _CHOICES.items():
            if value := getattr(wanted, name):
                asked = asked.where(line[column] == value)
        if wanted.text:
            asked = asked.where(line.name.icontains(wanted.text, autoescape=True))
        if wanted.to_ppi:
            comparable_ppi = (1 + line.headroom) * _real(self.target.density_ppi)
            asked = asked.where(comparable_ppi.between(wanted.from_ppi, wanted.to_ppi))
        return asked

    def _order(self, wanted: LineFilter) -> list[ColumnElement[Any]]:
        line = self.rows.c
        keys: dict[str, tuple[ColumnElement[Any], ...]] = {
            "shortfall": (line.headroom,),
            "name": (func.lower(line.name).collate("C"),),
            "page": (line.page_number,),
            "pixels": (line.pixels,),
            "size": (line.area_pt,),
            "ppi": (line.judged_ppi,),
            "evenness": (-line.evenness,),
            "file": (line.file_state.collate("C"), line.colour.collate("C")),
        }
        by = keys.get(wanted.sort, keys["shortfall"])
        # Vector pictures, which have no density, come after the densest.
        turned = [key.desc().nulls_first() if wanted.is_reversed else key for key in by]
        return [*turned, line.page_number, line.item_id]


def _tried_columns(target: Target, job_target: Target) -> dict[str, ColumnElement[Any]]:
    """Verdict, headroom and step by another target: `core.ledger.lines.tried_on` in SQL."""
    limits = [target.for_bits(is_bilevel) for is_bilevel in (True, False)]
    on_bits, on_tone = map(edges_of, limits)

    def by_kind(for_bits: float, for_tone: float) -> ColumnElement[float]:
        if for_bits == for_tone:
            return _real(for_tone)
        return case((Judgement.is_bilevel, _real(for_bits)), else_=_real(for_tone))

    ppi = Judgement.judged_ppi
    floor, passes, meets, ceiling = map(by_kind, on_bits, on_tone)
    ranks = [cast(literal(rank), Integer) for rank in range(len(VERDICTS))]
    rank = case(
        (ppi < floor, ranks[0]),
        (ppi < passes, ranks[1]),
        (ppi < meets, ranks[2]),
        (ppi <= ceiling, ranks[3]),
        else_=ranks[4],
    )
    room = ppi / by_kind(*(one.density_ppi for one in limits)) - 1
    octaves = func.ln((1 + room) * _real(target.density_ppi / job_target.density_ppi))
    step = func.floor(octaves * _real(STEPS_AN_OCTAVE) / func.ln(_real(2)) + _real(STEP_HAIR))
    stays = or_(Judgement.has_own_target, ppi.is_(None))
    return {
        "verdict_rank": case((stays, Judgement.verdict_rank), else_=rank),
        "headroom": case((stays, Judgement.headroom), else_=room),
        "ruler_step": case((stays, Judgement.ruler_step), else_=cast(step, Integer)),
    }


def _real(figure: float) -> ColumnElement[float]:
    return cast(literal(float(figure)), Float(53))


def placed_for(session: Session, lines: Sequence[Line], target: Target) -> list[Placed]:
    """The placements behind some lines, with all their figures, in the same order."""
    wanted = select(Item).where(Item.id.in_([line.item_id for line in lines]))
    items = {item.id: item for item in session.scalars(wanted.options(joinedload(Item.page)))}
    return [
        placed_from(items[line.item_id], line.page_number, target)
        for line in lines
        if line.item_id in items
    ]


def placed_of(session: Session, job: Job, wanted: LineFilter) -> list[Placed]:
    """The placements of a job that pass, with all their figures."""
    lines = LedgerLines(session, job)
    return placed_for(session, lines.shown(wanted), lines.target)
