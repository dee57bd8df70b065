"""What a transaction touched of jobs: noted down at every flush, whoever made the change."""

from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import event
from sqlalchemy.orm import Session, attributes

from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.pictures import Picture
from harnet.store.tables.preflight import Acceptance

_OF_JOB = ("target", "bleed_pt", "is_facing", "unit")
_OF_PAGE = ("target", "width_pt", "height_pt", "position")
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
_KEY = "touched"


@dataclass
class Touched:
    """Numbers of the rows whose figures and findings may no longer hold."""

    pages: set[int] = field(default_factory=set)
    jobs: set[int] = field(default_factory=set)
    pictures: set[int] = field(default_factory=set)
    accepted: set[int] = field(default_factory=set)
    """Items of which a finding was accepted, or no longer is."""

    def __bool__(self) -> bool:
        return bool(self.pages or self.jobs or self.pictures or self.accepted)


def take_touched(session: Session) -> Touched:
    """What was touched since this was last asked; flushes first."""
    session.flush()
    found: Touched = session.info.pop(_KEY, None) or Touched()
    return found


def _has_changed(row: Any, names: tuple[str, ...]) -> bool:
    return any(attributes.get_history(row, name).has_changes() for name in names)


@event.listens_for(Session, "after_flush")
def _note(session: Session, _context: object) -> None:
    touched: Touched = session.info.setdefault(_KEY, Touched())
    for row in [*session.new, *session.dirty, *session.deleted]:
        if isinstance(row, Item):
            touched.pages.add(row.page_id)
            touched.pages.update(attributes.get_history(row, "page_id").deleted or ())
        elif isinstance(row, Acceptance):
            touched.accepted.add(row.item_id)
        elif isinstance(row, Page) and _has_changed(row, _OF_PAGE):
            touched.pages.add(row.id)
        elif isinstance(row, Job) and _has_changed(row, _OF_JOB):
            touched.jobs.add(row.id)
        elif isinstance(row, Picture) and _has_changed(row, _OF_PICTURE):
            touched.pictures.add(row.id)
