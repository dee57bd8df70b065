"""The one state machine of work in the background.

A row waits, is worked on, and is then done, failed with a sentence, or cancelled. Here is where it
begins, tells how far it is, hears that it was cancelled, fails and finishes; nothing else changes
its state. A row that was cancelled, or deleted, stays so, whatever the work does in the meantime.
"""

import shutil
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Generic, TypeVar

from sqlalchemy.orm import Session

from harnet.media.errors import OwnFault
from harnet.store.acting import Actor, acting
from harnet.store.base import now_utc
from harnet.store.tables.work import BackgroundWork
from harnet.studio.common.studio import Studio
from harnet.studio.people.people import actor_named
from harnet.studio.tasks.states import CANCELLED, DONE, FAILED, RUNNING, WAITING, WORKING, Cancelled

Row = TypeVar("Row", bound=BackgroundWork)
_TOLD_EVERY_SECONDS = 0.4


class Work(Generic[Row]):
    """A row that is being worked on, for those who do the work."""

    def __init__(
        self,
        studio: Studio,
        model: type[Row],
        row_id: int,
        lock_first: Callable[[Session], None] = lambda _session: None,
    ) -> None:
        """`lock_first` locks what must be locked before the row that is about to end."""
        self.studio, self.row_id = studio, row_id
        self._model, self._lock_first = model, lock_first
        self._told_at = 0.0

    def begin(self, change: Callable[[Session, Row], None] | None = None) -> bool:
        """Marks the row as worked on; whether it is still wanted. `change` is made along with it.

        What a killed worker had begun is begun again.
        """
        with self.studio.session() as session:
            row = self._wanted_row(session)
            if row is None:
                return False
            row.state, row.steps_done = WORKING, 0
            if change is not None:
                change(session, row)
            return True

    def tell(self, done: int, of: int) -> None:
        """Records how far it is; every call but a few a second only takes the time.

        Raises:
            Cancelled: it was cancelled.
        """
        if done < of and time.monotonic() - self._told_at < _TOLD_EVERY_SECONDS:
            return

        def note(_session: Session, row: Row) -> None:
            row.steps_done, row.steps_total = done, of

        self.change(note)

    def look_up(self) -> None:
        """Sees whether it is still wanted; for work that has nothing to tell.

        Raises:
            Cancelled: it is not.
        """
        self.change(lambda _session, _row: None)

    def change(self, change: Callable[[Session, Row], None]) -> None:
        """Writes into the row, which is locked while that is done.

        Raises:
            Cancelled: it was cancelled.
        """

        def write(session: Session) -> None:
            row = self._wanted_row(session)
            if row is None:
                raise Cancelled
            change(session, row)

        self.studio.patiently(write)
        self._told_at = time.monotonic()

    def finish(self, change: Callable[[Session, Row], None]) -> None:
        """Marks the row as done, together with what `change` writes: both or neither.

        Raises:
            Cancelled: it was cancelled; nothing was written.
        """

        def end(session: Session, row: Row) -> None:
            change(session, row)
            self.end_in(row)

        self.change(end)

    def end_in(self, row: Row) -> None:
        """Marks a row as done in the transaction that it was read in."""
        row.state, row.finished_at = DONE, now_utc()
        row.steps_total = row.steps_total or 1
        row.steps_done = row.steps_total

    def row_in(self, session: Session) -> Row:
        """The row in a transaction that is to finish it, locked to its end.

        Raises:
            Cancelled: it was cancelled.
        """
        self._lock_first(session)
        row = self._wanted_row(session)
        if row is None:
            raise Cancelled
        return row

    def fail(self, sentence: str, change: Callable[[Session, Row], None] | None = None) -> None:
        """Marks the row as failed, unless it was cancelled."""

        def end(session: Session) -> None:
            self._lock_first(session)
            row = self._wanted_row(session)
            if row is not None:
                row.state, row.failure, row.finished_at = FAILED, sentence, now_utc()
                if change is not None:
                    change(session, row)

        self.studio.patiently(end)

    @contextmanager
    def scratch(self) -> Iterator[Path]:
        """A folder to work in, which goes afterwards."""
        folder = Path(tempfile.mkdtemp(dir=self.studio.settings.scratch_folder))
        try:
            yield folder
        finally:
            shutil.rmtree(folder, ignore_errors=True)

    def asked_by(self) -> Actor:
        """Whoever asked for it: what is made of it says so, and sees what they see."""

        def look(session: Session) -> Actor:
            row = session.get(self._model, self.row_id)
            return actor_named(session, row.made_by if row is not None else "")

        return self.studio.patiently(look)

    def _wanted_row(self, session: Session) -> Row | None:
        row = session.get(self._model, self.row_id, with_for_update=True, populate_existing=True)
        return row if row is not None and row.state in RUNNING else None


def carry_out(
    work: Work[Row],
    do: Callable[[], None],
    sentence_for: Callable[[Exception], str | None],
    own_fault: str,
    on_failure: Callable[[Session, Row], None] | None = None,
) -> None:
    """Does work that has begun; whatever ends it too early is kept in its row as a sentence.

    `sentence_for` puts an error into words, or returns None where it is a fault of ours: that is
    kept as `own_fault`, and goes on to the log.
    """
    try:
        with acting(work.asked_by()):
            do()
    except Cancelled:
        return
    except OwnFault:
        # What went wrong in a process of its own stands in the log already.
        work.fail(own_fault, on_failure)
    except Exception as error:
        sentence = sentence_for(error)
        work.fail(sentence or own_fault, on_failure)
        if sentence is None:
            raise


def cancel_work(row: BackgroundWork) -> bool:
    """Stops work that is not finished; what was made of it is thrown away. Whether it ran."""
    if row.state not in RUNNING:
        return False
    row.state, row.finished_at = CANCELLED, now_utc()
    return True


def wait_again(row: BackgroundWork) -> bool:
    """Has finished work done once more; whether it was finished."""
    if row.state in RUNNING:
        return False
    row.state, row.steps_done, row.steps_total = WAITING, 0, 0
    row.failure, row.finished_at, row.requested_at = None, None, now_utc()
    return True


def name_behind(studio: Studio, model: type[BackgroundWork] | None, row_id: int | None) -> str:
    """The name of whoever asked for work, for the log; empty where there is none."""
    if model is None or row_id is None:
        return ""

    def look(session: Session) -> str:
        row = session.get(model, row_id)
        return row.made_by if row is not None else ""

    return studio.patiently(look)
