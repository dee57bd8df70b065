"""Shelves: folders of pictures, Harnet's own and watched ones, read again now and then."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from harnet.core.pictures.picture import Kind, facts_as_values
from harnet.core.preflight.subject import FileState
from harnet.media.errors import UnreadableFile
from harnet.media.facts.bounded_reading import facts_apart
from harnet.store.base import now_utc
from harnet.store.blobs import IN_STORE, StoreAway, sha256_of
from harnet.store.bucket_folder import is_bucket
from harnet.store.tables.pictures import Picture, Shelf
from harnet.studio.common.errors import NotThere
from harnet.studio.common.studio import Studio
from harnet.studio.people.access import is_seen, sees
from harnet.studio.pictures.buckets import readings_of_bucket
from harnet.studio.pictures.importing import examined_with_previews, safe_file_name, source_file
from harnet.studio.pictures.picture import (
    is_in_store,
    lock_shelf,
    path_of,
    remember_looks,
    set_rights,
    state_of,
)
from harnet.studio.pictures.reading import DEEPEST, Reading, read_picture, require_short

DEFAULT_SHELF = "My pictures"
_AT_ONCE = 20
"""After so many new pictures what was found is kept, so that the wall shows them."""
_COUNTED = "image_count"
"""The fact that older rows of vector pictures lack."""


def shelf_named(studio: Studio, session: Session, name: str) -> Shelf:
    """The shelf of that name; made, with its folder, if there is none yet."""
    known = select(Shelf).where(Shelf.name == name)
    shelf = session.scalars(known).first()
    if shelf is None:
        folder = IN_STORE
        if not studio.settings.shelves_in_store:
            path = studio.settings.shelves_folder / safe_file_name(name)
            path.mkdir(parents=True, exist_ok=True)
            folder = str(path)
        # Of two who make it at once, one does, and both have it.
        row = insert(Shelf).values(name=name, folder=folder)
        session.execute(row.on_conflict_do_nothing(index_elements=["name"]))
        shelf = session.scalars(known).one()
    return shelf


def have_default_shelf(studio: Studio) -> None:
    """Sees to it that there is a shelf to put pictures on, in a transaction of its own.

    Made along with a picture, everybody who looks for it would wait until that is taken in.
    """
    with studio.session() as session:
        shelf_named(studio, session, DEFAULT_SHELF)


def all_shelves(session: Session) -> list[Shelf]:
    """Every shelf that whoever is at work may see, by name."""
    seen = select(Shelf).where(is_seen(Shelf.group_id))
    return list(session.scalars(seen.order_by(Shelf.name)))


def every_shelf(session: Session) -> list[Shelf]:
    """Every shelf, seen or not: names and folders are the studio's, and taken once."""
    return list(session.scalars(select(Shelf).order_by(Shelf.name)))


def own_shelves(studio: Studio, session: Session) -> list[Shelf]:
    """The shelves that Harnet keeps itself, where pictures may be put; there is always one."""
    shelf_named(studio, session, DEFAULT_SHELF)
    return [shelf for shelf in all_shelves(session) if not shelf.is_watched]


def counts_of_shelves(session: Session) -> dict[int, int]:
    """How many pictures each shelf holds."""
    rows = session.execute(select(Picture.shelf_id, func.count()).group_by(Picture.shelf_id))
    return {row[0]: row[1] for row in rows if row[0] is not None}


def shelf_with(session: Session, shelf_id: int) -> Shelf:
    """The shelf of that number.

    Raises:
        NotThere: there is none.
    """
    shelf = session.get(Shelf, shelf_id)
    if shelf is None or not sees(shelf.group_id):
        raise NotThere("This shelf is no longer watched.")
    return shelf


def import_folder(session: Session, shelf: Shelf) -> list[UnreadableFile]:
    """Reads the headers of a shelf's files that are not known yet; previews come later.

    Returns what went wrong, file by file.

    Raises:
        OSError: the folder is not there.
    """
    failures: list[UnreadableFile] = []
    lock_shelf(session, shelf)
    for reading in _readings(session, shelf):
        try:
            reading(session, shelf)
        except UnreadableFile as error:
            failures.append(error)
    session.flush()
    return failures


def _readings(session: Session, shelf: Shelf) -> Iterator[Reading]:
    """What is to be read of a shelf, hidden files left out.

    Raises:
        OSError: its folder is not there, or its bucket does not answer.
    """
    if is_bucket(shelf.folder):
        yield from readings_of_bucket(session, shelf)
        return
    known = set(session.scalars(select(Picture.file_name).where(Picture.shelf_id == shelf.id)))
    folder = Path(shelf.folder)
    for path in _files_below(folder, DEEPEST):
        if str(path.relative_to(folder)) not in known:
            yield partial(_add, path=path)


def _files_below(folder: Path, deepest: int) -> Iterator[Path]:
    """Files folder by folder; links to folders are not followed, so that none leads in circles."""
    inner = []
    for path in sorted(folder.iterdir()):
        if path.name.startswith("."):
            continue
        if path.is_dir() and not path.is_symlink():
            inner.append(path)
        elif path.is_file():
            yield path
    for one in inner if deepest > 0 else ():
        try:
            yield from _files_below(one, deepest - 1)
        except OSError:
            # A folder that may not be read hides its own files and no others.
            continue


