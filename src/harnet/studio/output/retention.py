"""Old outputs are cleared: their files go, what was promised and found stays."""

from datetime import timedelta

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from harnet.store.base import now_utc
from harnet.store.tables.output import Output
from harnet.studio.common.studio import Studio
from harnet.studio.tasks.states import DONE

CLEARED = "cleared"
KEEP_DAYS = 90
KEEP_LATEST = 20
"""Of each job; more are cleared whatever their age."""


def clear_old_outputs(studio: Studio, *, is_dry: bool = False) -> int:
    """Clears outputs that are too old or too many; returns how many. The worker calls this.

    A dry run clears none.
    """
    with studio.session() as session:
        old = _too_old(session) | _too_many(session)
        for output in () if is_dry else old:
            clear(output)
        return len(old)


def clear(output: Output) -> None:
    """Lets an output's file go, which the sweep deletes; settings, receipt and answers stay."""
    output.sha256, output.state = None, CLEARED


def _too_old(session: Session) -> set[Output]:
    before = now_utc() - timedelta(days=KEEP_DAYS)
    return set(
        session.scalars(select(Output).where(Output.state == DONE, Output.finished_at < before))
    )


def _too_many(session: Session) -> set[Output]:
    rank = func.row_number().over(partition_by=Output.job_id, order_by=Output.id.desc())
    ranked = select(Output.id, rank.label("rank")).where(Output.state == DONE).subquery()
    wanted = (
        select(Output).join(ranked, ranked.c.id == Output.id).where(ranked.c.rank > KEEP_LATEST)
    )
    return set(session.scalars(wanted))
