"""The ledger of a job: every placement as a short line, filtered, sorted, and tried on targets."""

from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import cache
from operator import attrgetter
from typing import Any, NamedTuple

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from harnet.core.density import headroom
from harnet.core.rulerscale import ruler_step
from harnet.core.target import Target
from harnet.core.verdict import Verdict, verdict_of_judged
from harnet.store.checkmodels import Judgement
from harnet.store.models import Item, Job, Page
from harnet.studio.placed import Placed, placed_from

_VERDICTS = list(Verdict)


class Line(NamedTuple):
    """A placement as far as the ledger filters and sorts by it; see the table of judgements."""

    item_id: int
    page_number: int
    name: str
    verdict_rank: int
    judged_ppi: float | None
    headroom: float | None
    ruler_step: int | None
    """Its step on the density ruler, counted from the job's own target."""
    evenness: float
    is_uneven: bool
    is_bilevel: bool
    has_own_target: bool
    file_state: str
    colour: str
    kind: str
    pixels: int
    area_pt: float

    @property
    def verdict(self) -> Verdict:
        """Its verdict."""
        return _VERDICTS[self.verdict_rank]


def lines_of_job(session: Session, job: Job) -> list[Line]:
    """Every placed picture of a job, page by page."""
    columns = (
        Judgement.item_id,
        Judgement.page_id,
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
    # Straight from the connection: five thousand lines need no identity map.
    rows = session.connection().execute(select(*columns).where(Judgement.job_id == job.id))
    positions = select(Page.id, Page.position).where(Page.job_id == job.id)
    numbers = {page: position + 1 for page, position in session.connection().execute(positions)}
    lines = [Line._make((row[0], numbers[row[1]], *row[2:])) for row in rows.all()]
    lines.sort(key=attrgetter("page_number", "item_id"))
    return lines


def tried_on(lines: Iterable[Line], target: Target, job_target: Target) -> list[Line]:
    """The lines as they would be with another target than the job's; nothing is written.

    Placements that are judged by a target of their own, or of their page, stay as they are.
    """
    limits = {is_bilevel: target.for_bits(is_bilevel) for is_bilevel in (False, True)}
    ranks = {verdict: rank for rank, verdict in enumerate(_VERDICTS)}

    @cache
    def judged(ppi: float, is_bilevel: bool) -> tuple[int, float, int]:
        against = limits[is_bilevel]
        room = headroom(ppi, against.density_ppi)
        comparable_ppi = (1 + room) * target.density_ppi
        step = ruler_step(headroom(comparable_ppi, job_target.density_ppi))
        return ranks[verdict_of_judged(ppi, against)], room, step

    tried = []
    for line in lines:
        if line.judged_ppi is not None and not line.has_own_target:
            rank, room, step = judged(line.judged_ppi, line.is_bilevel)
            line = line._replace(verdict_rank=rank, headroom=room, ruler_step=step)
        tried.append(line)
    return tried


def verdict_counts(lines: Iterable[Line]) -> dict[Verdict, int]:
    """How many placements have each verdict, worst first, zeros included."""
    found = Counter(map(attrgetter("verdict_rank"), lines))
    return {verdict: found[rank] for rank, verdict in enumerate(_VERDICTS)}


@dataclass(frozen=True, slots=True)
class Wanted:
    """What a view of the ledger shows: filters that are empty let everything pass.

    `from_ppi` and `to_ppi` are a stretch of the density ruler: densities as they compare with the
    job's target.
    """

    verdict: str = ""
    page: int = 0
    file_state: str = ""
    colour: str = ""
    kind: str = ""
    text: str = ""
    from_ppi: float = 0.0
    to_ppi: float = 0.0
    sort: str = "shortfall"
    is_reversed: bool = False

    @property
    def picks(self) -> bool:
        """Whether some line might not be shown."""
        filters = (self.verdict, self.page, self.file_state, self.colour, self.kind, self.text)
        return any(filters) or self.to_ppi > 0

    def passes(self, line: Line, target_ppi: float) -> bool:
        """Whether a line is shown."""
        return (
            (not self.verdict or line.verdict.value == self.verdict)
            and (not self.page or line.page_number == self.page)
            and (not self.file_state or line.file_state == self.file_state)
            and (not self.colour or line.colour == self.colour)
            and (not self.kind or line.kind == self.kind)
            and (not self.text or self.text.lower() in line.name.lower())
            and self._is_on_stretch(line, target_ppi)
        )

    def _is_on_stretch(self, line: Line, target_ppi: float) -> bool:
        if not self.to_ppi:
            return True
        if line.headroom is None:
            return False
        return self.from_ppi <= (1 + line.headroom) * target_ppi <= self.to_ppi


_last = float("inf")
SORTS: dict[str, Callable[[Line], Any]] = {
    "shortfall": lambda line: _last if line.headroom is None else line.headroom,
    "name": lambda line: line.name.lower(),
    "page": attrgetter("page_number"),
    "pixels": attrgetter("pixels"),
    "size": attrgetter("area_pt"),
    "ppi": lambda line: _last if line.judged_ppi is None else line.judged_ppi,
    "evenness": lambda line: -line.evenness,
    "file": attrgetter("file_state", "colour"),
}
"""What the ledger is sorted by; shortfall puts the farthest short first."""


def wanted_lines(lines: Iterable[Line], wanted: Wanted, target_ppi: float) -> list[Line]:
    """The lines that are shown, in their order; equal ones stay page by page."""
    shown = (
        [line for line in lines if wanted.passes(line, target_ppi)] if wanted.picks else [*lines]
    )
    key = SORTS.get(wanted.sort, SORTS["shortfall"])
    shown.sort(key=key, reverse=wanted.is_reversed)
    return shown


def placed_for(session: Session, lines: Sequence[Line], target: Target) -> list[Placed]:
    """The placements behind some lines, with all their figures, in the same order."""
    wanted = select(Item).where(Item.id.in_([line.item_id for line in lines]))
    items = {item.id: item for item in session.scalars(wanted.options(joinedload(Item.page)))}
    return [
        placed_from(items[line.item_id], line.page_number, target)
        for line in lines
        if line.item_id in items
    ]


def placed_of(session: Session, job: Job, target: Target) -> list[Placed]:
    """Every placement of a job with all its figures, the farthest short first."""
    lines = wanted_lines(lines_of_job(session, job), Wanted(), target.density_ppi)
    return placed_for(session, lines, target)
