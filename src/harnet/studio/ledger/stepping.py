"""One step back or forward through a job's history, as a window asks for it."""

from dataclasses import dataclass

from sqlalchemy.orm import Session

from harnet.store.history import redo, undo
from harnet.store.tables.jobs import Job
from harnet.store.tables.long_batch import LongBatch
from harnet.studio.jobs.jobs import page_count
from harnet.studio.jobs.steps import page_changed_by, step_known
from harnet.studio.ledger.long_batch import long_redo, long_undo


@dataclass(frozen=True, slots=True)
class Stepped:
    """What a step came to."""

    page_number: int | None
    """The page where it happened, to be shown; None where it was about no page."""
    long_batch: LongBatch | None = None
    """The worker's part where very many placements change: nothing has changed yet."""


def take_step(session: Session, job: Job, known_id: int | None, *, is_redo: bool) -> Stepped:
    """Undoes the latest edit, or makes the one undone last again.

    Args:
        session: Holds the job.
        job: Whose history it is.
        known_id: The number of the step that the window shows; None where it shows none.
        is_redo: Forward instead of back.

    Raises:
        Refused: there is nothing to undo or redo.
        Conflict: another window has changed the job since; the text names its step.
    """
    edit = step_known(session, job, known_id, is_redo)
    long_batch = (long_redo if is_redo else long_undo)(session, job)
    if long_batch is not None:
        return Stepped(None, long_batch)
    before = page_changed_by(session, job, edit)
    (redo if is_redo else undo)(session, job)
    number = page_changed_by(session, job, edit) or before
    return Stepped(min(number, page_count(job)) if number is not None else None)
