"""What happened in the studio, the latest first, in pages and as a table to take away."""

import csv
import io
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import Select, or_, select
from sqlalchemy.orm import Session

from harnet.core.measure.table_text import cell_text
from harnet.store.tables.documents import Document
from harnet.store.tables.jobs import Job
from harnet.store.tables.people import Activity

PAGE_LENGTH = 100
_COLUMNS = ("when_utc", "who", "what", "detail", "job_id", "job", "document_id", "document")


@dataclass(frozen=True, slots=True, kw_only=True)
class ActivityQuery:
    """Which of it is wanted: by part of a name, by part of what was done; empty for all."""

    name: str = ""
    text: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ActivityLine:
    """One thing that happened; the titles are as they are now, empty once the thing is gone."""

    id: int
    made_at: datetime
    name: str
    doing: str
    detail: str
    job_id: int | None
    job_title: str
    document_id: int | None
    document_name: str


def activity_page(
    session: Session, query: ActivityQuery, before: int | None = None
) -> list[ActivityLine]:
    """A page of what happened, the latest first; `before` is the number that the last one ended at.

    One line more than a page tells that there is another.
    """
    wanted = _wanted(query)
    if before is not None:
        wanted = wanted.where(Activity.id < before)
    return list(_lines(session, wanted.limit(PAGE_LENGTH + 1)))


def activity_csv(session: Session, query: ActivityQuery) -> Iterator[str]:
    """All of it as CSV, a line at a time."""
    yield _csv_line(_COLUMNS)
    for line in _lines(session, _wanted(query).execution_options(yield_per=1000)):
        yield _csv_line(
            (
                line.made_at.strftime("%Y-%m-%d %H:%M:%S"),
                line.name,
                line.doing,
                line.detail,
                line.job_id or "",
                line.job_title,
                line.document_id or "",
                line.document_name,
            )
        )


def _wanted(query: ActivityQuery) -> Select[Activity, str | None, str | None]:
    wanted = (
        select(Activity, Job.title, Document.file_name)
        .outerjoin(Job, Job.id == Activity.job_id)
        .outerjoin(Document, Document.id == Activity.document_id)
        .order_by(Activity.id.desc())
    )
    if query.name:
        wanted = wanted.where(Activity.name.icontains(query.name, autoescape=True))
    if query.text:
        columns = (Activity.doing, Activity.detail, Job.title, Document.file_name)
        wanted = wanted.where(or_(*(one.icontains(query.text, autoescape=True) for one in columns)))
    return wanted


def _lines(
    session: Session, wanted: Select[Activity, str | None, str | None]
) -> Iterator[ActivityLine]:
    for row, title, file_name in session.execute(wanted):
        yield ActivityLine(
            id=row.id,
            made_at=row.made_at,
            name=row.name,
            doing=row.doing,
            detail=row.detail,
            job_id=row.job_id if title is not None else None,
            job_title=title or "",
            document_id=row.document_id if file_name is not None else None,
            document_name=file_name or "",
        )


def _csv_line(cells: tuple[object, ...]) -> str:
    line = io.StringIO()
    csv.writer(line).writerow([cell_text(cell) for cell in cells])
    return line.getvalue()
