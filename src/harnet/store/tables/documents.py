"""The tables of checked documents: each file, every picture in it, what was accepted."""

from typing import Any

from sqlalchemy import (
    ARRAY,
    BigInteger,
    Float,
    ForeignKey,
    Index,
    Integer,
    String,
    Text,
    UniqueConstraint,
    text,
)
from sqlalchemy.orm import Mapped, mapped_column

from harnet.store.base import Base
from harnet.store.tables.preflight import LetPass
from harnet.store.tables.work import BackgroundWork


class Document(BackgroundWork, Base):
    """A document that was uploaded to be checked, and how far that is; its bytes are a blob.

    Its steps are pages.
    """

    __tablename__ = "document"

    file_name: Mapped[str] = mapped_column(String(255))
    sha256: Mapped[str] = mapped_column(String(64), index=True)
    size_bytes: Mapped[int] = mapped_column(BigInteger)
    target: Mapped[dict[str, Any]]
    """What it is judged by, with all figures."""
    pages: Mapped[list[Any]] = mapped_column(default=list, deferred=True)
    """Of each page that was read: `box` is what is seen of it, `trim` and `bleed` the boxes that it
    states or None (left, bottom, right, top, in points), `turn` in degrees, `is_transparent`,
    `is_bare` where a picture meets its edge and nothing lies beyond, and `left_out`: what of it was
    not followed. Read only where it is asked for, as there may be thousands."""
    whole: Mapped[dict[str, Any]] = mapped_column(default=dict)
    """What it says of itself: format, version, producer, title, fonts that are not embedded, what
    its settings say about saving, pictures that are shown nowhere."""
    locked_sha256: Mapped[str | None] = mapped_column(String(64))
    """The file as it came, where it needed a password: `sha256` is then the one without it."""
    password: Mapped[str | None] = mapped_column(String(200))
    """What opened it; improved copies are locked with it again."""
    reviewers_accept: Mapped[bool] = mapped_column(default=False, server_default=text("false"))
    """Whether reviewers may accept findings on it."""
    counts: Mapped[dict[str, Any] | None]
    """How many pictures that are seen have each verdict; None until they are counted."""


class DocumentImage(Base):
    """A picture as one page of a checked PDF paints it; a cut one is put together again."""

    __tablename__ = "document_image"
    __table_args__ = (Index("ix_document_image_page", "document_id", "page_number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    document_id: Mapped[int] = mapped_column(ForeignKey("document.id", ondelete="CASCADE"))
    page_number: Mapped[int]
    place: Mapped[int]
    """Its place on the page, in painting order, from 1."""
    px_w: Mapped[int]
    px_h: Mapped[int]
    colour: Mapped[str] = mapped_column(String(12))
    bits: Mapped[int]
    matrix: Mapped[list[float]] = mapped_column(ARRAY(Float))
    """From the unit square to the page, in points, y upwards."""
    object_number: Mapped[int]
    """Its object in the PDF, 0 for an inline image and for one that was cut."""
    has_profile: Mapped[bool]
    has_alpha: Mapped[bool] = mapped_column(default=False)
    """Whether a soft mask makes it see-through."""
    filters: Mapped[str] = mapped_column(String(120))
    unseen: Mapped[str] = mapped_column(String(80))
    source: Mapped[str] = mapped_column(String(24))
    pieces: Mapped[list[int]] = mapped_column(ARRAY(Integer), default=list)
    """Width and height of each piece in turn, where a producer cut it; empty for a whole one."""
    about: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default=text("'{}'"))
    """Of documents other than PDFs: crop, part, name of its shape and so on; see the core."""
    name: Mapped[str] = mapped_column(Text)
    """By what it is spoken of; so are the next three kept for its line in lists."""
    density_ppi: Mapped[float | None]
    """Rounded to be judged; None for what has no pixels."""
    evenness: Mapped[float]
    area_pt: Mapped[float]
    """In square points."""


class DocumentWork(BackgroundWork, Base):
    """Something made of a checked PDF in the background; its bytes, once made, are a blob."""

    __tablename__ = "document_work"

    document_id: Mapped[int] = mapped_column(
        ForeignKey("document.id", ondelete="CASCADE"), index=True
    )
    kind: Mapped[str] = mapped_column(String(12))
    """extract, pages, find or improve."""
    settings: Mapped[dict[str, Any]] = mapped_column(default=dict)
    result: Mapped[dict[str, Any]] = mapped_column(default=dict)
    """What was found, or the receipt of what was made."""
    file_name: Mapped[str] = mapped_column(String(255), default="")
    sha256: Mapped[str | None] = mapped_column(String(64))
    size_bytes: Mapped[int | None] = mapped_column(BigInteger)
    copy_id: Mapped[int | None] = mapped_column(ForeignKey("document.id", ondelete="SET NULL"))
    """The improved copy, which is a checked PDF itself."""


class DocumentAcceptance(LetPass, Base):
    """A finding on a checked PDF that someone accepted; it holds until the figures get worse."""

    __tablename__ = "document_acceptance"
    __table_args__ = (UniqueConstraint("document_id", "picture_id", "rule_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    document_id: Mapped[int] = mapped_column(ForeignKey("document.id", ondelete="CASCADE"))
    picture_id: Mapped[int]
    """0 for the PDF as a whole."""
