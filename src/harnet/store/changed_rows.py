"""What a transaction touched of jobs: recorded at every flush, whoever made the change."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import event
from sqlalchemy.orm import Session, attributes

from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.pictures import Picture
from harnet.store.tables.preflight import Acceptance

_OF_JOB = ("target", "bleed_pt", "is_facing", "unit")
_OF_PAGE = ("target", "width_pt", "height_pt")
_OF_PICTURE = (
    "facts",
    "sha256",
    "file_name",
    "licence",
    "looks_drawn",
    "detail_share",
    "detail_confidence",
    "file_state",
)
_KEY = "changed_rows"


@dataclass
class ChangedRows:
    """Numbers of the rows whose figures and findings may no longer hold."""

    pages: set[int] = field(default_factory=set)
    """Pages of which everything is judged anew."""
    items: defaultdict[int, set[int]] = field(default_factory=lambda: defaultdict(set))
    """By page: the items that were changed, moved there or away, or removed."""
    jobs: set[int] = field(default_factory=set)
    order: dict[int, int] = field(default_factory=dict)
    """By job: the first position at which another page lies than before, or one of other size."""
    pictures: set[int] = field(default_factory=set)
    accepted: set[int] = field(default_factory=set)
    """Items of which a finding was accepted, or no longer is."""

    def __bool__(self) -> bool:
        sets = (self.pages, self.items, self.jobs, self.order, self.pictures, self.accepted)
        return any(sets)


def take_changed_rows(session: Session) -> ChangedRows:
    """What was touched since this was last asked; flushes first."""
    session.flush()
    found: ChangedRows = session.info.pop(_KEY, None) or ChangedRows()
    return found


def _has_changed(row: Any, names: tuple[str, ...]) -> bool:
    return any(attributes.get_history(row, name).has_changes() for name in names)


def _note_page(page: Page, is_other: bool, changed_rows: ChangedRows) -> None:
    moved_from = attributes.get_history(page, "position").deleted or ()
    if is_other:
        changed_rows.pages.add(page.id)
    if is_other or moved_from:
        known = changed_rows.order.get(page.job_id, page.position)
        changed_rows.order[page.job_id] = min(page.position, known, *moved_from)


def note_changed(session: Session, rows: Iterable[object]) -> None:
    """Records rows that were changed, as long as what they were before is known."""
    changed_rows: ChangedRows = session.info.setdefault(_KEY, ChangedRows())
    for row in rows:
        if isinstance(row, Item):
            for page_id in {row.page_id, *(attributes.get_history(row, "page_id").deleted or ())}:
                changed_rows.items[page_id].add(row.id)
        elif isinstance(row, Acceptance):
            changed_rows.accepted.add(row.item_id)
        elif isinstance(row, Page):
            is_other = row in session.new or row in session.deleted
            _note_page(row, is_other or _has_changed(row, _OF_PAGE), changed_rows)
        elif isinstance(row, Job) and _has_changed(row, _OF_JOB):
            changed_rows.jobs.add(row.id)
        elif isinstance(row, Picture) and _has_changed(row, _OF_PICTURE):
            changed_rows.pictures.add(row.id)


@event.listens_for(Session, "after_flush")
def _note(session: Session, _context: object) -> None:
    note_changed(session, [*session.new, *session.dirty, *session.deleted])
