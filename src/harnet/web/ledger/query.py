"""What an address asks of the ledger: filters, order, a target to try, a stretch of the ruler."""

import math
from dataclasses import dataclass, replace
from urllib.parse import urlencode

from flask import Response, after_this_request, request, url_for

from harnet.core.errors import ValueOutOfRange
from harnet.core.ledger.lines import SORTS, LineFilter
from harnet.core.targets.target import Target, own_target
from harnet.store.database import Session
from harnet.store.tables.jobs import Job
from harnet.studio.jobs.jobs import target_of
from harnet.studio.ledger.lines import LedgerLines
from harnet.studio.targets.targets import target_asked
from harnet.web.common.values import figure, positive_figure, row_number
from harnet.web.drawing.ruler import WIDTH_PX, scale_between

_PARTS = (
    *("verdict", "page", "file_state", "colour", "kind", "text", "sort", "order", "from", "to"),
    *("try", "select"),
)
"""The parts of the ledger's address that a link or a form goes on with."""


@dataclass(frozen=True, slots=True)
class LedgerQuery:
    """What an address asks of the ledger: filters, order, and a target to try."""

    wanted: LineFilter
    tried: Target | None
    parts: dict[str, str]
    """The address's own parts, those that say nothing left out."""

    @property
    def sort_direction(self) -> str:
        """How the column that it is sorted by stands, as ARIA has it."""
        return "descending" if self.wanted.is_reversed else "ascending"

    def address(self, **changes: str) -> str:
        """The parts of an address with some of them changed; an empty text takes one away."""
        parts = {name: text for name, text in (self.parts | changes).items() if text}
        return f"?{urlencode(parts)}" if parts else "?"


def asked_of(session: Session, values: dict[str, str], base: Target) -> LedgerQuery:
    """Reads filters, order and the target to try from an address or a form.

    A figure to try changes the density of `base`, the job's target.

    Raises:
        Refused: a target that cannot be tried.
    """
    parts = {name: values.get(name, "").strip()[:200] for name in _PARTS}
    wanted = LineFilter(
        verdict=parts["verdict"],
        page=row_number(parts["page"]) or 0,
        file_state=parts["file_state"],
        colour=parts["colour"],
        kind=parts["kind"],
        text=parts["text"],
        from_ppi=positive_figure(parts["from"]),
        to_ppi=positive_figure(parts["to"]),
        sort=parts["sort"] if parts["sort"] in SORTS else "shortfall",
        is_reversed=parts["order"] == "down",
    )
    tried = tried_target(session, parts["try"], base) if parts["try"] else None
    return LedgerQuery(wanted, tried, parts)


def tried_target(session: Session, text: str, base: Target) -> Target:
    """A target to try: one of the list by its key, or `base` with a figure in ppi."""
    try:
        ppi = figure(text.removesuffix("ppi"), "target")
    except ValueOutOfRange:
        return target_asked(session, text)
    return own_target(ppi, base)


def dragged(session: Session, job: Job, query: LedgerQuery, x: float) -> LedgerQuery:
    """What is asked once the flag was dragged to a place on the ruler, a share of its width."""
    ppi = _ppi_at(session, job, x)
    return say_address(
        url_for("ledger.show", job_id=job.id),
        LedgerQuery(query.wanted, own_target(ppi, target_of(job)), query.parts | {"try": str(ppi)}),
    )


def brushed(session: Session, job: Job, query: LedgerQuery) -> LedgerQuery:
    """What is asked once a stretch of the ruler was brushed, two shares of its width."""
    ends = [request.args.get(name, math.nan, float) for name in ("from_x", "to_x")]
    if not all(math.isfinite(end) for end in ends):
        return query
    low, high = sorted(_ppi_at(session, job, end) for end in ends)
    wanted = replace(query.wanted, from_ppi=low, to_ppi=high)
    parts = query.parts | {"from": str(low), "to": str(high)}
    return say_address(
        url_for("ledger.show", job_id=job.id), LedgerQuery(wanted, query.tried, parts)
    )


def _ppi_at(session: Session, job: Job, x: float) -> int:
    scale = scale_between(LedgerLines(session, job).ends, target_of(job))
    return round(scale.ppi_at(min(1.0, max(0.0, x)) * WIDTH_PX))


def say_address(place: str, query: LedgerQuery) -> LedgerQuery:
    """Has the browser's address say what was dragged, so that a reload comes back to it."""
    address = place + query.address()

    @after_this_request
    def add(response: Response) -> Response:
        response.headers["HX-Replace-Url"] = address
        return response

    return query
