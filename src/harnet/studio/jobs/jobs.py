"""Jobs and their pages: making them, finding them, their target."""

import math
from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session, object_session, selectinload

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.units import (
    CSS_PX_PER_INCH,
    MM_PER_INCH,
    POINTS_PER_INCH,
    Unit,
    length_from_text,
)
from harnet.core.measure.wording import counted
from harnet.core.targets.target import Target
from harnet.core.targets.values import target_as_values, target_from_values
from harnet.store.history import recorded
from harnet.store.tables.jobs import Job, Page
from harnet.studio.common.errors import NotThere, Refused, sentence_of
from harnet.studio.targets.targets import DEFAULT_KEY, target_asked

_SMALLEST_PAGE_PT = 10.0
_LARGEST_PAGE_PT = 14_400.0
"""ISO 32000-1, Annex C (from memory): the largest page of a PDF at its default unit, 5.08 m."""
MOST_PAGES = 2000
_LARGEST_FIGURE = 1e9
_PT_PER_MM = POINTS_PER_INCH / MM_PER_INCH


@dataclass(frozen=True, slots=True)
class PageFormat:
    """A common page size; lengths as they stand in the form."""

    name: str
    width: str
    height: str
    unit: str


FORMATS = (
    # ISO 216 for A4 and A5 (from memory); the pixel page is common practice, no source.
    PageFormat("A4 portrait", "210", "297", "mm"),
    PageFormat("A5 portrait", "148", "210", "mm"),
    PageFormat("A3 landscape", "420", "297", "mm"),
    PageFormat("Banner 850 × 2000 mm", "850", "2000", "mm"),
    PageFormat("Screen 1920 × 1080 px", "1920", "1080", "px"),
)


@dataclass(frozen=True, slots=True)
class JobOrder:
    """A new job as a person asks for it: lengths are texts in `unit`."""

    title: str
    width: str
    height: str
    unit: str
    px_per_inch: str = ""
    bleed: str = "0"
    pages: str = "1"
    is_facing: bool = False
    margin: str = "10"
    target: str = DEFAULT_KEY
    own_ppi: str = ""
    own_base: str = DEFAULT_KEY
    """The target that an own figure changes the density of."""


def make_job(session: Session, order: JobOrder) -> Job:
    """A new job with its empty pages.

    Raises:
        Refused: a figure makes no sense; the sentence says which.
    """
    title = " ".join(order.title.split())[:200]
    if not title:
        raise Refused("Give the job a title; its output files are named after it.")
    try:
        unit = Unit.named(order.unit)
        px_per_inch = _figure(order.px_per_inch, "density") if unit is Unit.PX else None
        per_inch = px_per_inch or CSS_PX_PER_INCH
        if px_per_inch is not None and not 1 <= px_per_inch <= 2400:
            raise ValueOutOfRange(
                f"the pixel density of a page is 1 to 2400 ppi, not {order.px_per_inch}"
            )
        width, height = (
            page_length(length_from_text(text, unit, per_inch), f"{text} {unit.value}")
            for text in (order.width, order.height)
        )
        bleed = length_from_text(order.bleed or "0", Unit.MM)
        if not 0 <= bleed <= 50 * _PT_PER_MM:
            raise ValueOutOfRange(f"bleed is between 0 and 50 mm, not {order.bleed}")
        margin = length_from_text(order.margin or "0", Unit.MM)
        if not 0 <= margin < min(width, height) / 2:
            margin = 0.0
        count = int(_figure(order.pages, "number of pages"))
        if not 1 <= count <= MOST_PAGES:
            raise ValueOutOfRange(f"a job has 1 to {MOST_PAGES} pages, not {order.pages}")
    except ValueOutOfRange as error:
        raise Refused(sentence_of(error)) from None
    base = target_asked(session, order.own_base)
    target = target_asked(session, order.target, order.own_ppi, base)
    job = Job(
        title=title,
        unit=unit.value,
        px_per_inch=px_per_inch,
        width_pt=width,
        height_pt=height,
        bleed_pt=bleed,
        margin_pt=margin,
        is_facing=order.is_facing,
        target=target_as_values(target),
    )
    job.pages = [Page(position=index, width_pt=width, height_pt=height) for index in range(count)]
    session.add(job)
    session.flush()
    return job


def _figure(text: str, what: str) -> float:
    try:
        found = float(text.strip().replace(",", "."))
    except ValueError:
        found = math.nan
    if not math.isfinite(found) or abs(found) >= _LARGEST_FIGURE:
        raise ValueOutOfRange(f"the {what} must be a figure, not “{text[:40]}”")
    return found


def page_length(length_pt: float, text: str) -> float:
    """A page's width or height, if a page can have it; `text` is what was asked for.

    Raises:
        ValueOutOfRange: too small, or larger than a PDF's page.
    """
    if not _SMALLEST_PAGE_PT <= length_pt <= _LARGEST_PAGE_PT:
        raise ValueOutOfRange(f"a page measures between 4 mm and 5.08 m a side, not {text}")
    return length_pt


def target_of(job: Job) -> Target:
    """The job's target."""
    return target_from_values(job.target)


def set_target(
    session: Session, job: Job, key: str, own_ppi: str, base: Target | None = None
) -> Target:
    """Gives the job another target, as one edit.

    An own figure changes the density of `base`, or of the target that the job has.

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
        NotThere: there is none.
    """
    job = session.get(Job, job_id)
    if job is None:
        raise NotThere("This job does not exist.")
    return job


def whole_job(session: Session, job_id: int) -> Job:
    """The job of that number with everything on its pages, read at once.

    Raises:
        NotThere: there is none.
    """
    job = job_with(session, job_id)
    everything = select(Page).where(Page.job_id == job_id).options(selectinload(Page.items))
    session.scalars(everything).all()
    return job


def page_count(job: Job) -> int:
    """How many pages a job has; reads none of them."""
    session = object_session(job)
    if session is None or "pages" in job.__dict__:
        return len(job.pages)
    return session.scalar(select(func.count()).where(Page.job_id == job.id)) or 0


def pages_between(job: Job, first: int, last: int) -> list[Page]:
    """The job's pages of these numbers, 1 being the first; reads no others."""
    session = object_session(job)
    if session is None or "pages" in job.__dict__:
        return job.pages[first - 1 : last]
    wanted = select(Page).where(Page.job_id == job.id, Page.position.between(first - 1, last - 1))
    return list(session.scalars(wanted.order_by(Page.position)))


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
