"""What preflight found in a job, read from what is kept beside the placements."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Select, func, select
from sqlalchemy.orm import Session, object_session

from harnet.core.measure.verdict import Verdict
from harnet.core.preflight.rules import job_rules
from harnet.core.targets.severity import Severity
from harnet.store.acceptance import holds, is_about
from harnet.store.history import recorded
from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.preflight import Acceptance, FindingRow
from harnet.store.tally import FIGURES, SEVERITIES, VERDICTS, Tally
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.common.reasons import reason_given
from harnet.studio.jobs.jobs import page_count
from harnet.studio.layout.placed import PICTURE, TEXT

_SEVERITIES = list(Severity)
_VERDICTS = list(Verdict)
_RANKS = 1000
"""More than there are rules."""


@dataclass(frozen=True, slots=True)
class JobCounts:
    """How a job stands: placed pictures by verdict, findings by severity, accepted ones apart."""

    verdicts: dict[Verdict, int]
    findings: dict[Severity, int]
    accepted: int
    missing: int
    """Placed pictures whose file is not there."""

    @property
    def pictures(self) -> int:
        """Placed pictures."""
        return sum(self.verdicts.values())

    @property
    def open_findings(self) -> int:
        """Findings that nobody accepted."""
        return sum(self.findings.values())

    @property
    def blocking(self) -> int:
        """Findings that hold the gate."""
        return self.findings[Severity.BLOCKING]


@dataclass(frozen=True, slots=True)
class Listed:
    """A finding of a job with its page, and what was accepted of it.

    An acceptance no longer holds when the figures got worse since; then `is_accepted` is false.
    """

    row: FindingRow
    page_number: int
    acceptance: Acceptance | None
    is_accepted: bool

    @property
    def severity(self) -> Severity:
        """How much it matters."""
        return _SEVERITIES[self.row.severity_rank]


@dataclass(frozen=True, slots=True)
class CheckedCounts:
    """What a check looked at."""

    pictures: int
    texts: int
    pages: int
    rules: int


def counts_of(job: Job) -> JobCounts:
    """How a job stands, by the tallies of its pages."""
    session = object_session(job)
    assert session is not None
    return counts_of_each(session, [job])[job.id]


def counts_of_each(session: Session, jobs: Sequence[Job]) -> dict[int, JobCounts]:
    """How each job stands, by its number."""
    figures = [func.coalesce(func.sum(Page.tally[place]), 0) for place in range(1, FIGURES + 1)]
    asked = select(Page.job_id, *figures).where(Page.job_id.in_([job.id for job in jobs]))
    sums = {row[0]: row[1:] for row in session.execute(asked.group_by(Page.job_id))}
    return {job.id: _counts_of(sums.get(job.id, (0,) * FIGURES)) for job in jobs}


def _counts_of(sums: Sequence[int]) -> JobCounts:
    tally = Tally.of_rows([[int(figure) for figure in sums]])
    return JobCounts(
        dict(zip(_VERDICTS, tally.verdicts, strict=True)),
        dict(zip(_SEVERITIES, [*tally.findings, 0], strict=True)),
        tally.accepted,
        tally.missing,
    )


def worst_verdict(page: Page) -> Verdict | None:
    """The worst verdict on a page, None where there is no picture."""
    counts = Tally.of_rows([page.tally]).verdicts
    return next((verdict for verdict, count in zip(_VERDICTS, counts, strict=True) if count), None)


def scope_of(session: Session, job: Job) -> CheckedCounts:
    """How much there is to check in a job."""
    kinds = (
        select(Item.kind, func.count())
        .join(Item.page)
        .where(Page.job_id == job.id, Item.kind.in_((PICTURE, TEXT)))
        .group_by(Item.kind)
    )
    by_kind: dict[str, int] = {kind: count for kind, count in session.execute(kinds)}  # noqa: C416 (rows are no pairs)
    return CheckedCounts(
        by_kind.get(PICTURE, 0), by_kind.get(TEXT, 0), page_count(job), len(job_rules())
    )


def findings_in(
    session: Session,
    job: Job,
    are_accepted: bool = False,
    item_ids: Sequence[int] = (),
    first: int = 0,
    most: int | None = None,
    *,
    group: str = "",
    severity: Severity | None = None,
    is_by_page: bool = False,
) -> list[Listed]:
    """A job's findings, worst first: those that are open, or those that were accepted.

    Args:
        session: Holds the job.
        job: Whose findings.
        are_accepted: Those that were accepted instead of those that are open.
        item_ids: Only those on these items; all where there are none.
        first: How many are left out at the top, if not all are told.
        most: How many are told; None for all.
        group: Only those under a heading.
        severity: Only those that matter so much.
        is_by_page: Page by page, and worst first on each.
    """
    wanted = _listing().where(FindingRow.job_id == job.id)
    wanted = wanted.where(holds if are_accepted else ~holds)
    if item_ids:
        wanted = wanted.where(FindingRow.item_id.in_(item_ids))
    if group:
        wanted = wanted.where(FindingRow.group == group)
    if severity is not None:
        wanted = wanted.where(FindingRow.severity_rank == _SEVERITIES.index(severity))
    order = (Page.position, *_WORST_FIRST) if is_by_page else _WORST_FIRST
    if most is not None:
        # Only places are put in order; what a finding says is read of those that are told.
        told = wanted.with_only_columns(FindingRow.id).order_by(*order).offset(first).limit(most)
        wanted = _listing().where(FindingRow.id.in_(told.scalar_subquery()))
    return [_listed(row) for row in session.execute(wanted.order_by(*order)).all()]


_WORST_FIRST = (
    FindingRow.severity_rank,
    FindingRow.rule_rank,
    FindingRow.badness.desc(),
    Page.position,
    FindingRow.id,
)


@dataclass(frozen=True, slots=True)
class FindingGroup:
    """A heading: a rule's, or a page, and how many open findings stand under it."""

    name: str
    count: int
    page_number: int = 0
    """The page that it is; 0 for a rule's heading."""


