"""The table of API tokens; a token itself is told once and kept as its hash alone."""

from datetime import datetime

from sqlalchemy import ForeignKey, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from harnet.store.base import Base, now_utc
from harnet.store.tables.people import Person
from harnet.store.tables.work import MadeBy


class ApiToken(MadeBy, Base):
    """A token with which a program may use the HTTP API."""

    __tablename__ = "api_token"

    id: Mapped[int] = mapped_column(primary_key=True)
    label: Mapped[str] = mapped_column(String(120))
    sha256: Mapped[str] = mapped_column(String(64), unique=True)
    person_id: Mapped[int | None] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"))
    """Whose role it has; None where it was made while nobody had to sign in."""
    made_at: Mapped[datetime] = mapped_column(default=now_utc)
    last_used_at: Mapped[datetime | None]
    revoked_at: Mapped[datetime | None]

    person: Mapped[Person | None] = relationship(lazy="joined")
