"""The ledger's lines: every placement in short; filtered, sorted, counted, tried on targets."""

from collections import Counter
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cache
from operator import attrgetter
from typing import Any, NamedTuple

from harnet.core.ledger.ruler_scale import ruler_step
from harnet.core.measure.density import headroom
from harnet.core.measure.verdict import Verdict, verdict_of_judged
from harnet.core.targets.target import Target

VERDICTS = list(Verdict)
"""Worst first; a line keeps its place among them."""


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
        return VERDICTS[self.verdict_rank]


def tried_on(lines: Iterable[Line], target: Target, job_target: Target) -> list[Line]:
    """The lines as they would be with another target than the job's; nothing is written.

    Placements that are judged by a target of their own, or of their page, stay as they are.
    """
    limits = {is_bilevel: target.for_bits(is_bilevel) for is_bilevel in (False, True)}
    ranks = {verdict: rank for rank, verdict in enumerate(VERDICTS)}

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
    return {verdict: found[rank] for rank, verdict in enumerate(VERDICTS)}


def seen_counts(lines: Iterable[Line]) -> dict[Verdict, int]:
    """How many of those that are judged have each verdict; what not visible is not."""
    return verdict_counts(line for line in lines if line.judged_ppi is not None)


@dataclass(frozen=True, slots=True, kw_only=True)
class LineFilter:
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


def wanted_lines(lines: Iterable[Line], wanted: LineFilter, target_ppi: float) -> list[Line]:
    """The lines that are shown, in their order; equal ones stay page by page."""
    shown = (
        [line for line in lines if wanted.passes(line, target_ppi)] if wanted.picks else [*lines]
    )
    key = SORTS.get(wanted.sort, SORTS["shortfall"])
    shown.sort(key=key, reverse=wanted.is_reversed)
    return shown
