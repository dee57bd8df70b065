"""What stands on the density ruler of a job."""

from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from harnet.core.measure.verdict import Verdict
from harnet.store.tables.jobs import Job, Page
from harnet.store.tables.preflight import Judgement

MOST_STACKED = 5


VERDICTS = list(Verdict)


@dataclass(frozen=True, slots=True, kw_only=True)
class RulerPlacement:
    """A placement on the ruler: its step from the job's target, and what a dot says of it."""

    item_id: int
    page_number: int
    name: str
    judged_ppi: float
    verdict: Verdict
    step: int
    on_step: int
    """How many placements stand on the same step."""


def placements_on_ruler(session: Session, job: Job) -> list[RulerPlacement]:
    """The dots of a job from what is kept; of a step of many only how many there are is read."""
    link = session.connection()
    of_job = (Judgement.job_id == job.id, Judgement.ruler_step.is_not(None))
    steps = link.execute(
        select(
            Judgement.ruler_step,
            func.count(),
            func.min(Judgement.verdict_rank),
            func.min(Judgement.judged_ppi),
        )
        .where(*of_job)
        .group_by(Judgement.ruler_step)
    ).all()
    few = {step: count for step, count, _, _ in steps if count <= MOST_STACKED}
    single = link.execute(
        select(
            Judgement.item_id,
            Page.position + 1,
            Judgement.name,
            Judgement.judged_ppi,
            Judgement.verdict_rank,
            Judgement.ruler_step,
        )
        .join(Page, Page.id == Judgement.page_id)
        .where(*of_job, Judgement.ruler_step.in_(few))
        .order_by(Judgement.verdict_rank, Judgement.item_id)
    )
    spots = [
        RulerPlacement(
            item_id=item,
            page_number=page,
            name=name,
            judged_ppi=ppi or 0.0,
            verdict=VERDICTS[rank],
            step=step or 0,
            on_step=few[step],
        )
        for item, page, name, ppi, rank, step in single
    ]
    return spots + [
        RulerPlacement(
            item_id=0,
            page_number=0,
            name="",
            judged_ppi=ppi or 0.0,
            verdict=VERDICTS[rank],
            step=step or 0,
            on_step=count,
        )
        for step, count, rank, ppi in steps
        if count > MOST_STACKED
    ]
