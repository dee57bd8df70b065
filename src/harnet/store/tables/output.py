"""Outputs, their presets, and what pictures weigh in them."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, ForeignKey, String, UniqueConstraint
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, backref, mapped_column, relationship

from harnet.store.base import Base, now_utc
from harnet.store.tables.jobs import Job
from harnet.store.tables.work import BackgroundWork


class Output(BackgroundWork, Base):
    """A PDF or a page image that was asked for, with its progress and its receipt."""

    __tablename__ = "output"

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), index=True)
    kind: Mapped[str] = mapped_column(String(12))
    settings: Mapped[dict[str, Any]]
    file_name: Mapped[str] = mapped_column(String(255))
    sha256: Mapped[str | None] = mapped_column(String(64))
    size_bytes: Mapped[int | None] = mapped_column(BigInteger)
    receipt: Mapped[dict[str, Any] | None]
    answers: Mapped[list[dict[str, Any]]] = mapped_column(JSONB, default=list)
    """What print houses answered when it was sent to them."""

    job: Mapped[Job] = relationship(
        backref=backref("outputs", cascade="all, delete-orphan", passive_deletes=False)
    )


class OutputPreset(Base):
    """Named settings of outputs that the studio keeps; `made_by` is who kept them last."""

    __tablename__ = "output_preset"
    __table_args__ = (UniqueConstraint("kind", "name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str] = mapped_column(String(12))
    name: Mapped[str] = mapped_column(String(80))
    made_by: Mapped[str] = mapped_column(String(120), default="")
    settings: Mapped[dict[str, Any]]
    edited_at: Mapped[datetime] = mapped_column(default=now_utc, onupdate=now_utc)


class StoredWeight(Base):
    """What a picture takes up in a PDF when it is stored in a certain way, as it was estimated."""

    __tablename__ = "stored_weight"

    key: Mapped[str] = mapped_column(String(64), primary_key=True)
    size_bytes: Mapped[int] = mapped_column(BigInteger)
