"""The pictures that Harnet knows: facts, rights, files, and where they are used."""

from collections import Counter
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import InstrumentedAttribute, Session, joinedload, object_session

from harnet.core.layout.placing import Source, source_from
from harnet.core.pictures.detail import Detail
from harnet.core.pictures.picture import Facts, facts_from_values
from harnet.core.pictures.rights import Rights, licence_from, tidied
from harnet.core.preflight.subject import FileState
from harnet.media.pixels.examination import ExaminedPicture
from harnet.store.blobs import FILES, IN_STORE, StoredFiles, sha256_of
from harnet.store.bucket_folder import is_bucket
from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.pictures import Picture, Shelf
from harnet.studio.common.errors import NotThere
from harnet.studio.people.access import is_on_seen_shelf, is_seen, sees_picture

REMOVED_SHELF = "Removed pictures"
"""Where pictures are kept that were removed; they are offered for no place."""
_READ = "_facts_as_values"
"""Where a row keeps its facts as values, beside the column they were made from."""
_NOWHERE = "0" * 64
"""A hash that nothing has."""
_SHELF_LOCKS = 4_817
"""The class of the advisory locks on shelves; any figure that nothing else here takes."""


def lock_shelf(session: Session, shelf: Shelf) -> None:
    """Waits until nobody else takes files onto the shelf; held to the end of the transaction."""
    session.execute(select(func.pg_advisory_xact_lock(_SHELF_LOCKS, shelf.id)))


def path_of(picture: Picture) -> Path:
    """Where the picture's file lies, or lay; a loose picture has none.

    Raises:
        NotThere: it was pasted and has no file.
    """
    if picture.shelf is None:
        raise NotThere(f"{picture.file_name} was pasted: it is not on a shelf.")
    if is_in_store(picture.shelf):
        return files_in_store(object_session(picture)).file(picture.sha256)
    if is_bucket(picture.shelf.folder):
        # What lies there now was fetched into the store.
        lying = (picture.in_bucket or {}).get("sha256", _NOWHERE)
        return files_in_store(object_session(picture)).file(lying)
    return Path(picture.shelf.folder) / picture.file_name


def files_in_store(session: Session | None) -> StoredFiles:
    """The store as files on this machine, as a session of the studio knows it."""
    assert session is not None
    found: StoredFiles = session.info[FILES]
    return found


def is_in_store(shelf: Shelf) -> bool:
    """Whether a shelf's files lie in the store, where every machine finds them."""
    return shelf.folder == IN_STORE


def state_of(picture: Picture) -> FileState:
    """How the picture's file stands, by its presence, size and time, then by its content."""
    if picture.shelf is None:
        return FileState.LOOSE
    if is_in_store(picture.shelf):
        # By its content, and never changed; nothing else writes there.
        return FileState.IN_PLACE
    if is_bucket(picture.shelf.folder):
        lying = (picture.in_bucket or {}).get("sha256")
        if lying is None:
            return FileState.MISSING
        return FileState.IN_PLACE if lying == picture.sha256 else FileState.CHANGED
    try:
        status = path_of(picture).stat()
    except OSError:
        return FileState.MISSING
    if (status.st_size, status.st_mtime_ns) == (picture.size_bytes, picture.modified_ns):
        return FileState.IN_PLACE
    is_same = sha256_of(path_of(picture)) == picture.sha256
    return FileState.IN_PLACE if is_same else FileState.CHANGED


def remember_file(picture: Picture) -> None:
    """Records the size and time by which a change of the file is told."""
    if picture.in_bucket:
        picture.size_bytes = picture.in_bucket["size_bytes"]
        picture.modified_ns = picture.in_bucket["modified_ns"]
        return
    status = path_of(picture).stat()
    picture.size_bytes, picture.modified_ns = status.st_size, status.st_mtime_ns


