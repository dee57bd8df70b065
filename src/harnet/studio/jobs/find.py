"""Finding anything by a text: jobs, pictures, checked documents, text on pages, findings."""

from dataclasses import dataclass
from typing import Any, TypeVar

from sqlalchemy import ARRAY, ColumnElement, Integer, Select, any_, bindparam, select
from sqlalchemy.orm import InstrumentedAttribute, Session

from harnet.store.tables.documents import Document
from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.pictures import Picture
from harnet.store.tables.preflight import FindingRow
from harnet.studio.people.access import is_on_seen_shelf, is_seen

MOST_OF_A_KIND = 20
_SHOWN_TEXT = 90
_MOST_SORTED = 10_000
_Row = TypeVar("_Row")


@dataclass(frozen=True, slots=True, kw_only=True)
class FoundThing:
    """Something that has the text: what it is, where it is, and its numbers for an address."""

    kind: str
    """job, picture, document, text or finding."""
    name: str
    where: str
    number: int
    """Of the job, the picture, the document, or the item on a page."""
    job_id: int = 0
    page: int = 0


def found_by(session: Session, text: str) -> list[FoundThing]:
    """What has every word of a text in its name, the latest first of each kind."""
    words = text.split()[:8]
    if not words:
        return []
    jobs = select(Job).where(*_seen()).order_by(Job.edited_at.desc(), Job.id)
    found = [
        FoundThing(kind="job", name=job.title, where="job", number=job.id)
        for job in _some(session, jobs, Job.title, words)
    ]
    pictures = (
        select(Picture)
        .where(Picture.shelf_id.is_not(None), is_on_seen_shelf())
        .order_by(Picture.id.desc())
    )
    found += [
        FoundThing(
            kind="picture",
            name=picture.file_name,
            where=picture.shelf.name if picture.shelf else "",
            number=picture.id,
        )
        for picture in _some(session, pictures, Picture.file_name, words)
    ]
    documents = select(Document).order_by(Document.id.desc())
    found += [
        FoundThing(kind="document", name=one.file_name, where="checked document", number=one.id)
        for one in _some(session, documents, Document.file_name, words)
    ]
    return [*found, *_texts(session, words), *_findings(session, words)]


def _texts(session: Session, words: list[str]) -> list[FoundThing]:
    wanted = select(Item, Page, Job).join(Item.page).join(Page.job).where(*_seen())
    wanted = wanted.where(*_have(Item.text, words)).order_by(Job.id.desc(), Page.position)
    return [
        FoundThing(
            kind="text",
            name=" ".join((item.text or "").split())[:_SHOWN_TEXT],
            where=f"{job.title}, page {page.position + 1}",
            number=item.id,
            job_id=job.id,
            page=page.position + 1,
        )
        for item, page, job in session.execute(wanted.limit(MOST_OF_A_KIND))
    ]


def _findings(session: Session, words: list[str]) -> list[FoundThing]:
    in_order = (FindingRow.severity_rank, FindingRow.rule_rank, FindingRow.id)
    has_all = _have(FindingRow.name, words)
    few = session.scalars(select(FindingRow.id).where(*has_all).limit(_MOST_SORTED + 1)).all()
    # A few are put in order. Of very many the worst come first in the order of an index, which
    # would be gone through in vain for a few.
    if len(few) <= _MOST_SORTED:
        has_all = [FindingRow.id == any_(bindparam("few", few, ARRAY(Integer)))]
    worst = select(FindingRow.id).join(Page, Page.id == FindingRow.page_id).join(Page.job)
    worst = worst.where(*_seen(), *has_all).order_by(*in_order).limit(MOST_OF_A_KIND)
    wanted = (
        select(FindingRow, Page, Job)
        .join(Page, Page.id == FindingRow.page_id)
        .join(Page.job)
        .where(FindingRow.id.in_(session.scalars(worst).all()))
        .order_by(*in_order)
    )
    return [
        FoundThing(
            kind="finding",
            name=f"{row.name}: {row.headline}",
            where=f"{job.title}, page {page.position + 1}",
            number=row.item_id,
            job_id=job.id,
            page=page.position + 1,
        )
        for row, page, job in session.execute(wanted)
    ]


def _seen() -> tuple[ColumnElement[bool], ...]:
    """Of jobs: those that are there, for whoever is at work."""
    return Job.deleted_at.is_(None), is_seen(Job.group_id)


def _some(
    session: Session,
    wanted: Select[_Row],
    column: InstrumentedAttribute[str],
    words: list[str],
) -> list[_Row]:
    return list(session.scalars(wanted.where(*_have(column, words)).limit(MOST_OF_A_KIND)))


def _have(column: InstrumentedAttribute[Any], words: list[str]) -> list[ColumnElement[bool]]:
    return [column.icontains(word, autoescape=True) for word in words]
