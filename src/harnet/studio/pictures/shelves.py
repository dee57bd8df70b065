"""Shelves: folders of pictures, Harnet's own and watched ones, read again now and then."""

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import Text, cast, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from harnet.core.pictures.picture import Kind, facts_as_values
from harnet.core.pictures.rights import tidied
from harnet.core.preflight.subject import FileState
from harnet.media.errors import UnreadableFile
from harnet.media.facts.bounded_reading import facts_apart
from harnet.store.base import now_utc
from harnet.store.blobs import IN_STORE, sha256_of
from harnet.store.tables.copies import PrintCopy
from harnet.store.tables.jobs import Edit, Item
from harnet.store.tables.pictures import Picture, Shelf
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.common.studio import Studio
from harnet.studio.people.access import is_seen, sees
from harnet.studio.people.people import asks_for_names
from harnet.studio.pictures.importing import examined_with_previews, safe_file_name, source_file
from harnet.studio.pictures.picture import (
    is_in_store,
    lock_shelf,
    path_of,
    remember_looks,
    set_rights,
    state_of,
)

DEFAULT_SHELF = "My pictures"
_DEEPEST = 8
"""So many folders inside each other are read."""
_LONGEST_NAME = 255
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


def watch_folder(studio: Studio, session: Session, folder_text: str) -> Shelf:
    """A new shelf on a folder of this machine; its files stay where they are.

    Raises:
        Refused: no such folder, one that is a shelf already, or one below no root that is named.
    """
    text = folder_text.strip()
    if not text:
        raise Refused("Give the folder's path, such as /srv/pictures.")
    folder = Path(text).expanduser()
    if not folder.is_absolute():
        raise Refused(f"“{text}” is not a full path; begin it with /.")
    folder = folder.resolve()
    if not folder.is_dir():
        raise Refused(f"There is no folder {folder} on this machine.")
    data = studio.settings.data_folder.resolve()
    if folder in (data, *data.parents) or data in folder.parents:
        raise Refused(f"{folder} holds Harnet's own data; watch another folder.")
    _require_named_root(studio, session, folder)
    for shelf in every_shelf(session):
        if Path(shelf.folder).resolve() == folder:
            raise Refused(f"{folder} is already watched, as {shelf.name}.")
    try:
        next(folder.iterdir(), None)
    except OSError:
        raise Refused(f"{folder} cannot be read; ask whoever administers this machine.") from None
    shelf = Shelf(name=_free_name(session, folder.name), folder=str(folder), is_watched=True)
    session.add(shelf)
    session.flush()
    return shelf


def _require_named_root(studio: Studio, session: Session, folder: Path) -> None:
    """Once people sign in, whoever runs Harnet names what of this machine they may read.

    Raises:
        Refused: it lies below none of what is named.
    """
    roots = [one.resolve() for one in studio.settings.shelf_roots]
    if not roots and not asks_for_names(session):
        return
    if not any(root == folder or root in folder.parents for root in roots):
        listed = ", ".join(map(str, roots)) or "none"
        raise Refused(
            f"{folder} may not be watched: whoever runs Harnet names the folders for that in"
            f" HARNET_SHELF_ROOTS ({listed} so far)."
        )


def _free_name(session: Session, wanted: str) -> str:
    taken = {shelf.name for shelf in every_shelf(session)}
    name, number = tidied(wanted)[:180] or "Folder", 1
    while name in taken:
        number += 1
        name = f"{wanted} {number}"
    return name


def shelf_with(session: Session, shelf_id: int) -> Shelf:
    """The shelf of that number.

    Raises:
        NotThere: there is none.
    """
    shelf = session.get(Shelf, shelf_id)
    if shelf is None or not sees(shelf.group_id):
        raise NotThere("This shelf is no longer watched.")
    return shelf


def stop_watching(session: Session, shelf: Shelf) -> None:
    """Forgets a watched folder and its pictures; the files stay as they are.

    Raises:
        Refused: one of Harnet's own shelves, or pictures of it are placed, or were.
    """
    if not shelf.is_watched:
        raise Refused(f"{shelf.name} is one of Harnet's own shelves and cannot be removed.")
    own = select(Picture.id).where(Picture.shelf_id == shelf.id)
    placed = session.scalar(select(func.count()).where(Item.picture_id.in_(own))) or 0
    if placed:
        raise Refused(
            f"{shelf.name} is still watched: its pictures are placed {placed} times. Remove"
            " them from their pages first."
        )
    if _is_remembered(session, [picture.id for picture in shelf.pictures]):
        raise Refused(
            f"{shelf.name} is still watched: its pictures are in the history of a job, where"
            " an undo may need them."
        )
    copies = select(PrintCopy).where(PrintCopy.picture_id.in_(own) | PrintCopy.made_id.in_(own))
    for copy in session.scalars(copies):
        session.delete(copy)
    session.flush()
    for picture in list(shelf.pictures):
        session.delete(picture)
    session.flush()
    session.delete(shelf)


def _is_remembered(session: Session, picture_ids: list[int]) -> bool:
    """Whether an edit of any job holds one of these pictures before or after."""
    if not picture_ids:
        return False
    numbers = "|".join(str(number) for number in picture_ids)
    mentions = cast(Edit.changes, Text).regexp_match(f'"picture_id": ({numbers})[,}}]')
    return session.scalars(select(Edit.id).where(mentions).limit(1)).first() is not None


def import_folder(session: Session, shelf: Shelf) -> list[UnreadableFile]:
    """Reads the headers of a shelf's files that are not known yet; previews come later.

    Returns what went wrong, file by file.

    Raises:
        OSError: the folder is not there.
    """
    failures: list[UnreadableFile] = []
    lock_shelf(session, shelf)
    for path in _unknown_files(session, shelf):
        try:
            _add(session, shelf, path)
        except UnreadableFile as error:
            failures.append(error)
    session.flush()
    return failures


def _unknown_files(session: Session, shelf: Shelf) -> Iterator[Path]:
    """Files in the shelf's folder and the folders inside it, hidden ones left out."""
    known = set(session.scalars(select(Picture.file_name).where(Picture.shelf_id == shelf.id)))
    folder = Path(shelf.folder)
    for path in _files_below(folder, _DEEPEST):
        if str(path.relative_to(folder)) not in known:
            yield path


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


def _add(session: Session, shelf: Shelf, path: Path) -> None:
    """A picture by its header; a file that changes while it is read is left for the next time.

    Raises:
        UnreadableFile: it changed while it was read, or its name with its folders is too long.
    """
    name = str(path.relative_to(shelf.folder))
    if len(name) > _LONGEST_NAME:
        raise UnreadableFile(path.name, "its name with its folders is too long")
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
    session.add(
        Picture(
            shelf=shelf,
            file_name=name,
            sha256=sha256,
            facts=facts_as_values(facts),
            size_bytes=after.st_size,
            modified_ns=after.st_mtime_ns,
            is_previewed=False,
        )
    )


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
            paths = list(_unknown_files(session, shelf_with(session, shelf_id)))
    except OSError:
        paths = []
        failures.append(
            f"{name}: the folder {folder} no longer exists. Its pictures stay known; restore"
            " it and check again."
        )
    for start in range(0, len(paths), _AT_ONCE):
        with studio.session() as session:
            shelf = shelf_with(session, shelf_id)
            for path in paths[start : start + _AT_ONCE]:
                try:
                    _add(session, shelf, path)
                    new += 1
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
