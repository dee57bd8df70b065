"""Taking files onto shelves: whole, once, and only when they proved to be usable pictures."""

import os
import tempfile
import unicodedata
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from itertools import count
from pathlib import Path, PurePath
from typing import IO

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.core.measure.wording import bytes_text
from harnet.core.pictures.picture import facts_as_values
from harnet.core.pictures.rights import Rights
from harnet.core.preflight.subject import FileState
from harnet.media.errors import UnreadableFile
from harnet.media.limits import MAX_FILE_BYTES
from harnet.media.pixels.examination import ExaminedPicture, examine
from harnet.media.pixels.likeness import likeness_of
from harnet.media.pixels.previews import preview_name
from harnet.store.blobs import sha256_of, write_whole
from harnet.store.tables.pictures import Picture, Shelf
from harnet.studio.common.activity import add_detail
from harnet.studio.common.errors import Refused
from harnet.studio.common.studio import Studio
from harnet.studio.people.quotas import require_room
from harnet.studio.pictures.picture import (
    files_in_store,
    is_in_store,
    lock_shelf,
    path_of,
    remember_file,
    remember_looks,
    set_rights,
    state_of,
)

_LONGEST_NAME, _MOST_CHARACTERS, _LONGEST_ENDING = 180, 120, 8
"""Bytes of a name; a number may come behind it, and 255 is what file systems take."""


def safe_file_name(name: str) -> str:
    """A name as a file's name: no folders, no control characters, not hidden, not too long."""
    plain = PurePath(name.replace("\\", "/")).name
    plain = "".join(
        char if unicodedata.category(char)[0] != "C" and char not in '/:*?"<>|' else "-"
        for char in unicodedata.normalize("NFC", plain)
    ).strip(" .")
    stem, dot, ending = plain.rpartition(".")
    if dot and len(ending.encode()) <= _LONGEST_ENDING:
        return f"{_cut(stem, len(ending.encode()) + 1) or 'unnamed'}.{ending}"
    return _cut(plain) or "unnamed"


def _cut(text: str, behind: int = 0) -> str:
    """As much of a name as fits, in whole characters, with so many bytes behind it.

    File systems and columns count bytes; marks stay with the letters that they stand on.
    """
    text = text[: _MOST_CHARACTERS - behind]
    is_cut = False
    while len(text.encode()) > _LONGEST_NAME - behind:
        text, is_cut = text[:-1], True
    while is_cut and text and unicodedata.combining(text[-1]):
        text = text[:-1]
    return text.rstrip(" .")


@contextmanager
def received_file(studio: Studio, name: str, stream: IO[bytes]) -> Iterator[tuple[str, Path]]:
    """What came from the browser, as a safe name and a file that is gone on leaving.

    Raises:
        UnreadableFile: it is larger than the limit.
    """
    shown = safe_file_name(name)
    with tempfile.TemporaryDirectory(dir=studio.settings.scratch_folder) as folder:
        try:
            path = write_whole(stream, Path(folder), MAX_FILE_BYTES)
        except OverflowError:
            raise UnreadableFile(shown, "it is larger than the limit") from None
        yield shown, path


