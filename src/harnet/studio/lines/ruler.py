"""What stands on the density ruler of a job, or of a document."""

from collections.abc import Collection
from dataclasses import dataclass

from sqlalchemy import ARRAY, Integer, any_, bindparam, func, select

from harnet.core.ledger.lines import VERDICTS
from harnet.core.measure.verdict import Verdict
from harnet.studio.lines.rows import LineRows

MOST_STACKED = 5


@dataclass(frozen=True, slots=True, kw_only=True)
class RulerPlacement:
    """A placement on the ruler: its step from the job's target, and what a dot says of it.

    Of a step of many one stands for all: its item is one of those chosen, 0 where none of them is.
    """

    item_id: int
    page_number: int
    name: str
    judged_ppi: float
    verdict: Verdict
    step: int
    on_step: int
    """How many placements stand on the same step."""


def placements_on_ruler(lines: LineRows, chosen: Collection[int] = ()) -> list[RulerPlacement]:
    """The dots of lines; of a step of many only how many there are is read, and the worst verdict.

    Args:
        lines: With the target that is tried if there is one.
        chosen: Items that are to be found on the ruler again.
    """
    line = lines.rows.c
    on_ruler = line.ruler_step.is_not(None)
    is_chosen = line.item_id == any_(bindparam("chosen", list(chosen), ARRAY(Integer)))
    steps = lines.link.execute(
        select(
            line.ruler_step,
            func.count(),
            func.min(line.verdict_rank),
            func.min(line.judged_ppi),
            func.coalesce(func.min(line.item_id).filter(is_chosen), 0),
        )
        .where(on_ruler)
        .group_by(line.ruler_step)
    ).all()
    few = {step: count for step, count, *_ in steps if count <= MOST_STACKED}
    single = lines.link.execute(
        select(
            line.item_id,
            line.page_number,
            line.name,
            line.judged_ppi,
            line.verdict_rank,
            line.ruler_step,
        )
        .where(line.ruler_step.in_(few))
        .order_by(line.verdict_rank, line.item_id)
    )
    spots = [
        RulerPlacement(
            item_id=item,
            page_number=page,
            name=name,
            judged_ppi=ppi,
            verdict=VERDICTS[rank],
            step=step,
            on_step=few[step],
        )
        for item, page, name, ppi, rank, step in single
    ]
    return spots + [
        RulerPlacement(
            item_id=item,
            page_number=0,
            name="",
            judged_ppi=ppi,
            verdict=VERDICTS[rank],
            step=step,
            on_step=count,
        )
        for step, count, rank, ppi, item in steps
        if count > MOST_STACKED
    ]
