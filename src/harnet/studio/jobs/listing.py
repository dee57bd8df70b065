"""The list of jobs: open, put away, deleted and brought back, and copies of whole jobs."""

from collections.abc import Sequence
from enum import Enum

from sqlalchemy import ColumnElement, and_, func, select
from sqlalchemy.orm import Session

from harnet.store.base import now_utc
from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.pictures import Picture
from harnet.studio.jobs.pages import values_of
from harnet.studio.people.access import is_seen

_OF_ITS_OWN = ("title", "created_at", "edited_at", "deleted_at", "is_archived", "made_by")


class JobStatus(Enum):
    """Where a job is in the list."""

    OPEN = "open"
    ARCHIVED = "archived"
    DELETED = "deleted"
    """Out of sight, and brought back at any time."""


def status_of(job: Job) -> JobStatus:
    """How a job stands."""
    if job.deleted_at is not None:
        return JobStatus.DELETED
    return JobStatus.ARCHIVED if job.is_archived else JobStatus.OPEN


def jobs_that_are(
    session: Session, status: JobStatus, most: int | None = None, after: int = 0
) -> list[Job]:
    """The jobs of one standing that are seen, the one edited last first; `most` after so many."""
    seen = select(Job).where(is_seen(Job.group_id), _is(status))
    return list(
        session.scalars(seen.order_by(Job.edited_at.desc(), Job.id).offset(after).limit(most))
    )


def counts_by_status(session: Session) -> dict[JobStatus, int]:
    """How many jobs are seen of each standing."""
    counts = (func.count().filter(_is(status)).label(status.value) for status in JobStatus)
    found = session.execute(select(*counts).select_from(Job).where(is_seen(Job.group_id))).one()
    return dict(zip(JobStatus, found, strict=True))


def _is(status: JobStatus) -> ColumnElement[bool]:
    """The same as `status_of`, in SQL."""
    if status is JobStatus.DELETED:
        return Job.deleted_at.is_not(None)
    is_archived = status is JobStatus.ARCHIVED
    return and_(Job.deleted_at.is_(None), Job.is_archived.is_(is_archived))


def first_pictures(session: Session, jobs: Sequence[Job], most: int = 2) -> dict[int, list[str]]:
    """The contents of each job's first pictures, by their hashes; by the job's number."""
    order = (Page.position, Item.position)
    place = func.row_number().over(partition_by=Page.job_id, order_by=order).label("place")
    ranked = (
        select(Page.job_id, Picture.sha256, place)
        .join(Item, Item.page_id == Page.id)
        .join(Picture, Picture.id == Item.picture_id)
        .where(Page.job_id.in_([job.id for job in jobs]))
        .subquery()
    )
    found: dict[int, list[str]] = {job.id: [] for job in jobs}
    wanted = select(ranked.c.job_id, ranked.c.sha256).where(ranked.c.place <= most)
    for job_id, sha256 in session.execute(wanted.order_by(ranked.c.job_id, ranked.c.place)):
        found[job_id].append(sha256)
    return found


def put(job: Job, status: JobStatus) -> None:
    """Opens, puts away or deletes a job; nothing of it is lost."""
    job.deleted_at = now_utc() if status is JobStatus.DELETED else None
    if status is not JobStatus.DELETED:
        job.is_archived = status is JobStatus.ARCHIVED


def duplicate_job(session: Session, job: Job) -> Job:
    """A copy of a job with its pages and what is on them; its history begins again."""
    copy = Job(**values_of(job, *_OF_ITS_OWN))
    copy.title = f"{job.title}, copy"[:200]
    for page in job.pages:
        twin = Page(**values_of(page))
        twin.items = [Item(**values_of(item, "page_id")) for item in page.items]
        copy.pages.append(twin)
    session.add(copy)
    session.flush()
    return copy
