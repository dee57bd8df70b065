"""Handoff packs that are opened."""

from sqlalchemy import String
from sqlalchemy.orm import Mapped, mapped_column

from harnet.store.base import Base
from harnet.store.tables.work import BackgroundWork


class PackOpening(BackgroundWork, Base):
    """A handoff pack that was uploaded, and how far its opening is; `job_id` is what it became."""

    __tablename__ = "pack_opening"

    file_name: Mapped[str] = mapped_column(String(255))
    title: Mapped[str] = mapped_column(String(200))
    sha256: Mapped[str] = mapped_column(String(64))
    job_id: Mapped[int | None]
