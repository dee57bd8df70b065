"""What passes between those who lay out and those who review: links to read by, and comments."""

from datetime import datetime

from sqlalchemy import ForeignKey, String, Text
from sqlalchemy.orm import Mapped, mapped_column

from harnet.store.base import Base, now_utc
from harnet.store.tables.work import MadeBy


class ReviewLink(MadeBy, Base):
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


class Comment(Base):
    """What someone said of a job or of a checked document; settled once it is dealt with."""

    __tablename__ = "comment"

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    document_id: Mapped[int | None] = mapped_column(
        ForeignKey("document.id", ondelete="CASCADE"), index=True
    )
    name: Mapped[str] = mapped_column(String(120))
    text: Mapped[str] = mapped_column(Text)
    made_at: Mapped[datetime] = mapped_column(default=now_utc)
    settled_at: Mapped[datetime | None]
    settled_by: Mapped[str] = mapped_column(String(120), default="")
