"""The pages of a job: added, copied, moved, removed, and lying side by side."""

from collections.abc import Sequence
from typing import Any

from sqlalchemy.orm import Session

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.units import CSS_PX_PER_INCH, Unit, from_points
from harnet.core.measure.wording import counted
from harnet.store.history import recorded
from harnet.store.tables.jobs import Item, Job, Page
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import MOST_PAGES, page_of, require_page_length


def add_page(session: Session, job: Job, after_number: int) -> int:
    """A new empty page behind another, as one edit; returns its number.

    Raises:
        Refused: the job would have too many pages, or none.
    """
    if len(job.pages) >= MOST_PAGES:
        raise Refused(f"A job has at most {MOST_PAGES} pages.")
    before = page_of(job, after_number)
    with recorded(session, job, f"Add page {after_number + 1}"):
        for page in job.pages[after_number:]:
            page.position += 1
        session.add(
            Page(
                job_id=job.id,
                position=before.position + 1,
                width_pt=before.width_pt,
                height_pt=before.height_pt,
            )
        )
    session.expire(job, ["pages"])
    return after_number + 1


def copy_page(session: Session, job: Job, number: int) -> int:
    """A copy of a page with what is on it, behind it, as one edit; returns its number.

    Raises:
        Refused: the job would have too many pages, or none.
    """
    if len(job.pages) >= MOST_PAGES:
        raise Refused(f"A job has at most {MOST_PAGES} pages.")
    original = page_of(job, number)
    with recorded(session, job, f"Copy page {number}"):
        for page in job.pages[number:]:
            page.position += 1
        copy = Page(job_id=job.id, **values_of(original, "position"))
        copy.position = original.position + 1
        for item in original.items:
            copy.items.append(Item(**values_of(item, "page_id")))
        session.add(copy)
    session.expire(job, ["pages"])
    return number + 1


def values_of(row: Job | Page | Item, *without: str) -> dict[str, Any]:
    """A row's own values, for a copy of it."""
    left_out = {"id", "version", "job_id", *without}
    return {
        column.key: getattr(row, column.key)
        for column in row.__mapper__.column_attrs
        if column.key not in left_out
    }


def move_pages(session: Session, job: Job, numbers: Sequence[int], to: int) -> int:
    """Moves pages, in their order, to where another one is; returns the number of their first.

    They come behind that one where they were before it, and before it where they were behind.

    Raises:
        Refused: no pages are named.
        NotThere: the job has no such page.
    """
    if not numbers:
        raise Refused("Choose the pages to move.")
    goal = page_of(job, to)
    wanted = [page_of(job, number) for number in sorted(set(numbers))]
    if goal in wanted:
        return wanted[0].position + 1
    rest = [page for page in job.pages if page not in wanted]
    at = rest.index(goal) + (wanted[0].position < goal.position)
    order = [*rest[:at], *wanted, *rest[at:]]
    what = f"page {numbers[0]}" if len(wanted) == 1 else counted(len(wanted), "page")
    with recorded(session, job, f"Move {what} to {to}"):
        for position, page in enumerate(order):
            page.position = position
    session.expire(job, ["pages"])
    return at + 1


def set_page_size(
    session: Session, job: Job, number: int, width_pt: float, height_pt: float
) -> None:
    """Gives one page a size of its own, as one edit; what is on it stays where it is.

    Raises:
        ValueOutOfRange: a size that no page can have.
    """
    page, unit = page_of(job, number), Unit.named(job.unit)
    for side_pt in (width_pt, height_pt):
        require_page_length(side_pt, unit, job.px_per_inch or CSS_PX_PER_INCH)
    with recorded(session, job, f"Size of page {number}"):
        page.width_pt, page.height_pt = width_pt, height_pt


def set_facing(session: Session, job: Job, is_facing: bool, margin_pt: float) -> None:
    """Sets facing or single pages, and the margin that items snap to, as one edit.

    Raises:
        ValueOutOfRange: a margin that leaves no page.
    """
    if not 0 <= margin_pt < min(job.width_pt, job.height_pt) / 2:
        per_inch = job.px_per_inch or CSS_PX_PER_INCH
        margin = f"{from_points(margin_pt, Unit.named(job.unit), per_inch):g} {job.unit}"
        raise ValueOutOfRange(f"a margin of {margin} leaves no page")
    with recorded(session, job, "Facing pages and margin"):
        job.is_facing, job.margin_pt = is_facing, margin_pt


def remove_page(session: Session, job: Job, number: int) -> int:
    """Removes a page with what is on it, as one edit; returns the number to show next.

    Raises:
        Refused: the job would have too many pages, or none.
    """
    if len(job.pages) == 1:
        raise Refused("A job keeps at least one page.")
    page = page_of(job, number)
    with recorded(session, job, f"Remove page {number}"):
        for later in job.pages[number:]:
            later.position -= 1
        for item in page.items:
            session.delete(item)
        session.delete(page)
    session.expire(job, ["pages"])
    return min(number, len(job.pages))
