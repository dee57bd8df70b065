"""Pictures and where they lie: shelves, colour profiles, deliveries of the agency."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, Computed, ForeignKey, String, Text, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from harnet.store.base import Base, now_utc
from harnet.store.tables.work import BackgroundWork, MadeBy


class Shelf(Base):
    """A folder of pictures that Harnet knows."""

    __tablename__ = "shelf"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(200), unique=True)
    folder: Mapped[str] = mapped_column(Text)
    is_watched: Mapped[bool] = mapped_column(default=False)
    """Whether the folder is someone else's, which Harnet only reads."""
    group_id: Mapped[int | None] = mapped_column(
        ForeignKey("people_group.id", ondelete="RESTRICT"), index=True
    )
    """The group that alone sees it and its pictures, None where everybody does."""
    is_being_read: Mapped[bool] = mapped_column(default=False)
    read_at: Mapped[datetime | None]
    new_count: Mapped[int] = mapped_column(default=0)
    """How many pictures were new when the folder was last read on demand."""
    failures: Mapped[list[Any]] = mapped_column(default=list)
    """What went wrong when it was last read, a sentence each."""

    pictures: Mapped[list["Picture"]] = relationship(back_populates="shelf")


class Picture(MadeBy, Base):
    """A picture file on a shelf, as it was when it was last read."""

    __tablename__ = "picture"
    __table_args__ = (UniqueConstraint("shelf_id", "file_name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    shelf_id: Mapped[int | None] = mapped_column(ForeignKey("shelf.id"))
    """None for a loose picture: pasted into a job, kept as a blob, without a file."""
    file_name: Mapped[str] = mapped_column(String(255), index=True)
    sha256: Mapped[str] = mapped_column(String(64), index=True)
    size_bytes: Mapped[int] = mapped_column(BigInteger)
    modified_ns: Mapped[int] = mapped_column(BigInteger)
    facts: Mapped[dict[str, Any]]
    pixels: Mapped[int | None] = mapped_column(
        BigInteger,
        Computed("((facts ->> 'px_w')::numeric * (facts ->> 'px_h')::numeric)::bigint"),
    )
    """How many it has; empty for a drawing."""
    longest_px: Mapped[int | None] = mapped_column(
        BigInteger,
        Computed("greatest((facts ->> 'px_w')::numeric, (facts ->> 'px_h')::numeric)::bigint"),
    )
    """Along its longer side; empty for a drawing."""
    is_bilevel: Mapped[bool] = mapped_column(
        Computed("coalesce(facts ->> 'colour' = 'bilevel', false)")
    )
    """Whether its pixels are black or white."""
    is_previewed: Mapped[bool] = mapped_column(default=True)
    failure: Mapped[str | None] = mapped_column(Text)
    """Why no preview could be made: the pixels behind an intact header are damaged."""
    looks_drawn: Mapped[bool] = mapped_column(default=False)
    """Its pixels are nearly all ink or paper, so that a vector drawing would serve better."""
    likeness: Mapped[str] = mapped_column(String(16), default="")
    """A perceptual hash as hexadecimal; empty until its previews are made."""
    detail_share: Mapped[float | None]
    detail_confidence: Mapped[float | None]
    file_state: Mapped[str] = mapped_column(String(12), default="in place")
    """How its file stood when it was looked at last."""
    in_bucket: Mapped[dict[str, Any] | None]
    """Of a picture in a bucket what lay there at the last look: `sha256`, `size_bytes` and
    `modified_ns`; empty where it was gone."""
    licence: Mapped[str] = mapped_column(Text, default="")
    credit: Mapped[str] = mapped_column(Text, default="")
    origin: Mapped[str] = mapped_column(Text, default="")
    added_at: Mapped[datetime] = mapped_column(default=now_utc)

    shelf: Mapped[Shelf | None] = relationship(back_populates="pictures", lazy="joined")


class ColourProfile(Base):
    """A CMYK profile that someone supplied; its bytes are a blob."""

    __tablename__ = "colour_profile"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(200))
    sha256: Mapped[str] = mapped_column(String(64), unique=True)


class AgencyFetch(BackgroundWork, Base):
    """A picture that was ordered from the agency, and how far its delivery is."""

    __tablename__ = "agency_fetch"

    offer_key: Mapped[str] = mapped_column(String(60), index=True)
    title: Mapped[str] = mapped_column(String(200))
    shelf_id: Mapped[int]
    picture_id: Mapped[int | None]
