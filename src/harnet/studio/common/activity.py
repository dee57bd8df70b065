"""What happened, told in the transaction in which it happens: who did what, and to which edits."""

from typing import Any

from sqlalchemy import event
from sqlalchemy.orm import Session, sessionmaker

from harnet.store.acting import LONGEST_NAME, actor
from harnet.store.history import LABELS
from harnet.store.tables.people import Activity

_WRITTEN, _TOLD = "something was written", "it was told"
_LONGEST_DETAIL = 2_000


def tell_activity(sessions: sessionmaker[Any]) -> None:
    """Has every transaction that writes for somebody tell so, before it is committed."""
    event.listen(sessions, "after_flush", _note_flush)
    event.listen(sessions, "before_commit", _tell)


def _note_flush(session: Session, _context: Any) -> None:
    session.info[_WRITTEN] = True


def _tell(session: Session) -> None:
    who = actor()
    if not who.doing or session.info.get(_TOLD):
        return
    pending = session.new or session.deleted or any(map(session.is_modified, session.dirty))
    if not (pending or session.info.get(_WRITTEN)):
        return
    session.info[_TOLD] = True
    session.add(
        Activity(
            name=who.name[:LONGEST_NAME],
            doing=who.doing,
            detail="; ".join(session.info.get(LABELS, ()))[:_LONGEST_DETAIL],
            job_id=who.job_id,
            document_id=who.document_id,
        )
    )


def add_detail(session: Session, text: str) -> None:
    """Says what the activity of this transaction is about, such as the name of a person."""
    session.info.setdefault(LABELS, []).append(text)
