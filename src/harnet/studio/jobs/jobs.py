"""Jobs and their pages: making them, finding them, their target."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session, attributes, object_session, selectinload

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.units import (
    CSS_PX_PER_INCH,
    MM_PER_INCH,
    POINTS_PER_INCH,
    Unit,
    from_points,
    to_points,
)
from harnet.core.measure.wording import counted
from harnet.core.targets.target import Target
from harnet.core.targets.values import target_as_values, target_from_values
from harnet.store.history import recorded
from harnet.store.known_pages import known_pages
from harnet.store.tables.jobs import Item, Job, Page
from harnet.studio.common.activity import add_detail
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.people.access import sees
from harnet.studio.targets.targets import DEFAULT_KEY, target_asked

_SMALLEST_PAGE_PT = 10.0
_LARGEST_PAGE_PT = 14_400.0
"""ISO 32000-1, Annex C (from memory): the largest page of a PDF at its default unit, 5.08 m."""
MOST_PAGES = 2000
_PT_PER_MM = POINTS_PER_INCH / MM_PER_INCH


@dataclass(frozen=True, slots=True, kw_only=True)
class NewJob:
    """A job to be made; lengths in points, `px_per_inch` where its pages are defined in pixels."""

    title: str
    width_pt: float
    height_pt: float
    unit: Unit = Unit.MM
    px_per_inch: float | None = None
    bleed_pt: float = 0.0
    margin_pt: float = 10 * _PT_PER_MM
    pages: int = 1
    is_facing: bool = False
    target: Target | None = None
    """None takes the usual one."""

    @classmethod
    def measured(
        cls,
        title: str,
        width: float,
        height: float,
        unit: Unit = Unit.MM,
        px_per_inch: float | None = None,
        bleed_mm: float = 0.0,
        margin_mm: float = 10.0,
        **more: Any,
    ) -> "NewJob":
        """A job whose pages are measured in `unit`, bleed and margin in millimetres."""
        per_inch = px_per_inch or CSS_PX_PER_INCH
        return cls(
            title=title,
            width_pt=to_points(width, unit, per_inch),
            height_pt=to_points(height, unit, per_inch),
            unit=unit,
            px_per_inch=per_inch if unit is Unit.PX else None,
            bleed_pt=bleed_mm * _PT_PER_MM,
            margin_pt=margin_mm * _PT_PER_MM,
            **more,
        )


def make_job(session: Session, new: NewJob) -> Job:
    """Adds a new job with its empty pages; a margin that leaves no page becomes none.

    Raises:
        Refused: a job without a title.
        ValueOutOfRange: a figure that no job can have; the text says which.
    """
    title = title_given(new.title)
    if new.px_per_inch is not None and not 1 <= new.px_per_inch <= 2400:
        raise ValueOutOfRange(
            f"the pixel density of a page is 1 to 2400 ppi, not {new.px_per_inch:g}"
        )
    per_inch = new.px_per_inch or CSS_PX_PER_INCH
    for side_pt in (new.width_pt, new.height_pt):
        require_page_length(side_pt, new.unit, per_inch)
    require_bleed(new.bleed_pt)
    if not 1 <= new.pages <= MOST_PAGES:
        raise ValueOutOfRange(f"a job has 1 to {MOST_PAGES} pages, not {new.pages}")
    has_margin = 0 <= new.margin_pt < min(new.width_pt, new.height_pt) / 2
    job = Job(
        title=title,
        unit=new.unit.value,
        px_per_inch=new.px_per_inch,
        width_pt=new.width_pt,
        height_pt=new.height_pt,
        bleed_pt=new.bleed_pt,
        margin_pt=new.margin_pt if has_margin else 0.0,
        is_facing=new.is_facing,
        target=target_as_values(new.target or target_asked(session, DEFAULT_KEY)),
    )
    job.pages = [
        Page(position=index, width_pt=new.width_pt, height_pt=new.height_pt)
        for index in range(new.pages)
    ]
    session.add(job)
    session.flush()
    add_detail(session, title)
    return job


def title_given(text: str) -> str:
    """A job's title as it is kept.

    Raises:
        Refused: there is none.
    """
    title = " ".join(text.split())[:200]
    if not title:
        raise Refused("Give the job a title; its output files are named after it.")
    return title


def require_bleed(bleed_pt: float) -> None:
    """Makes sure that a page can have this bleed.

    Raises:
        ValueOutOfRange: it is below 0 or wider than any.
    """
    if not 0 <= bleed_pt <= 50 * _PT_PER_MM:
        raise ValueOutOfRange(f"bleed is between 0 and 50 mm, not {bleed_pt / _PT_PER_MM:g} mm")


def require_page_length(length_pt: float, unit: Unit, px_per_inch: float) -> None:
    """Makes sure that a page can have this width or height.

    Raises:
        ValueOutOfRange: it is too small, or larger than a PDF's page.
    """
    if not _SMALLEST_PAGE_PT <= length_pt <= _LARGEST_PAGE_PT:
        given = f"{from_points(length_pt, unit, px_per_inch):g} {unit.value}"
        raise ValueOutOfRange(f"a page measures between 4 mm and 5.08 m a side, not {given}")


def target_of(job: Job) -> Target:
    """The job's target."""
    return target_from_values(job.target)


