"""Targets of the studio's own."""

from datetime import datetime
from typing import Any

from sqlalchemy import String
from sqlalchemy.orm import Mapped, mapped_column

from harnet.store.base import Base, now_utc


class TargetRow(Base):
    """A target of the studio's own, beside those that ship with Harnet."""

    __tablename__ = "target"

    id: Mapped[int] = mapped_column(primary_key=True)
    key: Mapped[str] = mapped_column(String(40), unique=True)
    values: Mapped[dict[str, Any]]
    edited_at: Mapped[datetime] = mapped_column(default=now_utc, onupdate=now_utc)
    version: Mapped[int] = mapped_column()

    __mapper_args__ = {"version_id_col": version}
