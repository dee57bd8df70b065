"""People who sign in, the groups that they are in, where they are signed in, what happened."""

from datetime import datetime

from sqlalchemy import Column, ForeignKey, Index, String, Table, Text, text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from harnet.store.base import Base, now_utc

membership = Table(
    "membership",
    Base.metadata,
    Column("person_id", ForeignKey("person.id", ondelete="CASCADE"), primary_key=True),
    Column("group_id", ForeignKey("people_group.id", ondelete="CASCADE"), primary_key=True),
)
"""Who is in which group."""


class Group(Base):
    """People who share jobs and shelves that the others do not see."""

    __tablename__ = "people_group"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)

    people: Mapped[list["Person"]] = relationship(
        secondary=membership, back_populates="groups", order_by="Person.name"
    )


class Person(Base):
    """Someone who signs in; never deleted, so that the history keeps their name."""

    __tablename__ = "person"
    __table_args__ = (Index("ix_person_name", text("lower(name)"), unique=True),)

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    role: Mapped[str] = mapped_column(String(12))
    """owner, designer or reviewer."""
    password_hash: Mapped[str] = mapped_column(Text)
    """By Argon2id, with its own salt and cost."""
    must_change_password: Mapped[bool] = mapped_column(default=False)
    """Whether someone else chose the password, so that it is replaced at the next sign-in."""
    made_at: Mapped[datetime] = mapped_column(default=now_utc)
    disabled_at: Mapped[datetime | None]

    groups: Mapped[list[Group]] = relationship(
        secondary=membership, back_populates="people", order_by=Group.name
    )


class SignIn(Base):
    """One browser that someone is signed in with; the browser holds the key, this its hash."""

    __tablename__ = "sign_in"

    id: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), index=True)
    sha256: Mapped[str] = mapped_column(String(64), unique=True)
    address: Mapped[str] = mapped_column(String(60))
    browser: Mapped[str] = mapped_column(String(200))
    made_at: Mapped[datetime] = mapped_column(default=now_utc)
    seen_at: Mapped[datetime] = mapped_column(default=now_utc)
    revoked_at: Mapped[datetime | None]

    person: Mapped[Person] = relationship(lazy="joined")


class Presence(Base):
    """Who has which job open, and when they were seen there last."""

    __tablename__ = "presence"

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), primary_key=True)
    person_id: Mapped[int] = mapped_column(
        ForeignKey("person.id", ondelete="CASCADE"), primary_key=True
    )
    view: Mapped[str] = mapped_column(String(40))
    seen_at: Mapped[datetime]


class Activity(Base):
    """One thing that someone did: who, when, what, and about which job or document."""

    __tablename__ = "activity"
    __table_args__ = (Index("ix_activity_made_at", "made_at"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    made_at: Mapped[datetime] = mapped_column(default=now_utc)
    name: Mapped[str] = mapped_column(String(120))
    """As it was then; the command line and programs have one, too."""
    doing: Mapped[str] = mapped_column(String(120))
    detail: Mapped[str] = mapped_column(Text, default="")
    """Labels of the edits that were made, or names of what it is about."""
    job_id: Mapped[int | None] = mapped_column(index=True)
    document_id: Mapped[int | None]
    """No keys, so that what happened stays known when the thing itself is gone."""


class Attempts(Base):
    """How often something was tried in a stretch of time, for limits that all processes share."""

    __tablename__ = "attempts"

    key: Mapped[str] = mapped_column(String(200), primary_key=True)
    count: Mapped[int]
    ends_at: Mapped[datetime]
