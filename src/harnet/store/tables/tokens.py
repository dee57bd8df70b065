"""The table of API tokens; a token itself is told once and kept as its hash alone."""

from datetime import datetime

from sqlalchemy import String
from sqlalchemy.orm import Mapped, mapped_column

from harnet.store.base import Base, now_utc


class ApiToken(Base):
    """A token with which a program may use the HTTP API."""

    __tablename__ = "api_token"

    id: Mapped[int] = mapped_column(primary_key=True)
    label: Mapped[str] = mapped_column(String(120))
    sha256: Mapped[str] = mapped_column(String(64), unique=True)
    made_at: Mapped[datetime] = mapped_column(default=now_utc)
    last_used_at: Mapped[datetime | None]
    revoked_at: Mapped[datetime | None]
