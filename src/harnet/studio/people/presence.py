"""Who else has a job open."""

from dataclasses import dataclass
from datetime import timedelta

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from harnet.store.base import now_utc
from harnet.store.tables.people import Person, Presence

ASKED_EVERY_SECONDS = 20
_GONE_AFTER = timedelta(seconds=50)
"""A page asks every twenty seconds; whoever missed two of them has left."""


@dataclass(frozen=True, slots=True)
class Visitor:
    """Someone else in a job, and the view that they have open."""

    name: str
    view: str


def note_presence(session: Session, job_id: int, person_id: int, view: str) -> None:
    """Notes that someone has a view of a job open."""
    values = {"view": view[:40], "seen_at": now_utc()}
    row = insert(Presence).values(job_id=job_id, person_id=person_id, **values)
    session.execute(row.on_conflict_do_update(index_elements=["job_id", "person_id"], set_=values))


def others_in(session: Session, job_id: int, person_id: int) -> list[Visitor]:
    """The others who have the job open now, by name."""
    since = now_utc() - _GONE_AFTER
    wanted = (
        select(Person.name, Presence.view)
        .join(Presence, Presence.person_id == Person.id)
        .where(Presence.job_id == job_id, Presence.seen_at > since, Person.id != person_id)
    )
    return [Visitor(name, view) for name, view in session.execute(wanted.order_by(Person.name))]


def forget_presence(session: Session) -> None:
    """Removes who has long left."""
    session.execute(delete(Presence).where(Presence.seen_at < now_utc() - timedelta(days=1)))
