"""What a running studio is busy with: work that waits, workers, what is stored, what failed."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import Select, desc, func, literal, select, text, union_all
from sqlalchemy.orm import Session

from harnet.store.base import Base, now_utc
from harnet.store.tables.documents import Document, DocumentWork
from harnet.store.tables.output import Output
from harnet.store.tables.pictures import Picture
from harnet.store.tables.work import BackgroundWork
from harnet.studio.tasks.states import FAILED, WAITING, WORKING

_WEEK = timedelta(days=7)
_SHOWN = 100
_WORDS = {
    "output": "outputs",
    "document": "documents to read",
    "document_work": "works on documents",
    "print_copy": "print copies",
    "agency_fetch": "deliveries of the agency",
    "pack_opening": "packs to open",
    "long_batch": "long batches",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkFigures:
    """How much work of one kind there is; `kind` is its table's name."""

    kind: str
    words: str
    waiting: int
    working: int
    oldest_seconds: float
    """How long the oldest of it has waited, 0 without."""
    failed: int
    """In the last seven days."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Failure:
    """Work that failed, with the sentence that whoever asked for it was told."""

    words: str
    when: datetime
    who: str
    sentence: str


@dataclass(frozen=True, slots=True)
class StoredBytes:
    """What one kind of file takes up, by what its rows say."""

    words: str
    count: int
    size_bytes: int


def work_figures(session: Session) -> list[WorkFigures]:
    """How much work of each kind waits, is done and failed of late."""
    since = now_utc() - _WEEK

    def of(model: Any) -> Select[Any]:
        is_waiting = model.state == WAITING
        return select(
            literal(model.__tablename__).label("kind"),
            func.count().filter(is_waiting),
            func.count().filter(model.state == WORKING),
            func.min(model.requested_at).filter(is_waiting),
            func.count().filter(model.state == FAILED, model.finished_at > since),
        )

    every = union_all(*map(of, _models())).order_by("kind")
    return [
        WorkFigures(
            kind=kind,
            words=_WORDS.get(kind, kind),
            waiting=waiting,
            working=working,
            oldest_seconds=max(0.0, (now_utc() - oldest).total_seconds()) if oldest else 0.0,
            failed=failed,
        )
        for kind, waiting, working, oldest, failed in session.execute(every)
    ]


def failures_of_week(session: Session) -> list[Failure]:
    """What failed in the last seven days, the latest first."""
    since = now_utc() - _WEEK

    def of(model: Any) -> Select[Any]:
        return select(
            literal(model.__tablename__).label("kind"),
            model.finished_at.label("at"),
            model.made_by,
            func.coalesce(model.failure, ""),
        ).where(model.state == FAILED, model.finished_at > since)

    every = union_all(*map(of, _models()))
    latest = every.order_by(desc("at"), "kind").limit(_SHOWN)
    return [
        Failure(words=_WORDS.get(kind, kind), when=when, who=who, sentence=sentence)
        for kind, when, who, sentence in session.execute(latest)
    ]


def workers_alive(session: Session, silent_seconds: float = 30.0) -> int:
    """How many workers gave a sign of late."""
    alive = text(
        "select count(*) from procrastinate_workers"
        " where last_heartbeat > now() - make_interval(secs => :silent)"
    )
    return session.scalar(alive, {"silent": silent_seconds}) or 0


def tasks_ended(session: Session) -> dict[tuple[str, str], int]:
    """How many tasks ended so far, by name and how: succeeded, failed, cancelled or aborted."""
    ended = text(
        "select task_name, status::text, count(*) from procrastinate_jobs"
        " where status not in ('todo', 'doing') group by 1, 2"
    )
    return {(name, status): count for name, status, count in session.execute(ended)}


def stored_bytes(session: Session) -> list[StoredBytes]:
    """What pictures, documents and outputs take up."""
    kinds: tuple[tuple[str, Any], ...] = (
        ("pictures", Picture),
        ("documents", Document),
        ("made of documents", DocumentWork),
        ("outputs", Output),
    )
    found = []
    for words, model in kinds:
        wanted = select(func.count(model.size_bytes), func.coalesce(func.sum(model.size_bytes), 0))
        count, size_bytes = session.execute(wanted).one()
        found.append(StoredBytes(words, count, int(size_bytes)))
    return found


def _models() -> list[Any]:
    """The tables of work in the background."""
    mapped = (mapper.class_ for mapper in Base.registry.mappers)
    work = [one for one in mapped if issubclass(one, BackgroundWork)]
    return sorted(work, key=lambda one: one.__tablename__)
