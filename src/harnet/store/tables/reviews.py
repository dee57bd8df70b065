"""The table of review links: what may be read through each, until when."""

from datetime import datetime

from sqlalchemy import ForeignKey, String
from sqlalchemy.orm import Mapped, mapped_column

from harnet.store.base import Base, now_utc


class ReviewLink(Base):
    """A link to the findings of a job, or of a checked PDF, read-only, for whoever has the link."""

    __tablename__ = "review_link"

    id: Mapped[int] = mapped_column(primary_key=True)
    token: Mapped[str] = mapped_column(String(60), unique=True)
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    document_id: Mapped[int | None] = mapped_column(
        ForeignKey("document.id", ondelete="CASCADE"), index=True
    )
    label: Mapped[str] = mapped_column(String(120))
    """For whom it was made."""
    with_reasons: Mapped[bool] = mapped_column(default=False)
    """Whether it shows who accepted what, and why."""
    made_at: Mapped[datetime] = mapped_column(default=now_utc)
    expires_at: Mapped[datetime]
    revoked_at: Mapped[datetime | None]
    last_read_at: Mapped[datetime | None]
