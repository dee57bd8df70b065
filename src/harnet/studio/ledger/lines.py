"""The ledger of a job: its lines as the database filters, sorts, counts and tries them."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from sqlalchemy import ColumnElement, Subquery, case, func, or_, select
from sqlalchemy.orm import Session, joinedload

from harnet.core.ledger.lines import VERDICTS, Line, LineFilter
from harnet.core.measure.verdict import Verdict
from harnet.core.targets.target import Target
from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.preflight import Judgement
from harnet.store.tally import VERDICTS as VERDICTS_TALLIED
from harnet.studio.jobs.jobs import target_of
from harnet.studio.layout.placed import Placed, placed_from
from harnet.studio.lines.rows import CHOICES, LineRows, judged_columns, real, step_of

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


class LedgerLines(LineRows):
    """A job's lines: every placed picture against the job's target, or one that is tried.

    With another target nothing is written; placements that are judged by a target of their own, or
    of their page, stay as they are.
    """

    def __init__(self, session: Session, job: Job, tried: Target | None = None) -> None:
        """Takes the lines of a job as they are kept; `session` holds it."""
        self._job_id = job.id
        self._of_job = Judgement.job_id == job.id
        own = target_of(job)
        super().__init__(session.connection(), self._kept(own, tried), tried or own)

    def _kept(self, own: Target, tried: Target | None) -> Subquery:
        changed = {} if tried is None else _tried_columns(tried, own)
        kept = [changed.get(column.key, column).label(column.key) for column in _KEPT]
        page = (Page.position + 1).label("page_number")
        asked = select(Judgement.item_id, page, *kept).where(self._of_job)
        # Every line has a page; joined like this, it is read only where it is asked for.
        return asked.outerjoin(Page, Page.id == Judgement.page_id).subquery("line")

    def count(self, wanted: LineFilter) -> int:
        """How many lines pass."""
        return super().count(wanted) if wanted.picks else sum(self._on_pages.values())

    def counts(self) -> LineCounts:
        """How many lines there are of each sort, whatever is shown of them."""
        line = self.rows.c
        few = (line.verdict_rank, *(line[CHOICES[name]] for name in _FEW))
        ranks: Counter[int] = Counter()
        choices: dict[str, Counter[Any]] = {name: Counter() for name in CHOICES}
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


def _tried_columns(target: Target, job_target: Target) -> dict[str, ColumnElement[Any]]:
    """Verdict, headroom and step by another target: `core.ledger.lines.tried_on` in SQL."""
    ppi = Judgement.judged_ppi
    rank, room = judged_columns(ppi, Judgement.is_bilevel, target)
    step = step_of((1 + room) * real(target.density_ppi / job_target.density_ppi))
    stays = or_(Judgement.has_own_target, ppi.is_(None))
    return {
        "verdict_rank": case((stays, Judgement.verdict_rank), else_=rank),
        "headroom": case((stays, Judgement.headroom), else_=room),
        "ruler_step": case((stays, Judgement.ruler_step), else_=step),
    }


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
