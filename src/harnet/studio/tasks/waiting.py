"""Work that waits: what has no task in the queue is found, and whether anybody works at all."""

from dataclasses import dataclass

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from harnet.store.base import now_utc
from harnet.store.tables.documents import CheckedPdf
from harnet.store.tables.output import Output, PackOpening
from harnet.store.tables.pictures_and_jobs import AgencyFetch, PrintCopy
from harnet.studio.tasks.states import RUNNING

_SETTLED_SECONDS = 20.0
"""A row is committed before its task is queued; in between it waits for a moment."""
_SILENT_SECONDS = 30.0
"""A worker gives a sign every ten seconds."""


@dataclass(frozen=True, slots=True)
class Waiting:
    """A row that waits, and the task that is to do it: its name, queue and argument."""

    task: str
    queue: str
    argument: str
    row_id: int


_KINDS = (
    (Output, "make_output", "outputs", "output_id"),
    (CheckedPdf, "read_pdf", "outputs", "pdf_id"),
    (PackOpening, "open_pack", "outputs", "opening_id"),
    (PrintCopy, "make_copy", "copies", "copy_id"),
    (AgencyFetch, "fetch_picture", "copies", "fetch_id"),
)


def without_task(session: Session, settled_seconds: float = _SETTLED_SECONDS) -> list[Waiting]:
    """The rows that wait, or were begun, and that no task in the queue is to do."""
    found = []
    for model, task, queue, argument in _KINDS:
        queued = text(
            f"select (args->>'{argument}')::int from procrastinate_jobs"
            " where task_name = :task and status in ('todo', 'doing')"
        )
        known = set(session.scalars(queued, {"task": task}))
        rows = session.execute(select(model.id, model.asked_at).where(model.state.in_(RUNNING)))
        for row_id, asked_at in rows:
            is_settled = (now_utc() - asked_at).total_seconds() >= settled_seconds
            if row_id not in known and is_settled:
                found.append(Waiting(task, queue, argument, row_id))
    return found


def is_anybody_at_work(session: Session) -> bool:
    """Whether a worker gave a sign of late."""
    alive = text(
        "select exists(select 1 from procrastinate_workers"
        " where last_heartbeat > now() - make_interval(secs => :silent))"
    )
    return bool(session.scalar(alive, {"silent": _SILENT_SECONDS}))
