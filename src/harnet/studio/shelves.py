"""Pictures on shelves: taking files in, and how each stands."""

import os
import tempfile
import unicodedata
from collections.abc import Iterable
from pathlib import Path, PurePath
from typing import IO

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from harnet.core.picture import Facts, facts_as_row, facts_from_row
from harnet.core.placing import Source
from harnet.core.preflight.finding import FileState
from harnet.core.units import POINTS_PER_INCH
from harnet.core.wording import bytes_text
from harnet.media.errors import UnreadableFile
from harnet.media.examine import examine
from harnet.media.limits import MAX_FILE_BYTES
from harnet.media.previews import preview_name
from harnet.store.blobs import sha256_of, write_whole
from harnet.store.models import Item, Picture, Shelf
from harnet.studio.desk import Desk
from harnet.studio.errors import NotThere

DEFAULT_SHELF = "My pictures"
_LONGEST_NAME = 120


def shelf_named(desk: Desk, session: Session, name: str) -> Shelf:
    """The shelf of that name; made, with its folder, if there is none yet."""
    shelf = session.scalars(select(Shelf).where(Shelf.name == name)).first()
    if shelf is None:
        folder = desk.settings.shelves_folder / safe_file_name(name)
        folder.mkdir(parents=True, exist_ok=True)
        shelf = Shelf(name=name, folder=str(folder))
        session.add(shelf)
        session.flush()
    return shelf


def safe_file_name(name: str) -> str:
    """A name as a file's name: no folders, no control characters, not hidden, not too long."""
    plain = PurePath(name.replace("\\", "/")).name
    plain = "".join(
        char if unicodedata.category(char)[0] != "C" and char not in '/:*?"<>|' else "-"
        for char in unicodedata.normalize("NFC", plain)
    ).strip(" .")
    stem, dot, ending = plain.rpartition(".")
    if dot and len(ending) <= 8:
        return f"{stem[: _LONGEST_NAME - len(ending) - 1]}.{ending}"
    return plain[:_LONGEST_NAME] or "unnamed"


def take_in(desk: Desk, session: Session, shelf: Shelf, name: str, stream: IO[bytes]) -> Picture:
    """Puts a file onto a shelf once it proved to be a usable picture.

    A file whose bytes are on the shelf already is that picture, not a second one; another file
    of the same name gets a number behind its name.

    Raises:
        UnreadableFile: the file cannot be used; nothing of it stays.
    """
    shown = safe_file_name(name)
    try:
        part = write_whole(stream, Path(shelf.folder), MAX_FILE_BYTES)
    except OverflowError:
        limit = bytes_text(MAX_FILE_BYTES)
        raise UnreadableFile(shown, f"the file is larger than {limit}, the limit") from None
    except OSError as error:
        reason = (error.strerror or str(error)).lower()
        raise UnreadableFile(shown, f"the file could not be kept ({reason})") from None
    try:
        sha256 = sha256_of(part)
        same = session.scalars(
            select(Picture).where(Picture.shelf_id == shelf.id, Picture.sha256 == sha256)
        ).first()
        if same is not None and path_of(same).exists():
            return same
        facts = _examined(desk, part, shown, sha256)
        if same is not None:
            os.link(part, path_of(same))
            _remember_file(same)
            return same
        return _put(session, shelf, part, shown, sha256, facts)
    finally:
        part.unlink(missing_ok=True)


def _put(
    session: Session, shelf: Shelf, part: Path, shown: str, sha256: str, facts: Facts
) -> Picture:
    """Links the finished file into the shelf under a free name; a hard link never overwrites."""
    stem, dot, ending = shown.rpartition(".")
    number = 1
    name = shown
    while True:
        try:
            os.link(part, Path(shelf.folder) / name)
            break
        except FileExistsError:
            number += 1
            name = f"{stem} {number}.{ending}" if dot else f"{shown} {number}"
    (Path(shelf.folder) / name).chmod(0o644)
    picture = Picture(shelf=shelf, file_name=name, sha256=sha256, facts=facts_as_row(facts))
    _remember_file(picture)
    session.add(picture)
    session.flush()
    return picture


