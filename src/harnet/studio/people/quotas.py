"""How much a person, and the studio as a whole, may store and have waiting."""

from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from harnet.core.measure.wording import bytes_text
from harnet.store.acting import actor
from harnet.store.base import Base
from harnet.store.tables.documents import Document, DocumentWork
from harnet.store.tables.output import Output
from harnet.store.tables.pictures import Picture
from harnet.store.tables.work import BackgroundWork
from harnet.studio.common.errors import Refused
from harnet.studio.common.settings import LIMITS, Limits

_STORED: tuple[Any, ...] = (Picture, Document, DocumentWork, Output)
"""What has bytes, and says by whom and how many."""
_RUNNING = ("waiting", "working")


def require_room(session: Session) -> None:
    """Lets whoever is at work store more, unless that reaches a limit.

    Raises:
        Refused: one is; the text says which, and what to do.
    """
    limits: Limits = session.info.get(LIMITS, Limits())
    if limits.studio_bytes:
        stored = stored_by(session)
        if stored >= limits.studio_bytes:
            raise Refused(
                f"This studio stores {bytes_text(stored)}, and may store"
                f" {bytes_text(limits.studio_bytes)}. Remove pictures, documents or outputs, or ask"
                " whoever runs Harnet for more."
            )
    name = actor().name
    if actor().person_id is not None and limits.person_bytes:
        stored = stored_by(session, name)
        if stored >= limits.person_bytes:
            raise Refused(
                f"You store {bytes_text(stored)}, and may store {bytes_text(limits.person_bytes)}."
                " Remove pictures, documents or outputs of yours, or ask an owner for more."
            )


def require_turn(session: Session) -> None:
    """Lets whoever is at work have more made, unless too much waits for them, or is stored.

    Raises:
        Refused: a limit is reached; the text says which, and what to do.
    """
    require_room(session)
    limits: Limits = session.info.get(LIMITS, Limits())
    name = actor().name
    if actor().person_id is None:
        return
    waiting = waiting_of(session, name)
    if waiting >= limits.person_tasks:
        raise Refused(
            f"{waiting} things are being made for you already, as many as may be at once. Wait for"
            " some of them, or cancel some."
        )


def stored_by(session: Session, name: str | None = None) -> int:
    """The bytes that a person stores, or everybody."""
    total = 0
    for model in _STORED:
        wanted = select(func.coalesce(func.sum(model.size_bytes), 0))
        if name is not None:
            wanted = wanted.where(model.made_by == name)
        total += int(session.scalar(wanted) or 0)
    return total


def waiting_of(session: Session, name: str) -> int:
    """How much work in the background is not finished for a person."""
    total = 0
    for mapper in Base.registry.mappers:
        model: Any = mapper.class_
        if issubclass(model, BackgroundWork):
            wanted = select(func.count()).where(model.made_by == name, model.state.in_(_RUNNING))
            total += session.scalar(wanted) or 0
    return total
