"""Findings as they would be with another target; nothing is written."""

from collections import Counter
from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from harnet.core.preflight.rules import findings_of
from harnet.core.targets.severity import Severity
from harnet.core.targets.target import Target
from harnet.store.acceptance import acceptances_on, still_holds
from harnet.store.tables.jobs import Item, Job, Page
from harnet.studio.judging.subjects import subjects_on

MOST_ITEMS = 600
"""So many items are judged while someone waits; of a larger job the verdicts must do."""


@dataclass(frozen=True, slots=True)
class FindingsUnder:
    """How many findings nobody accepted, and how many of them hold the gate."""

    open_count: int
    blocking_count: int


def findings_under(session: Session, job: Job, target: Target) -> FindingsUnder | None:
    """The findings of a job with another target; None for a job with very many items.

    Pages and placements with a target of their own are judged by that, as always.
    """
    on_job = select(func.count()).select_from(Item).join(Item.page).where(Page.job_id == job.id)
    if (session.scalar(on_job) or 0) > MOST_ITEMS:
        return None
    accepted = acceptances_on(session, [page.id for page in job.pages])
    found: Counter[Severity] = Counter()
    for page in job.pages:
        for subject, _ in subjects_on(job, page, page.items, target):
            found.update(
                one.severity
                for one in findings_of(subject)
                if not still_holds(one.badness, accepted.get((one.item_id, one.rule_id)))
            )
    return FindingsUnder(found.total(), found[Severity.BLOCKING])
