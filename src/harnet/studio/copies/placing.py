"""Finished print copies go into the frames they were made for: one by one, or a batch at once."""

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from harnet.core.measure.wording import counted
from harnet.store.history import lock_job, recorded
from harnet.store.tables.copies import PrintCopy
from harnet.store.tables.jobs import Item
from harnet.studio.common.rows import row_with
from harnet.studio.jobs.jobs import job_with
from harnet.studio.layout.placing import place_copy
from harnet.studio.tasks.states import RUNNING


def copy_with(session: Session, copy_id: int) -> PrintCopy:
    """The copy of that number.

    Raises:
        NotThere: there is none.
    """
    return row_with(session, PrintCopy, copy_id, "This print copy no longer exists.")


def place_finished(session: Session, copy: PrintCopy) -> None:
    """Puts a finished copy into the frame that it was made for, if that is still as it was.

    Copies of one batch wait for each other, and are placed as one edit. Whoever sees that a copy
    is done sees it in its frame: both are one transaction.
    """
    if copy.batch is not None:
        place_batch(session, batch_of(session, copy.batch))
    elif copy.item_id is not None and copy.made is not None:
        item = _frame_of(session, copy)
        if item is not None:
            job = job_with(session, item.page.job_id)
            place_copy(session, job, item, copy.made)


def _frame_of(session: Session, copy: PrintCopy) -> Item | None:
    """The placement that a copy was made for; records on the copy whether it goes there."""
    item = session.get(Item, copy.item_id)
    if item is not None:
        lock_job(session, item.page.job)
        # What someone else did to it while the lock was waited for.
        item = session.get(Item, copy.item_id, populate_existing=True)
    if item is None:
        copy.is_placed = False
        copy.note = "The frame was removed in the meantime; the copy is on the shelf."
        return None
    if item.version != copy.item_version:
        copy.is_placed = False
        copy.note = "The frame changed in the meantime, so the copy is on the shelf only."
        return None
    copy.is_placed = True
    copy.note = f"Placed on page {item.page.position + 1} of {item.page.job.title}."
    return item


def batch_of(session: Session, batch: str) -> list[PrintCopy]:
    """The copies that were asked for together."""
    wanted = select(PrintCopy).where(PrintCopy.batch == batch).order_by(PrintCopy.id)
    return list(session.scalars(wanted))


def lock_batch_of(session: Session, copy_id: int) -> None:
    """Locks a copy with all of its batch: of two that end at once, the second sees the first."""
    batch = select(PrintCopy.batch).where(PrintCopy.id == copy_id).scalar_subquery()
    ours = or_(PrintCopy.id == copy_id, PrintCopy.batch == batch)
    wanted = select(PrintCopy).where(ours).order_by(PrintCopy.id).with_for_update(of=PrintCopy)
    session.scalars(wanted.execution_options(populate_existing=True)).all()


def place_batch(session: Session, copies: list[PrintCopy]) -> None:
    """Places the copies of a batch as one edit, once none of them is being made any longer."""
    if any(copy.state in RUNNING for copy in copies):
        return
    ready = [(copy, _frame_of(session, copy)) for copy in copies if copy.made is not None]
    frames = [(copy, item) for copy, item in ready if item is not None]
    if not frames:
        return
    job = job_with(session, frames[0][1].page.job_id)
    with recorded(session, job, f"Print copies: {counted(len(frames), 'picture')}"):
        for copy, item in frames:
            assert copy.made is not None
            place_copy(session, job, item, copy.made, is_recorded=False)
