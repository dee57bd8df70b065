"""Jobs: their pages, what is on them, and the history of edits."""

from datetime import datetime
from typing import Any

from sqlalchemy import ARRAY, ForeignKey, Integer, String, Text, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from harnet.store.base import Base, now_utc
from harnet.store.tables.pictures import Picture
from harnet.store.tables.work import MadeBy


class Job(MadeBy, Base):
    """One document: its default page, its target and its history."""

    __tablename__ = "job"

    id: Mapped[int] = mapped_column(primary_key=True)
    title: Mapped[str] = mapped_column(String(200))
    unit: Mapped[str] = mapped_column(String(4))
    px_per_inch: Mapped[float | None]
    """The density of the job's pixels where its pages are defined in pixels."""
    width_pt: Mapped[float]
    height_pt: Mapped[float]
    bleed_pt: Mapped[float] = mapped_column(default=0.0)
    margin_pt: Mapped[float] = mapped_column(default=0.0)
    is_facing: Mapped[bool] = mapped_column(default=False)
    """Pages lie side by side like a book's; the first stands alone on the right."""
    quality: Mapped[str | None] = mapped_column(String(12))
    """Preview quality of the whole job, None where each person's own counts."""
    target: Mapped[dict[str, Any]]
    """Its target with all figures, so that a change of the list does not change the job."""
    output_settings: Mapped[dict[str, Any]] = mapped_column(default=dict)
    """How its outputs were made last."""
    text_styles: Mapped[dict[str, Any]] = mapped_column(default=dict)
    """Its text styles by key, those that were changed; the others are as they come."""
    grid: Mapped[dict[str, Any]] = mapped_column(default=dict)
    """Its columns and grid, in points; empty without."""
    rules_version: Mapped[int] = mapped_column(default=0)
    """The version of the preflight rules that its findings were found by."""
    is_archived: Mapped[bool] = mapped_column(default=False)
    deleted_at: Mapped[datetime | None]
    group_id: Mapped[int | None] = mapped_column(
        ForeignKey("people_group.id", ondelete="RESTRICT"), index=True
    )
    """The group that alone sees it, None where everybody does."""
    reviewers_accept: Mapped[bool] = mapped_column(default=False, server_default=text("false"))
    """Whether reviewers may accept findings in it."""
    created_at: Mapped[datetime] = mapped_column(default=now_utc)
    edited_at: Mapped[datetime] = mapped_column(default=now_utc)

    pages: Mapped[list["Page"]] = relationship(
        back_populates="job", order_by="Page.position, Page.id", cascade="all, delete-orphan"
    )
    edits: Mapped[list["Edit"]] = relationship(
        back_populates="job", order_by="Edit.id", cascade="all, delete-orphan"
    )


class Page(Base):
    """A page of a job."""

    __tablename__ = "page"
    __table_args__ = (
        UniqueConstraint("job_id", "position", deferrable=True, initially="DEFERRED"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), index=True)
    position: Mapped[int]
    width_pt: Mapped[float]
    height_pt: Mapped[float]
    target: Mapped[dict[str, Any] | None]
    """A target of the page's own, None where the job's counts."""
    guides: Mapped[dict[str, Any]] = mapped_column(default=dict)
    """Its guides: where they cross the axes `x` and `y`, in points from the trim's top left."""
    tally: Mapped[list[int]] = mapped_column(ARRAY(Integer), default=list)
    """Its pictures by verdict, its findings by severity, accepted ones, pictures without a file.

    Counted again whenever the page is judged, so that a job's counts cost next to nothing.
    """
    version: Mapped[int] = mapped_column()

    job: Mapped[Job] = relationship(back_populates="pages")
    items: Mapped[list["Item"]] = relationship(
        back_populates="page", order_by="Item.position, Item.id", cascade="all, delete-orphan"
    )
    __mapper_args__ = {"version_id_col": version}


class Item(Base):
    """Something on a page: a placed picture, an empty frame, a text, a rectangle or a line."""

    __tablename__ = "item"

    id: Mapped[int] = mapped_column(primary_key=True)
    page_id: Mapped[int] = mapped_column(ForeignKey("page.id"), index=True)
    position: Mapped[int]
    """Stacking order, lowest first."""
    kind: Mapped[str] = mapped_column(String(12))
    x_pt: Mapped[float]
    y_pt: Mapped[float]
    width_pt: Mapped[float]
    height_pt: Mapped[float]
    rotation_deg: Mapped[float] = mapped_column(default=0.0)
    picture_id: Mapped[int | None] = mapped_column(ForeignKey("picture.id"), index=True)
    scale_x: Mapped[float | None]
    scale_y: Mapped[float | None]
    offset_x: Mapped[float | None]
    offset_y: Mapped[float | None]
    flip_h: Mapped[bool] = mapped_column(default=False)
    flip_v: Mapped[bool] = mapped_column(default=False)
    shape: Mapped[str] = mapped_column(String(12), default="rectangle")
    radius_pt: Mapped[float] = mapped_column(default=0.0)
    holding: Mapped[str] = mapped_column(String(12), default="linked")
    """Where a picture's bytes live: linked to its shelf, carried in the job, or loose."""
    quality: Mapped[str | None] = mapped_column(String(12))
    target: Mapped[dict[str, Any] | None]
    text: Mapped[str | None] = mapped_column(Text)
    style: Mapped[dict[str, Any]] = mapped_column(default=dict)
    version: Mapped[int] = mapped_column()

    page: Mapped[Page] = relationship(back_populates="items")
    picture: Mapped[Picture | None] = relationship(lazy="joined")
    __mapper_args__ = {"version_id_col": version}


class Edit(MadeBy, Base):
    """One change to a job: its label, and each touched row before and after."""

    __tablename__ = "edit"

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), index=True)
    label: Mapped[str] = mapped_column(String(200))
    changes: Mapped[list[Any]]
    row_count: Mapped[int] = mapped_column(default=0, server_default=text("0"))
    """How many rows it touched."""
    is_undone: Mapped[bool] = mapped_column(default=False)
    is_packed: Mapped[bool] = mapped_column(default=False, server_default=text("false"))
    """Whether it is kept by name only, beyond the reach of undo: then `changes` is empty."""
    made_at: Mapped[datetime] = mapped_column(default=now_utc)

    job: Mapped[Job] = relationship(back_populates="edits")