def remember_looks(picture: Picture, examined: ExaminedPicture) -> None:
    """Records what reading all its pixels told."""
    picture.looks_drawn, picture.likeness = examined.looks_drawn, examined.likeness
    detail = examined.detail
    picture.detail_share = detail.share if detail else None
    picture.detail_confidence = detail.confidence if detail else None


def facts_of_picture(picture: Picture) -> Facts:
    """The facts as they were read, as values that are made once for each row."""
    known: tuple[object, Facts | None] = picture.__dict__.get(_READ, (None, None))
    values, facts = known
    if facts is None or values is not picture.facts:
        facts = facts_from_values(picture.facts)
        picture.__dict__[_READ] = picture.facts, facts
    return facts


def rights_of(picture: Picture) -> Rights:
    """What is known of the picture's rights."""
    return Rights(picture.licence, picture.credit, picture.origin)


def set_rights(picture: Picture, rights: Rights) -> None:
    """Writes down the picture's rights; a licence that has an identifier is kept as that."""
    picture.licence = licence_from(rights.licence)
    picture.credit, picture.origin = tidied(rights.credit), tidied(rights.origin)


def source_of(picture: Picture) -> Source:
    """What placing needs to know of a picture."""
    return source_from(facts_of_picture(picture))


def all_pictures(session: Session) -> list[Picture]:
    """Every picture on every shelf, latest first."""
    wanted = select(Picture).options(joinedload(Picture.shelf))
    wanted = wanted.where(Picture.shelf_id.is_not(None), is_on_seen_shelf())
    return list(session.scalars(wanted.order_by(Picture.id.desc())))


def latest_pictures(session: Session, most: int, text: str = "") -> list[Picture]:
    """The pictures that came last, those with a text in their name where one is given."""
    wanted = select(Picture).join(Picture.shelf).where(Shelf.name != REMOVED_SHELF)
    wanted = wanted.where(is_on_seen_shelf())
    if text:
        wanted = wanted.where(Picture.file_name.icontains(text, autoescape=True))
    return list(session.scalars(wanted.order_by(Picture.id.desc()).limit(most)))


def pictures_between(
    session: Session, text: str, offset: int, limit: int
) -> tuple[int, list[Picture]]:
    """How many pictures have a text in their name, and a part of them, the latest first."""
    wanted = select(Picture).where(Picture.shelf_id.is_not(None), is_on_seen_shelf())
    if text:
        wanted = wanted.where(Picture.file_name.icontains(text, autoescape=True))
    count = session.scalar(select(func.count()).select_from(wanted.subquery())) or 0
    some = wanted.order_by(Picture.id.desc()).offset(offset).limit(limit)
    return count, list(session.scalars(some))


def picture_with(session: Session, picture_id: int) -> Picture:
    """The picture of that number.

    Raises:
        NotThere: there is none.
    """
    picture = session.get(Picture, picture_id)
    if picture is None or not sees_picture(session, picture):
        raise NotThere("This picture is no longer on a shelf.")
    return picture


def same_content(session: Session, picture: Picture) -> list[Picture]:
    """Other pictures with the same bytes."""
    wanted = select(Picture).where(Picture.sha256 == picture.sha256, Picture.id != picture.id)
    wanted = wanted.where(Picture.shelf_id.is_not(None), is_on_seen_shelf())
    return list(session.scalars(wanted.order_by(Picture.id)))


@dataclass(frozen=True, slots=True, kw_only=True)
class Use:
    """A job and page that a picture is placed on, and how often."""

    job_id: int
    job_title: str
    page_number: int
    item_id: int
    times: int


def uses_of(session: Session, picture_ids: Iterable[int]) -> list[Use]:
    """Where pictures are placed, by job and page, of the jobs that whoever is at work may see."""
    rows = session.execute(
        select(Job.id, Job.title, Page.position, func.min(Item.id), func.count())
        .join(Page, Page.job_id == Job.id)
        .join(Item, Item.page_id == Page.id)
        .where(Item.picture_id.in_(list(picture_ids)), is_seen(Job.group_id))
        .group_by(Job.id, Job.title, Page.position)
        .order_by(Job.title, Page.position)
    )
    return [
        Use(job_id=job, job_title=title, page_number=position + 1, item_id=item, times=times)
        for job, title, position, item, times in rows
    ]


