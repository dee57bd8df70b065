"""How often something was tried, counted in the database: all processes share the limits."""

from datetime import datetime, timedelta

from sqlalchemy import case, delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from harnet.store.base import now_utc
from harnet.store.tables.people import Attempts


def count_attempt(session: Session, key: str, seconds: int, amount: int = 1) -> int:
    """Counts one more of what `key` names; how many there are in its stretch of `seconds`."""
    now = now_utc()
    fresh = {"count": amount, "ends_at": now + timedelta(seconds=seconds)}
    row = insert(Attempts).values(key=key[:200], **fresh)
    is_over = Attempts.ends_at <= now
    row = row.on_conflict_do_update(
        index_elements=["key"],
        set_={
            "count": case((is_over, amount), else_=Attempts.count + amount),
            "ends_at": case((is_over, fresh["ends_at"]), else_=Attempts.ends_at),
        },
    )
    return session.execute(row.returning(Attempts.count)).scalar_one()


def attempts_of(session: Session, key: str) -> tuple[int, datetime]:
    """How often it was tried in its stretch of time, and when that ends."""
    wanted = select(Attempts).where(Attempts.key == key[:200], Attempts.ends_at > now_utc())
    row = session.scalars(wanted).first()
    return (row.count, row.ends_at) if row is not None else (0, now_utc())


def forget_attempts(session: Session, key: str | None = None) -> int:
    """Forgets how often something was tried; without a key whatever is over. How many."""
    old = Attempts.ends_at <= now_utc() if key is None else Attempts.key == key[:200]
    return len(session.execute(delete(Attempts).where(old).returning(Attempts.key)).all())
