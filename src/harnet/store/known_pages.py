"""Pages that a session has read already: a view asks for the same ones in many places."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from itertools import chain
from typing import Any

from sqlalchemy import event
from sqlalchemy.orm import Session

from harnet.store.tables.jobs import Job, Page

_KEY = "known_pages"
_MOST = 100
"""So many are kept; who goes through all of a long job is not made to hold them."""


@dataclass
class KnownPages:
    """What was read of jobs since anything about their pages changed."""

    counts: dict[int, int] = field(default_factory=dict)
    """By job: how many pages it has."""
    _pages: dict[tuple[int, int], Page] = field(default_factory=dict)

    def between(self, job_id: int, first: int, last: int) -> list[Page] | None:
        """A job's pages of these numbers, from 1; None where one of them was not read."""
        found = [self._pages.get((job_id, number)) for number in range(first, last + 1)]
        pages = [page for page in found if page is not None]
        return pages if len(pages) == len(found) else None

    def keep(self, pages: Sequence[Page]) -> None:
        """Knows these pages from now on."""
        if len(self._pages) + len(pages) > _MOST:
            self._pages.clear()
        if len(pages) <= _MOST:
            self._pages |= {(page.job_id, page.position + 1): page for page in pages}


def known_pages(session: Session) -> KnownPages:
    """What a session knows of pages; changes that wait to be written are written first.

    A session that may not write now knows nothing.
    """
    if not session.autoflush:
        return KnownPages()
    session.flush()
    known: KnownPages = session.info.setdefault(_KEY, KnownPages())
    return known


@event.listens_for(Session, "after_flush")
def _forget_changed(session: Session, _context: Any) -> None:
    rows: Iterable[Any] = chain(session.new, session.dirty, session.deleted)
    if any(isinstance(row, (Page, Job)) for row in rows):
        session.info.pop(_KEY, None)


@event.listens_for(Session, "after_transaction_end")
def _forget_all(session: Session, _transaction: Any) -> None:
    session.info.pop(_KEY, None)
