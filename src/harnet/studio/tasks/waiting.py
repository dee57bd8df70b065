"""Work that waits: what has no task in the queue is found, and whether anybody works at all."""

from collections.abc import Iterable

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from harnet.store.base import now_utc
from harnet.studio.tasks.states import RUNNING
from harnet.studio.tasks.task import Task

_SETTLED_SECONDS = 20.0
"""A row is committed before its task is queued; in between it waits for a moment."""
_SILENT_SECONDS = 30.0
"""A worker gives a sign every ten seconds."""


def without_task(
    session: Session, tasks: Iterable[Task], settled_seconds: float = _SETTLED_SECONDS
) -> list[tuple[Task, int]]:
    """The rows that wait, or were begun, and that no task in the queue is to do."""
    found = []
    queued = text(
        "select (args->>'row_id')::int from procrastinate_jobs"
        " where task_name = :task and status in ('todo', 'doing')"
    )
    for task in tasks:
        if (model := task.model) is None:
            continue
        known = set(session.scalars(queued, {"task": task.name}))
        rows = session.execute(select(model.id, model.requested_at).where(model.state.in_(RUNNING)))
        for row_id, requested_at in rows:
            # As far in the future: the clock was set back, and would not get there for long.
            is_settled = abs((now_utc() - requested_at).total_seconds()) >= settled_seconds
            if row_id not in known and is_settled:
                found.append((task, row_id))
    return found


def is_anybody_at_work(session: Session) -> bool:
    """Whether a worker gave a sign of late."""
    alive = text(
        "select exists(select 1 from procrastinate_workers"
        " where last_heartbeat > now() - make_interval(secs => :silent))"
    )
    return bool(session.scalar(alive, {"silent": _SILENT_SECONDS}))
