"""Keeping order on Harnet's own shelves: new ones, names, moving pictures, removing and undoing."""

import shutil
from itertools import count
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.core.pictures.rights import tidied
from harnet.core.preflight.subject import FileState
from harnet.store.tables.pictures import Picture, Shelf
from harnet.studio.common.activity import add_detail
from harnet.studio.common.errors import Refused
from harnet.studio.common.studio import Studio
from harnet.studio.pictures.picture import (
    REMOVED_SHELF,
    files_in_store,
    is_in_store,
    lock_shelf,
    path_of,
    state_of,
)
from harnet.studio.pictures.shelves import (
    DEFAULT_SHELF,
    every_shelf,
    shelf_named,
)


def new_shelf(studio: Studio, session: Session, name: str) -> Shelf:
    """A shelf of Harnet's own.

    Raises:
        Refused: no name, or one that a shelf has already.
    """
    wanted = _name_free(session, name)
    add_detail(session, wanted)
    return shelf_named(studio, session, wanted)


def rename_shelf(session: Session, shelf: Shelf, name: str) -> None:
    """Gives a shelf another name; its folder and its pictures stay where they are.

    Raises:
        Refused: a shelf that Harnet names itself, no name, or one that another shelf has.
    """
    _require_own_name(shelf)
    if tidied(name) != shelf.name:
        shelf.name = _name_free(session, name)


def remove_shelf(session: Session, shelf: Shelf) -> None:
    """Removes an empty shelf of Harnet's own.

    Raises:
        Refused: a watched folder, a shelf that Harnet names itself, or one that holds pictures.
    """
    if shelf.is_watched:
        raise Refused(f"{shelf.name} is a watched folder; stop watching it instead.")
    _require_own_name(shelf)
    if shelf.pictures:
        raise Refused(f"{shelf.name} still holds pictures; move them to another shelf first.")
    folder = None if is_in_store(shelf) else Path(shelf.folder)
    add_detail(session, shelf.name)
    session.delete(shelf)
    session.flush()
    if folder is not None and folder.is_dir() and not any(folder.iterdir()):
        folder.rmdir()


def move_picture(session: Session, picture: Picture, shelf: Shelf) -> None:
    """Moves a picture with its file; wherever it is placed it stays linked.

    Raises:
        Refused: one of the shelves is a watched folder, or the file is not in place.
    """
    before = picture.shelf
    if before is None:
        raise Refused(f"{picture.file_name} was pasted into a job and is on no shelf.")
    if before.id == shelf.id:
        return
    for one in (before, shelf):
        if one.is_watched:
            raise Refused(
                f"{one.name} is a watched folder, which Harnet never changes; move the file there"
                " yourself."
            )
    state = state_of(picture)
    if state is not FileState.IN_PLACE:
        raise Refused(f"The file of {picture.file_name} is {state.value}, so it was not moved.")
    lock_shelf(session, shelf)
    path = path_of(picture)
    goal = _free_path(session, shelf, Path(picture.file_name).name)
    if is_in_store(before) or is_in_store(shelf):
        _move_by_content(session, path, before, shelf, goal)
    else:
        goal.parent.mkdir(parents=True, exist_ok=True)
        shutil.move(path, goal)
    picture.shelf, picture.shelf_id, picture.file_name = shelf, shelf.id, goal.name


def _move_by_content(session: Session, path: Path, before: Shelf, shelf: Shelf, goal: Path) -> None:
    """Between shelves of which one at least has its files in the store."""
    if not is_in_store(shelf):
        goal.parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(path, goal)
    elif not is_in_store(before):
        files_in_store(session).blobs.put_file(path)
        path.unlink()


def remove_picture(studio: Studio, session: Session, picture: Picture) -> Shelf:
    """Puts a picture on the shelf of removed ones; returns the shelf that it was on, for an undo.

    Raises:
        Refused: it cannot be moved; the text says why.
    """
    before = picture.shelf
    move_picture(session, picture, shelf_named(studio, session, REMOVED_SHELF))
    assert before is not None
    return before


def _free_path(session: Session, shelf: Shelf, name: str) -> Path:
    taken = set(session.scalars(select(Picture.file_name).where(Picture.shelf_id == shelf.id)))
    stem, ending = Path(name).stem, Path(name).suffix
    for number in count(1):
        wanted = name if number == 1 else f"{stem} {number}{ending}"
        path = Path(shelf.folder) / wanted
        if wanted not in taken and (is_in_store(shelf) or not path.exists()):
            return path
    raise AssertionError("count never ends")


def _name_free(session: Session, name: str) -> str:
    wanted = tidied(name)[:180]
    if not wanted:
        raise Refused("Give the shelf a name.")
    if any(shelf.name.lower() == wanted.lower() for shelf in every_shelf(session)):
        raise Refused(f"There is a shelf named {wanted} already.")
    return wanted


def _require_own_name(shelf: Shelf) -> None:
    if shelf.name in (DEFAULT_SHELF, REMOVED_SHELF):
        raise Refused(f"{shelf.name} is always there and keeps its name.")
