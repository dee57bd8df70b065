"""What preflight found, and what was accepted of it."""

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, String, Text, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column

from harnet.store.base import Base, now_utc


class Judgement(Base):
    """The figures of one placed picture as they were found last; densities in ppi."""

    __tablename__ = "judgement"
    __table_args__ = (
        Index("ix_judgement_job_headroom", "job_id", "headroom"),
        Index("ix_judgement_job_step", "job_id", "ruler_step"),
        Index("ix_judgement_picture", "picture_id"),
    )

    item_id: Mapped[int] = mapped_column(
        ForeignKey("item.id", ondelete="CASCADE"), primary_key=True
    )
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"))
    page_id: Mapped[int] = mapped_column(ForeignKey("page.id", ondelete="CASCADE"), index=True)
    picture_id: Mapped[int] = mapped_column(ForeignKey("picture.id", ondelete="CASCADE"))
    name: Mapped[str] = mapped_column(String(255))
    verdict_rank: Mapped[int]
    """0 is the worst of the verdicts."""
    judged_ppi: Mapped[float | None]
    """None for a vector picture."""
    headroom: Mapped[float | None]
    ruler_step: Mapped[int | None]
    evenness: Mapped[float]
    is_uneven: Mapped[bool]
    is_bilevel: Mapped[bool]
    has_own_target: Mapped[bool]
    file_state: Mapped[str] = mapped_column(String(12))
    colour: Mapped[str] = mapped_column(String(12))
    kind: Mapped[str] = mapped_column(String(12))
    """picture, 1-bit or vector."""
    format: Mapped[str] = mapped_column(String(12))
    pixels: Mapped[int]
    """Width times height, 0 for a vector picture."""
    area_pt: Mapped[float]
    """Of the frame, in square points."""


class FindingRow(Base):
    """One finding of preflight on one item."""

    __tablename__ = "finding"
    __table_args__ = (
        Index(
            *("ix_finding_job_worst", "job_id", "group", "severity_rank", "rule_rank"),
            text("badness desc"),
        ),
        Index(
            *("ix_finding_worst", "severity_rank", "rule_rank", "id"),
            postgresql_include=["name", "page_id"],
        ),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    item_id: Mapped[int] = mapped_column(ForeignKey("item.id", ondelete="CASCADE"), index=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"))
    page_id: Mapped[int] = mapped_column(ForeignKey("page.id", ondelete="CASCADE"), index=True)
    rule_id: Mapped[str] = mapped_column(String(40))
    group: Mapped[str] = mapped_column(String(60))
    severity_rank: Mapped[int]
    rule_rank: Mapped[int]
    """The place of its rule among all: findings of one severity stand rule by rule."""
    name: Mapped[str] = mapped_column(String(255))
    headline: Mapped[str] = mapped_column(Text)
    sentence: Mapped[str] = mapped_column(Text)
    fixes: Mapped[list[Any]]
    badness: Mapped[float]


class LetPass:
    """What tables of accepted findings share: how it stood, and who let it pass, and why."""

    rule_id: Mapped[str] = mapped_column(String(40))
    badness: Mapped[float]
    headline: Mapped[str] = mapped_column(Text)
    reason: Mapped[str] = mapped_column(Text)
    name: Mapped[str] = mapped_column(String(120))
    accepted_at: Mapped[datetime] = mapped_column(default=now_utc)


class Acceptance(LetPass, Base):
    """A finding that someone accepted, with a reason; it holds until the figures get worse."""

    __tablename__ = "acceptance"
    __table_args__ = (UniqueConstraint("item_id", "rule_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    item_id: Mapped[int]
    """No key, so that it waits for an item that was taken off and comes back by undo."""
    version: Mapped[int] = mapped_column()

    __mapper_args__ = {"version_id_col": version}