@dataclass(frozen=True, slots=True)
class Credit:
    """A picture of a job with its rights, and the pages it is on."""

    picture: Picture
    rights: Rights
    page_numbers: tuple[int, ...]


def credits_of(job: Job) -> list[Credit]:
    """Each picture of a job once, by name, with its rights and pages."""
    pages: dict[int, set[int]] = {}
    pictures: dict[int, Picture] = {}
    for page in job.pages:
        for item in page.items:
            if item.picture is not None:
                pictures[item.picture.id] = item.picture
                pages.setdefault(item.picture.id, set()).add(page.position + 1)
    return [
        Credit(picture, rights_of(picture), tuple(sorted(pages[picture.id])))
        for picture in sorted(pictures.values(), key=lambda one: one.file_name.lower())
    ]


def kept_detail_of(picture: Picture) -> Detail | None:
    """The estimate of how much of a picture's pixels carry detail; None before it was looked at."""
    if picture.detail_share is None or picture.detail_confidence is None:
        return None
    return Detail(picture.detail_share, picture.detail_confidence)


def names_told_apart(pictures: Sequence[Picture]) -> dict[int, str]:
    """The file name of each picture, by its number; with its shelf where two have the same."""
    times = Counter(picture.file_name for picture in pictures)
    return {
        picture.id: f"{picture.file_name} · {picture.shelf.name}"
        if times[picture.file_name] > 1 and picture.shelf is not None
        else picture.file_name
        for picture in pictures
    }


def names_on_shelves(session: Session, pictures: Sequence[Picture]) -> dict[int, str]:
    """Their file names, by number; with the shelf where any other picture has the same."""
    asked = {picture.file_name for picture in pictures}
    times = _times(session, Picture.file_name, asked)
    return {
        picture.id: f"{picture.file_name} · {picture.shelf.name}"
        if times[picture.file_name] > 1 and picture.shelf is not None
        else picture.file_name
        for picture in pictures
    }


def times_of_contents(session: Session, pictures: Sequence[Picture]) -> Mapping[str, int]:
    """How often the content of each is on the shelves, by hash."""
    return _times(session, Picture.sha256, {picture.sha256 for picture in pictures})


def _times(
    session: Session, column: InstrumentedAttribute[str], values: Collection[str]
) -> Counter[str]:
    wanted = select(column, func.count()).where(column.in_(values), *_on_seen()).group_by(column)
    return Counter({row[0]: row[1] for row in session.execute(wanted)})


def picture_count(session: Session) -> int:
    """How many pictures are on the shelves that are seen."""
    return session.scalar(select(func.count(Picture.id)).where(*_on_seen())) or 0


def latest_picture_number(session: Session) -> int:
    """The highest number that a picture has; 0 without any."""
    return session.scalar(select(func.max(Picture.id))) or 0


def licences_on_shelves(session: Session) -> list[str]:
    """Every licence that a picture states, in order."""
    stated = select(Picture.licence).distinct().where(Picture.licence != "", *_on_seen())
    return sorted(session.scalars(stated))


def _on_seen() -> tuple[ColumnElement[bool], ...]:
    return Picture.shelf_id.is_not(None), is_on_seen_shelf()


def picture_of_content(session: Session, sha256: str) -> int | None:
    """The number of a picture with this content, one whose file is in place first; None without."""
    wanted = select(Picture.id).where(Picture.sha256 == sha256)
    is_elsewhere = Picture.file_state != FileState.IN_PLACE.value
    return session.scalars(wanted.order_by(is_elsewhere, Picture.id).limit(1)).first()
