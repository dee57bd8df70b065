"""The list of jobs: open, put away, deleted and brought back, and copies of whole jobs."""

from enum import Enum

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.store.base import now_utc
from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.pictures import Picture
from harnet.studio.jobs.pages import values_of


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


def jobs_that_are(session: Session, status: JobStatus) -> list[Job]:
    """The jobs of one standing, the one edited last first."""
    jobs = session.scalars(select(Job).order_by(Job.edited_at.desc()))
    return [job for job in jobs if status_of(job) is status]


def first_pictures(session: Session, job: Job, most: int = 2) -> list[str]:
    """The contents of a job's first pictures, by their hashes."""
    wanted = (
        select(Picture.sha256)
        .join(Item, Item.picture_id == Picture.id)
        .join(Page, Page.id == Item.page_id)
        .where(Page.job_id == job.id)
        .order_by(Page.position, Item.position)
    )
    return list(session.scalars(wanted.limit(most)))


def put(job: Job, status: JobStatus) -> None:
    """Opens, puts away or deletes a job; nothing of it is lost."""
    job.deleted_at = now_utc() if status is JobStatus.DELETED else None
    if status is not JobStatus.DELETED:
        job.is_archived = status is JobStatus.ARCHIVED


def duplicate_job(session: Session, job: Job) -> Job:
    """A copy of a job with its pages and what is on them; its history begins again."""
    copy = Job(**values_of(job, "title", "created_at", "edited_at", "deleted_at", "is_archived"))
    copy.title = f"{job.title}, copy"[:200]
    for page in job.pages:
        twin = Page(**values_of(page))
        twin.items = [Item(**values_of(item, "page_id")) for item in page.items]
        copy.pages.append(twin)
    session.add(copy)
    session.flush()
    return copy