def set_target(
    session: Session, job: Job, key: str, own_ppi: float | None = None, base: Target | None = None
) -> Target:
    """Gives the job another target, as one edit.

    A custom figure, `own_ppi`, changes the density of `base`, or of the job's target.

    Raises:
        Refused: no such target, or no sensible figure.
    """
    target = target_asked(session, key, own_ppi, base or target_of(job))
    with recorded(session, job, f"Target: {target.name}, {target.density_ppi:g} ppi"):
        job.target = target_as_values(target)
    return target


def job_with(session: Session, job_id: int) -> Job:
    """The job of that number; its pages and what is on them are read when they are asked for.

    Raises:
        NotThere: there is none, or none that whoever is at work may see.
    """
    job = session.get(Job, job_id)
    if job is None or not sees(job.group_id):
        raise NotThere("This job does not exist.")
    return job


def whole_job(session: Session, job_id: int) -> Job:
    """The job of that number with everything on its pages, read at once.

    Raises:
        NotThere: there is none.
    """
    job = job_with(session, job_id)
    # A picture that is placed many times is read once.
    with_items = selectinload(Page.items).selectinload(Item.picture)
    everything = select(Page).where(Page.job_id == job_id).options(with_items)
    pages = list(session.scalars(everything.order_by(Page.position, Page.id)))
    if "pages" not in job.__dict__:
        # What nothing holds is forgotten, and would be read again page by page.
        attributes.set_committed_value(job, "pages", pages)
    return job


def page_count(job: Job) -> int:
    """How many pages a job has; reads none of them."""
    session = object_session(job)
    if session is None or "pages" in job.__dict__:
        return len(job.pages)
    known = known_pages(session)
    if job.id not in known.counts:
        asked = select(func.count()).where(Page.job_id == job.id)
        known.counts[job.id] = session.scalar(asked) or 0
    return known.counts[job.id]


def page_counts(session: Session, jobs: Sequence[Job]) -> dict[int, int]:
    """How many pages each job has, by its number."""
    asked = select(Page.job_id, func.count()).where(Page.job_id.in_([job.id for job in jobs]))
    found = {row[0]: row[1] for row in session.execute(asked.group_by(Page.job_id))}
    return {job.id: found.get(job.id, 0) for job in jobs}


def pages_between(job: Job, first: int, last: int) -> list[Page]:
    """The job's pages of these numbers, 1 being the first; reads no others, and none twice."""
    session = object_session(job)
    if session is None or "pages" in job.__dict__:
        return job.pages[first - 1 : last]
    known = known_pages(session)
    found = known.between(job.id, first, last)
    if found is None:
        of_job = Page.job_id == job.id
        wanted = select(Page).where(of_job, Page.position.between(first - 1, last - 1))
        found = list(session.scalars(wanted.order_by(Page.position)))
        known.keep(found)
    return found


def page_of(job: Job, number: int) -> Page:
    """The job's page of that number, 1 being the first.

    Raises:
        NotThere: the job has no such page.
    """
    found = pages_between(job, number, number) if number >= 1 else []
    if not found:
        raise NotThere(
            f"{job.title} has {counted(page_count(job), 'page')}, none numbered {number}."
        )
    return found[0]
