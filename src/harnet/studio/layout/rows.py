"""Rows to pages: a pattern page and a table give one page per record, as one edit."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import PurePosixPath
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.placing import Fit, fitted
from harnet.core.layout.rows import Record, Table, filled, picture_column, places_in, table_from
from harnet.core.measure.wording import counted
from harnet.store.history import recorded
from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.pictures import Picture
from harnet.studio.common.errors import Refused, sentence_of
from harnet.studio.jobs.jobs import MOST_PAGES, page_count, page_of
from harnet.studio.jobs.pages import values_of
from harnet.studio.layout.placed import FRAME, PICTURE, TEXT, placement_of, write_placement
from harnet.studio.people.access import is_on_seen_shelf

_LONGEST_TEXT = 5_000_000
Binding = Mapping[int, str]
"""A frame's item number and the column that it takes its picture from."""


@dataclass(frozen=True, slots=True)
class NameMatches:
    """How the pictures that a table asks for stand: by the name asked for, None where missing."""

    pictures: Mapping[str, Picture]
    missing: Sequence[str]


def read_rows(data: bytes) -> Table:
    """The table of a CSV file in UTF-8, or in the Western code page of older programs.

    Raises:
        Refused: it is no table; the sentence says which row is wrong.
    """
    if len(data) > _LONGEST_TEXT:
        raise Refused("This file is too large for a table of records.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        # Common practice, no source: spreadsheets of the West write Windows-1252 when not UTF-8.
        text = data.decode("cp1252", "replace")
    try:
        return table_from(text)
    except ValueOutOfRange as error:
        raise Refused(f"No pages were created. {sentence_of(error)}") from None


def frames_of(page: Page) -> list[Item]:
    """What on a page can take a picture: empty frames and placed pictures, lowest first."""
    return [item for item in page.items if item.kind in (FRAME, PICTURE)]


def suggested_binding(page: Page, table: Table) -> dict[int, str]:
    """The column of each frame: as it was bound before, else by the columns' names."""
    binding: dict[int, str] = {}
    place = 0
    for item in frames_of(page):
        kept = (item.style or {}).get("column", "")
        if kept in table.columns:
            binding[item.id] = kept
        elif item.kind == FRAME:
            binding[item.id] = picture_column(table.columns, place)
            place += 1
        else:
            binding[item.id] = ""
    return binding


def unknown_places(page: Page, table: Table) -> list[str]:
    """What texts of a page ask for in braces and no column gives."""
    known = {column.lower() for column in table.columns}
    return [place for place in asked_places(page) if place.lower() not in known]


def asked_places(page: Page) -> list[str]:
    """What the texts of a page ask for in braces, each once."""
    columns = [
        place for item in page.items if item.kind == TEXT for place in places_in(item.text or "")
    ]
    return list(dict.fromkeys(columns))


def match_pictures(session: Session, table: Table, columns: Sequence[str]) -> NameMatches:
    """The pictures that these columns name, by file name or by a path that ends in one.

    Where several shelves have the name, a path decides, else the picture that came last.
    """
    texts = list(dict.fromkeys(record[column] for record in table.records for column in columns))
    texts = [text for text in texts if text]
    names = {_name_in(text).lower() for text in texts}
    found: dict[str, list[Picture]] = {}
    wanted = select(Picture).where(
        func.lower(Picture.file_name).in_(names),
        Picture.shelf_id.is_not(None),
        is_on_seen_shelf(),
    )
    for picture in session.scalars(wanted.order_by(Picture.id.desc())):
        found.setdefault(picture.file_name.lower(), []).append(picture)
    pictures, missing = {}, []
    for text in texts:
        candidates = found.get(_name_in(text).lower(), [])
        if not candidates:
            missing.append(text)
            continue
        folder = str(PurePosixPath(text.replace("\\", "/")).parent)
        pictures[text] = next(
            (one for one in candidates if one.shelf and one.shelf.folder.endswith(folder)),
            candidates[0],
        )
    return NameMatches(pictures, missing)


def _name_in(text: str) -> str:
    return PurePosixPath(text.replace("\\", "/")).name


def make_pages(
    session: Session,
    job: Job,
    number: int,
    table: Table,
    binding: Binding,
    fit: Fit = Fit.COVER,
    keeps_pattern: bool = False,
) -> int:
    """Makes a page of each record behind the pattern page, as one edit; returns the first's number.

    Texts get the record's words for each `{column}`; bound frames get the picture that the column
    names. Where it is missing the frame stays empty and says what it wants, which preflight finds.

    Raises:
        Refused: no records, a column that the table does not have, or too many pages.
    """
    pattern = page_of(job, number)
    count = len(table.records)
    if count == 0:
        raise Refused("The table has columns but no records, so no pages were created.")
    unknown = sorted(set(binding.values()) - set(table.columns) - {""})
    if unknown:
        raise Refused(f"The table has no column “{unknown[0]}”.")
    if page_count(job) + count > MOST_PAGES:
        raise Refused(
            f"A job has at most {MOST_PAGES} pages; this one has {page_count(job)} and would get"
            f" {count} more."
        )
    match = match_pictures(session, table, sorted(set(binding.values()) - {""}))
    items = list(pattern.items)
    first = pattern.position + (1 if keeps_pattern else 0)
    with recorded(session, job, f"{counted(count, 'page')} from rows"):
        for item in items:
            if binding.get(item.id):
                item.style = {**(item.style or {}), "column": binding[item.id]}
        behind = [page for page in job.pages if page.position > pattern.position]
        for page in behind:
            page.position += count - (0 if keeps_pattern else 1)
        for index, record in enumerate(table.records):
            page = Page(job_id=job.id, **values_of(pattern, "position", "tally"))
            page.position = first + index
            page.items = [_item(item, record, binding, match, fit) for item in items]
            session.add(page)
        if not keeps_pattern:
            session.delete(pattern)
    session.expire(job, ["pages"])
    return first + 1


def _item(item: Item, record: Record, binding: Binding, match: NameMatches, fit: Fit) -> Item:
    """A pattern's item, filled with a record."""
    values: dict[str, Any] = values_of(item, "page_id")
    column = binding.get(item.id, "")
    if item.kind == TEXT:
        values["text"] = filled(item.text or "", record)
        link = (item.style or {}).get("link", "")
        values["style"] = {**(item.style or {}), "link": filled(link, record)}
        return Item(**values)
    if not column:
        return Item(**values)
    picture_name = record[column]
    picture = match.pictures.get(picture_name)
    style = {name: value for name, value in (item.style or {}).items() if name != "wanted"}
    values["style"] = {**style, "column": column}
    if picture is None:
        values |= {"kind": FRAME, "picture_id": None}
        if picture_name:
            values["style"]["wanted"] = picture_name[:255]
        return Item(**values)
    made = Item(**{**values, "kind": PICTURE, "picture_id": picture.id, "holding": "linked"})
    made.picture = picture
    made.flip_h = made.flip_v = False
    made.scale_x = made.scale_y = 1.0
    placement = placement_of(made)
    content = fitted(placement.source, placement.frame, fit)
    write_placement(made, replace(placement, content=content))
    return made
