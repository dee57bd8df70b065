"""Batches and walks through the history that touch many placements: made by the worker.

Each is one transaction, as it is in a request: it is made whole, or cancelled and nothing changed.
"""

from collections.abc import Callable, Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.core.layout.placing import Adjusts, EvenBy
from harnet.core.measure.wording import counted
from harnet.store.history import (
    EntryGone,
    go_to,
    latest_edit,
    latest_undone,
    lock_job,
    redo,
    rows_changed_by,
    steps_between,
    undo,
)
from harnet.store.tables.jobs import Edit, Item, Job, Page
from harnet.store.tables.long_batch import LongBatch
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.common.studio import Studio
from harnet.studio.jobs.jobs import job_with, page_count
from harnet.studio.judging.judging import settle
from harnet.studio.ledger.batch import LABELS, Batch, BatchAction, apply_batch
from harnet.studio.tasks.task import Task
from harnet.studio.tasks.work import Work, carry_out

LONG = 1000
"""More placements than this are not changed while someone waits for a page."""
BATCH, UNDO, REDO, TRAVEL = "batch", "undo", "redo", "travel"
_OWN_FAULT = (
    "Harnet failed through a fault of its own. Nothing was changed; the log has the details."
)
_MOVED_ON = "The job changed in the meantime, so nothing was done. Check its history and try again."


def long_batch_with(session: Session, job_id: int, batch_id: int) -> LongBatch:
    """The long batch of that number.

    Raises:
        NotThere: the job has none.
    """
    found = session.get(LongBatch, batch_id)
    if found is None or found.job_id != job_id:
        raise NotThere("This batch no longer exists.")
    return found


def ask_for_batch(session: Session, job: Job, items: Sequence[Item], batch: Batch) -> LongBatch:
    """Records that a batch over many placements is wanted."""
    values: dict[str, object] = {
        "action": batch.action.value,
        "adjusts": batch.adjusts.value,
        "even_by": batch.even_by.value,
        "ppi": batch.ppi,
        "leaves_unfilled_out": batch.leaves_unfilled_out,
    }
    label = f"{LABELS[batch.action]}: {counted(len(items), 'picture')}"
    return _added(session, job, BATCH, label, values, [item.id for item in items])


def long_undo(session: Session, job: Job) -> LongBatch | None:
    """Has the latest edit undone by the worker where it changed many rows; None where it did not.

    Nothing waits where there is nothing to undo.
    """
    return _long_step(session, job, UNDO, latest_edit(session, job))


def long_redo(session: Session, job: Job) -> LongBatch | None:
    """Has the edit undone last made again by the worker where it changed many rows."""
    return _long_step(session, job, REDO, latest_undone(session, job))


def long_travel(session: Session, job: Job, edit_id: int) -> LongBatch | None:
    """Has the worker walk to an edit where many rows change on the way; None where not.

    Raises:
        EntryGone: the job has no such edit.
    """
    between = steps_between(session, job, edit_id)
    if rows_changed_by(session, between) <= LONG:
        return None
    return _added(session, job, TRAVEL, "To a step in the history", {"edit_id": edit_id}, [])


def _long_step(session: Session, job: Job, kind: str, edit: Edit | None) -> LongBatch | None:
    if edit is None or rows_changed_by(session, [edit.id]) <= LONG:
        return None
    label = f"{kind.capitalize()}: {edit.label}"[:200]
    return _added(session, job, kind, label, {"edit_id": edit.id}, [])


def _added(
    session: Session,
    job: Job,
    kind: str,
    label: str,
    values: dict[str, object],
    item_ids: list[int],
) -> LongBatch:
    batch = LongBatch(job_id=job.id, kind=kind, label=label, batch=values, item_ids=item_ids)
    session.add(batch)
    session.flush()
    return batch


def carry_out_batch(studio: Studio, row_id: int) -> None:
    """Makes a long batch; the worker calls this."""
    work = Work(studio, LongBatch, row_id)
    if work.begin():
        carry_out(work, lambda: _make(work), _sentence_for, _OWN_FAULT)


def _sentence_for(error: Exception) -> str | None:
    if isinstance(error, EntryGone):
        return _MOVED_ON
    return str(error) if isinstance(error, Refused | NotThere) else None


def _make(work: Work[LongBatch]) -> None:
    studio = work.studio
    with studio.session() as session:
        wanted = session.get_one(LongBatch, work.row_id)
        job = job_with(session, wanted.job_id)
        lock_job(session, job)
        pages = page_count(job)
        work.tell(0, pages)
        if wanted.kind == BATCH:
            said = _batched(work, session, job, wanted, lambda: work.tell(0, pages))
        else:
            said = _walked(session, job, wanted)
        settle(session, lambda done: work.tell(min(done, pages - 1), pages))
        finished = work.row_in(session)
        finished.said = said
        work.end_in(finished)


def _batched(
    work: Work[LongBatch],
    session: Session,
    job: Job,
    wanted: LongBatch,
    look_up: Callable[[], None],
) -> str:
    values = wanted.batch or {}
    batch = Batch(
        BatchAction(values["action"]),
        Adjusts(values["adjusts"]),
        EvenBy(values["even_by"]),
        ppi=values.get("ppi"),
        leaves_unfilled_out=values["leaves_unfilled_out"],
    )
    there = select(Item).join(Item.page).where(Page.job_id == job.id)
    there = there.where(Item.id.in_(wanted.item_ids)).order_by(Page.position, Item.position)
    items = list(session.scalars(there))
    count = apply_batch(work.studio, session, job, items, batch, look_up)
    return f"{counted(count, 'picture')} changed. One undo reverts it."


def _walked(session: Session, job: Job, wanted: LongBatch) -> str:
    edit_id = (wanted.batch or {})["edit_id"]
    if wanted.kind == TRAVEL:
        go_to(session, job, edit_id)
        return "The job is now at that step."
    is_undo = wanted.kind == UNDO
    now = latest_edit(session, job) if is_undo else latest_undone(session, job)
    if now is None or now.id != edit_id:
        raise Refused(_MOVED_ON)
    (undo if is_undo else redo)(session, job)
    return "Undone." if is_undo else "Redone."


CARRY_OUT_BATCH = Task(name="carry_out_batch", queue="copies", run=carry_out_batch, model=LongBatch)