def import_picture(
    studio: Studio,
    session: Session,
    shelf: Shelf,
    name: str,
    stream: IO[bytes],
    rights: Rights | None = None,
) -> Picture:
    """Puts a file onto a shelf once it proved to be a usable picture.

    A file whose bytes are on the shelf already is that picture, not a second one; another file
    of the same name gets a number behind its name. `rights` are what the giver says of them;
    without, what the file itself says counts.

    Raises:
        UnreadableFile: the file cannot be used; nothing of it stays.
        Refused: the shelf's folder is not there.
    """
    require_room(session)
    shown = safe_file_name(name)
    in_store = is_in_store(shelf)
    folder = studio.settings.scratch_folder if in_store else Path(shelf.folder)
    if not folder.is_dir():
        raise Refused(f"{shown} was not saved: the folder of {shelf.name} no longer exists.")
    try:
        part = write_whole(stream, folder, MAX_FILE_BYTES)
    except OverflowError:
        limit = bytes_text(MAX_FILE_BYTES)
        raise UnreadableFile(shown, f"the file is larger than {limit}, the limit") from None
    except OSError as error:
        reason = (error.strerror or str(error)).lower()
        raise UnreadableFile(shown, f"the file could not be saved ({reason})") from None
    try:
        sha256 = sha256_of(part)
        same = _same_on(session, shelf, sha256)
        if same is not None and path_of(same).exists():
            return same
        examined = examined_with_previews(studio, part, shown, sha256)
        if same is not None:
            _keep(session, shelf, part, path_of(same))
            same.facts, same.failure = facts_as_values(examined.facts), None
            remember_looks(same, examined)
            remember_file(same)
            return same
        return _put(session, shelf, part, shown, sha256, examined, rights)
    finally:
        part.unlink(missing_ok=True)


def _same_on(session: Session, shelf: Shelf, sha256: str) -> Picture | None:
    same = select(Picture).where(Picture.shelf_id == shelf.id, Picture.sha256 == sha256)
    return session.scalars(same).first()


def numbered(name: str) -> Iterator[str]:
    """A file's name, then the same with a number behind it, for as long as the name is taken."""
    yield name
    stem, dot, ending = name.rpartition(".")
    for number in count(2):
        yield f"{stem} {number}.{ending}" if dot else f"{name} {number}"


def _keep(session: Session, shelf: Shelf, part: Path, path: Path) -> None:
    """Puts a finished file where a shelf keeps its files; on a folder it overwrites none.

    Raises:
        FileExistsError: a file lies there.
    """
    if is_in_store(shelf):
        files_in_store(session).blobs.put_file(part)
        return
    os.link(part, path)
    path.chmod(0o644)


def _put(
    session: Session,
    shelf: Shelf,
    part: Path,
    shown: str,
    sha256: str,
    examined: ExaminedPicture,
    rights: Rights | None,
) -> Picture:
    """Links the finished file into the shelf under a free name; a hard link never overwrites."""
    lock_shelf(session, shelf)
    same = _same_on(session, shelf, sha256)
    if same is not None and path_of(same).exists():
        # It came in a second time while its pixels were looked at.
        return same
    taken = select(Picture.file_name).where(Picture.shelf_id == shelf.id)
    names = set(session.scalars(taken)) if is_in_store(shelf) else set()
    for name in numbered(shown):
        try:
            if name not in names:
                _keep(session, shelf, part, Path(shelf.folder) / name)
                break
        except FileExistsError:
            continue
    picture = Picture(
        shelf=shelf, file_name=name, sha256=sha256, facts=facts_as_values(examined.facts)
    )
    set_rights(picture, rights or examined.rights)
    remember_looks(picture, examined)
    session.add(picture)
    remember_file(picture)
    session.flush()
    add_detail(session, name)
    return picture


def examined_with_previews(studio: Studio, path: Path, shown: str, sha256: str) -> ExaminedPicture:
    """Facts and rights of a file; its previews are kept.

    Raises:
        UnreadableFile: the file cannot be used.
    """
    with tempfile.TemporaryDirectory(dir=studio.settings.scratch_folder) as folder:
        examined = examine(path, shown, Path(folder))
        examined = replace(examined, likeness=likeness_of(examined.previews["light"]))
        for size, made in examined.previews.items():
            studio.blobs.put_preview(preview_name(sha256, size), made)
    return examined


def source_file(studio: Studio, picture: Picture) -> Path | None:
    """The file with the bytes that are known: on its shelf, or kept in a job; None without."""
    if state_of(picture) is FileState.IN_PLACE:
        return path_of(picture)
    return studio.blobs.file(picture.sha256, studio.settings.scratch_folder)
