"""Print copies."""

from typing import Any

from sqlalchemy import ForeignKey, String, Text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from harnet.store.base import Base
from harnet.store.tables.pictures import Picture
from harnet.store.tables.work import BackgroundWork


class PrintCopy(BackgroundWork, Base):
    """A print copy that was asked for: its recipe, its progress, and the picture it became."""

    __tablename__ = "print_copy"

    picture_id: Mapped[int] = mapped_column(ForeignKey("picture.id"), index=True)
    recipe: Mapped[dict[str, Any]]
    file_name: Mapped[str] = mapped_column(String(255))
    made_id: Mapped[int | None] = mapped_column(ForeignKey("picture.id"), index=True)
    made_sha256: Mapped[str | None] = mapped_column(String(64))
    note: Mapped[str] = mapped_column(Text, default="")
    item_id: Mapped[int | None]
    """The placement that it was made for; no key, since that may be removed from its page."""
    item_version: Mapped[int | None]
    is_placed: Mapped[bool | None]
    """Whether it went into its frame; None while that is open, or where there is no frame."""
    batch: Mapped[str | None] = mapped_column(String(32), index=True)
    """Copies that were asked for together, and are placed together as one edit."""

    picture: Mapped[Picture] = relationship(foreign_keys=[picture_id])
    made: Mapped[Picture | None] = relationship(foreign_keys=[made_id])
