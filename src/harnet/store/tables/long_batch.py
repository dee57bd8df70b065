"""Edits over many placements, which the worker makes."""

from typing import Any

from sqlalchemy import ForeignKey, String, Text
from sqlalchemy.orm import Mapped, mapped_column

from harnet.store.base import Base
from harnet.store.tables.work import BackgroundWork


class LongBatch(BackgroundWork, Base):
    """A batch, or a walk through the history, over more placements than a request should change.

    Its steps are pages judged again; `said` is what it did, as a sentence.
    """

    __tablename__ = "long_batch"

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str] = mapped_column(String(12))
    """batch, undo, redo or travel."""
    label: Mapped[str] = mapped_column(String(200))
    batch: Mapped[dict[str, Any] | None]
    """A batch's action and choices, or the number of the edit that is undone or gone to."""
    item_ids: Mapped[list[Any]] = mapped_column(default=list)
    said: Mapped[str] = mapped_column(Text, default="")