def groups_of(session: Session, job: Job) -> list[FindingGroup]:
    """The headings of rules with open findings, the one with the worst finding first."""
    worst = func.min(FindingRow.severity_rank * _RANKS + FindingRow.rule_rank)
    wanted = (
        select(FindingRow.group, func.count())
        .outerjoin(Acceptance, is_about)
        .where(FindingRow.job_id == job.id, ~holds)
        .group_by(FindingRow.group)
        .order_by(worst)
    )
    return [FindingGroup(name, count) for name, count in session.execute(wanted)]


def pages_with_findings(session: Session, job: Job) -> list[FindingGroup]:
    """The pages with open findings in their order, by their tallies."""
    figures = [Page.tally[VERDICTS + place] for place in range(1, SEVERITIES + 1)]
    found = sum(figures[1:], figures[0])
    wanted = select(Page.position + 1, found).where(Page.job_id == job.id, found > 0)
    return [
        FindingGroup(f"Page {number}", count, number)
        for number, count in session.execute(wanted.order_by(Page.position))
    ]


def finding_beside(session: Session, job: Job, item_id: int | None, step: int) -> Listed:
    """The first open finding of the item before or behind another, worst first and round again.

    Raises:
        Refused: there is no open finding.
    """
    # Straight from the connection: a hundred thousand places need no identity map.
    asked = (
        select(FindingRow.item_id, FindingRow.id)
        .join(Page, Page.id == FindingRow.page_id)
        .outerjoin(Acceptance, is_about)
        .where(FindingRow.job_id == job.id, ~holds)
        .order_by(*_WORST_FIRST)
    )
    first_of_each: dict[int, int] = {}
    for item, number in session.connection().execute(asked):
        first_of_each.setdefault(item, number)
    if not first_of_each:
        raise Refused("Preflight has no open finding in this job.")
    order = list(first_of_each)
    place = 0 if step > 0 else -1
    if item_id in first_of_each:
        place = (order.index(item_id) + step) % len(order)
    beside = _listing().where(FindingRow.id == first_of_each[order[place]])
    return _listed(session.execute(beside).one())


def _listing() -> Select[Any, Any, Any, Any]:
    return (
        select(FindingRow, Page.position, Acceptance, holds)
        .join(Page, Page.id == FindingRow.page_id)
        .outerjoin(Acceptance, is_about)
    )


def _listed(row: Any) -> Listed:
    finding, position, acceptance, is_accepted = row
    return Listed(finding, position + 1, acceptance, is_accepted)


def finding_on(session: Session, job: Job, item_id: int, rule_id: str) -> Listed:
    """The finding of a rule on an item.

    Raises:
        NotThere: it is not found any longer.
    """
    wanted = _listing().where(
        FindingRow.job_id == job.id, FindingRow.item_id == item_id, FindingRow.rule_id == rule_id
    )
    found = session.execute(wanted).first()
    if found is None:
        raise NotThere("This finding no longer exists; it was fixed in the meantime.")
    return _listed(found)


def accept(session: Session, job: Job, item_id: int, rule_id: str, reason: str, name: str) -> None:
    """Lets a finding pass with a reason, as one edit; it comes back when its figures get worse.

    Raises:
        Refused: no reason, or nobody's name.
    """
    reason, name = reason_given(reason, name)
    listed = finding_on(session, job, item_id, rule_id)
    row = listed.row
    with recorded(session, job, f"Accept {row.name}: {row.headline}"):
        old = _acceptance(session, item_id, rule_id)
        kept = old or Acceptance(job_id=job.id, item_id=item_id, rule_id=rule_id)
        kept.badness, kept.headline = row.badness, row.headline
        kept.reason, kept.name = reason, name
        if old is None:
            session.add(kept)


def withdraw(session: Session, job: Job, item_id: int, rule_id: str) -> None:
    """Takes an acceptance back, as one edit.

    Raises:
        NotThere: there is none.
    """
    old = _acceptance(session, item_id, rule_id)
    if old is None or old.job_id != job.id:
        raise NotThere("This is not accepted, or its acceptance has already been withdrawn.")
    with recorded(session, job, f"Withdraw acceptance: {old.headline}"):
        session.delete(old)


def _acceptance(session: Session, item_id: int, rule_id: str) -> Acceptance | None:
    wanted = select(Acceptance).where(Acceptance.item_id == item_id, Acceptance.rule_id == rule_id)
    return session.scalars(wanted).first()