def _add(session: Session, shelf: Shelf, path: Path) -> int:
    """A picture by its header; a file that changes while it is read is left for the next time.

    Returns 1, for it is new.

    Raises:
        UnreadableFile: it changed while it was read, or its name with its folders is too long.
    """
    name = str(path.relative_to(shelf.folder))
    require_short(name)
    try:
        before = path.stat()
        sha256 = sha256_of(path)
        facts = facts_apart(path, path.name)
        after = path.stat()
    except OSError as error:
        reason = (error.strerror or str(error)).lower()
        raise UnreadableFile(path.name, f"it could not be read ({reason})") from None
    if (before.st_size, before.st_mtime_ns) != (after.st_size, after.st_mtime_ns):
        raise UnreadableFile(
            path.name, "it changed while it was read", "It is read again at the next check"
        )
    session.add(read_picture(shelf, name, sha256, facts, after.st_size, after.st_mtime_ns))
    return 1


@dataclass(frozen=True, slots=True)
class ShelfCheck:
    """What a look at a shelf's folder found."""

    shelf_name: str
    new_count: int
    failures: tuple[str, ...]


def look_at_shelves(studio: Studio) -> list[ShelfCheck]:
    """Reads every shelf's folder; what is found is kept bit by bit, so that it shows at once.

    A folder that vanished is told; its pictures stay known.
    """
    with studio.session() as session:
        shelves = every_shelf(session)
        # What lies in the store came through Harnet, and is known.
        shelf_ids = [shelf.id for shelf in shelves if not is_in_store(shelf)]
    return [_look(studio, shelf_id) for shelf_id in shelf_ids]


def _look(studio: Studio, shelf_id: int) -> ShelfCheck:
    new, failures = 0, []
    with studio.session() as session:
        shelf = shelf_with(session, shelf_id)
        name, folder = shelf.name, shelf.folder
    try:
        with studio.session() as session:
            readings = list(_readings(session, shelf_with(session, shelf_id)))
    except StoreAway as error:
        readings = []
        failures.append(f"{name}: {error}. Its pictures stay known; it is asked again soon.")
    except OSError:
        readings = []
        failures.append(
            f"{name}: the folder {folder} no longer exists. Its pictures stay known; restore"
            " it and check again."
        )
    for start in range(0, len(readings), _AT_ONCE):
        with studio.session() as session:
            shelf = shelf_with(session, shelf_id)
            for reading in readings[start : start + _AT_ONCE]:
                try:
                    new += reading(session, shelf)
                except UnreadableFile as error:
                    failures.append(str(error))
    _complete_facts(studio, shelf_id)
    with studio.session() as session:
        shelf = shelf_with(session, shelf_id)
        shelf.is_being_read, shelf.read_at = False, now_utc()
        shelf.new_count, shelf.failures = new, failures
    return ShelfCheck(name, new, tuple(failures))


def _complete_facts(studio: Studio, shelf_id: int) -> None:
    """Reads vector pictures again whose facts are from before images inside them were counted.

    Pages that place one are judged again then.
    """
    with studio.session() as session:
        vectors = select(Picture.id, Picture.facts).where(
            Picture.shelf_id == shelf_id, Picture.facts["kind"].as_string() == Kind.VECTOR.value
        )
        older = [number for number, facts in session.execute(vectors) if _COUNTED not in facts]
    for number in older:
        with studio.session() as session:
            picture = session.get(Picture, number)
            if picture is None or state_of(picture) is not FileState.IN_PLACE:
                continue
            try:
                picture.facts = facts_as_values(facts_apart(path_of(picture), picture.file_name))
            except UnreadableFile as error:
                picture.facts = {**picture.facts, _COUNTED: 0}
                picture.failure = str(error)


def clear_previews(studio: Studio, session: Session) -> None:
    """Throws every cached preview away; the worker makes them again."""
    studio.blobs.clear_previews()
    for picture in session.scalars(select(Picture)):
        picture.is_previewed = False


def want_preview(session: Session, sha256: str) -> bool:
    """Marks pictures of a content as waiting for their previews; whether there are any."""
    pictures = session.scalars(select(Picture).where(Picture.sha256 == sha256)).all()
    waiting = [picture for picture in pictures if picture.failure is None]
    for picture in waiting:
        picture.is_previewed = False
    return bool(waiting)


def make_waiting_previews(studio: Studio) -> int:
    """Makes the previews of pictures that were imported by their headers; returns how many.

    Each picture is a transaction of its own. One whose pixels are damaged keeps that failure.
    """
    with studio.session() as session:
        waiting = list(session.scalars(select(Picture.id).where(~Picture.is_previewed)))
    for picture_id in waiting:
        with studio.session() as session:
            picture = session.get(Picture, picture_id)
            if picture is None or picture.is_previewed:
                continue
            path, shown, sha256 = source_file(studio, picture), picture.file_name, picture.sha256
        failure, examined = None, None
        try:
            if path is not None:
                examined = examined_with_previews(studio, path, shown, sha256)
        except UnreadableFile as error:
            failure = str(error)
        with studio.session() as session:
            picture = session.get(Picture, picture_id)
            if picture is None:
                continue
            picture.is_previewed, picture.failure = True, failure
            if examined is not None:
                remember_looks(picture, examined)
                if not picture.licence:
                    set_rights(picture, examined.rights)
    return len(waiting)
