"""What several tables have: who made a row, and how work in the background stands."""

from datetime import datetime

from sqlalchemy import String, Text
from sqlalchemy.orm import Mapped, mapped_column

from harnet.store.acting import LONGEST_NAME, actor_name
from harnet.store.base import now_utc


class MadeBy:
    """A row that says who made it; empty where nobody signed in."""

    made_by: Mapped[str] = mapped_column(
        String(LONGEST_NAME), default=actor_name, server_default=""
    )


class BackgroundWork(MadeBy):
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
