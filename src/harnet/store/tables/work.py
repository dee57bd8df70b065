"""What every table of work in the background has."""

from datetime import datetime

from sqlalchemy import String, Text
from sqlalchemy.orm import Mapped, mapped_column

from harnet.store.base import now_utc


class BackgroundWork:
    """A row of work in the background: how it stands, how far it is, and what went wrong.

    `harnet.studio.tasks.work` alone changes these columns.
    """

    id: Mapped[int] = mapped_column(primary_key=True)
    state: Mapped[str] = mapped_column(String(12), default="waiting")
    """waiting, working, done, failed or cancelled."""
    steps_done: Mapped[int] = mapped_column(default=0)
    steps_total: Mapped[int] = mapped_column(default=0)
    """0 until it is known."""
    failure: Mapped[str | None] = mapped_column(Text)
    """What went wrong, as a sentence."""
    requested_at: Mapped[datetime] = mapped_column(default=now_utc)
    finished_at: Mapped[datetime | None]

    @property
    def percent(self) -> int:
        """How much is done, rounded down."""
        return 100 * self.steps_done // self.steps_total if self.steps_total else 0