def take_in_folder(desk: Desk, session: Session, shelf: Shelf) -> list[UnreadableFile]:
    """Reads the files in a shelf's folder that are not known yet; returns those it could not."""
    known = {picture.file_name for picture in shelf.pictures}
    troubles = []
    for path in sorted(Path(shelf.folder).iterdir()):
        if path.name in known or path.name.startswith(".") or not path.is_file():
            continue
        try:
            sha256 = sha256_of(path)
            facts = _examined(desk, path, path.name, sha256)
        except UnreadableFile as error:
            troubles.append(error)
            continue
        picture = Picture(
            shelf=shelf, file_name=path.name, sha256=sha256, facts=facts_as_row(facts)
        )
        _remember_file(picture)
        session.add(picture)
    session.flush()
    return troubles


def read_shelves_again(desk: Desk, session: Session) -> tuple[int, list[UnreadableFile]]:
    """Reads every shelf's folder; returns how many pictures are new, and what went wrong.

    A folder that vanished is told like a file that cannot be read; its pictures stay known.
    """
    before = session.scalar(select(func.count()).select_from(Picture)) or 0
    troubles: list[UnreadableFile] = []
    for shelf in session.scalars(select(Shelf)):
        try:
            troubles += take_in_folder(desk, session, shelf)
        except OSError:
            troubles.append(
                UnreadableFile(
                    shelf.name, "the shelf's folder is not there any more", "Bring it back"
                )
            )
    after = session.scalar(select(func.count()).select_from(Picture)) or 0
    return after - before, troubles


def _examined(desk: Desk, path: Path, shown: str, sha256: str) -> Facts:
    with tempfile.TemporaryDirectory(dir=desk.settings.scratch_folder) as folder:
        examined = examine(path, shown, Path(folder))
        for size, made in examined.previews.items():
            desk.blobs.put_preview(preview_name(sha256, size), made)
    return examined.facts


def _remember_file(picture: Picture) -> None:
    status = path_of(picture).stat()
    picture.size_bytes, picture.modified_ns = status.st_size, status.st_mtime_ns


def path_of(picture: Picture) -> Path:
    """Where the picture's file lies, or lay."""
    return Path(picture.shelf.folder) / picture.file_name


def state_of(picture: Picture) -> FileState:
    """How the picture's file stands, by its presence, size and time, then by its content."""
    try:
        status = path_of(picture).stat()
    except OSError:
        return FileState.MISSING
    if (status.st_size, status.st_mtime_ns) == (picture.size_bytes, picture.modified_ns):
        return FileState.IN_PLACE
    is_same = sha256_of(path_of(picture)) == picture.sha256
    return FileState.IN_PLACE if is_same else FileState.CHANGED


def facts_of_picture(picture: Picture) -> Facts:
    """The facts as they were read."""
    return facts_from_row(picture.facts)


def source_of(picture: Picture) -> Source:
    """What placing needs to know of a picture."""
    facts = facts_of_picture(picture)
    if facts.px_w is None or facts.px_h is None:
        width, height = facts.width_pt or POINTS_PER_INCH, facts.height_pt or POINTS_PER_INCH
        return Source(width, height, is_vector=True)
    is_bilevel = facts.colour.value == "bilevel"
    return Source(facts.px_w, facts.px_h, facts.density_x, facts.density_y, is_bilevel=is_bilevel)


def all_pictures(session: Session) -> list[Picture]:
    """Every picture on every shelf, latest first."""
    return list(session.scalars(select(Picture).order_by(Picture.id.desc())))


def picture_with(session: Session, picture_id: int) -> Picture:
    """The picture of that number.

    Raises:
        NotThere: there is none.
    """
    picture = session.get(Picture, picture_id)
    if picture is None:
        raise NotThere("This picture is not on a shelf any more.")
    return picture


def times_placed(session: Session, picture_ids: Iterable[int]) -> dict[int, int]:
    """How often each picture is placed, over all jobs."""
    rows = session.execute(
        select(Item.picture_id, func.count())
        .where(Item.picture_id.in_(list(picture_ids)))
        .group_by(Item.picture_id)
    )
    return {picture_id: count for picture_id, count in rows if picture_id is not None}
