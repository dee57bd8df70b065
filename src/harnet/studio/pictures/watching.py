"""Watched folders, of this machine or of a bucket: begun and ended."""

from pathlib import Path

from sqlalchemy import Text, cast, func, select
from sqlalchemy.orm import Session

from harnet.core.pictures.rights import tidied
from harnet.store.bucket_folder import is_bucket
from harnet.store.tables.copies import PrintCopy
from harnet.store.tables.jobs import Edit, Item
from harnet.store.tables.pictures import Picture, Shelf
from harnet.studio.common.errors import Refused
from harnet.studio.common.studio import Studio
from harnet.studio.people.people import asks_for_names
from harnet.studio.pictures.buckets import bucket_meant, require_bucket
from harnet.studio.pictures.shelves import every_shelf


def watch_folder(studio: Studio, session: Session, folder_text: str) -> Shelf:
    """A new shelf on a folder of this machine or of a bucket; its files stay where they are.

    Raises:
        Refused: no such folder or bucket, one that is a shelf already, one with Harnet's own
            data, or one below no root that is named.
    """
    text = folder_text.strip()
    if not text:
        raise Refused("Give the folder's path, such as /srv/pictures or s3://studio/photographs.")
    folder = bucket_meant(text) if is_bucket(text) else _folder_meant(studio, text)
    own = studio.settings.store_url.rstrip("/")
    if is_bucket(own) and (_is_below(own, folder) or _is_below(folder, own)):
        raise Refused(f"{folder} holds Harnet's own data; watch another folder.")
    _require_named_root(studio, session, folder)
    for shelf in every_shelf(session):
        if shelf.folder == folder or (
            not is_bucket(folder) and str(Path(shelf.folder).resolve()) == folder
        ):
            raise Refused(f"{folder} is already watched, as {shelf.name}.")
    if is_bucket(folder):
        require_bucket(session, folder)
    else:
        _require_readable(folder)
    name = _free_name(session, folder.rpartition("/")[2])
    shelf = Shelf(name=name, folder=folder, is_watched=True)
    session.add(shelf)
    session.flush()
    return shelf


def _folder_meant(studio: Studio, text: str) -> str:
    """A folder of this machine as a shelf keeps it.

    Raises:
        Refused: no full path, no folder, or one with Harnet's own data.
    """
    folder = Path(text).expanduser()
    if not folder.is_absolute():
        raise Refused(f"“{text}” is not a full path; begin it with / or s3://.")
    folder = folder.resolve()
    if not folder.is_dir():
        raise Refused(f"There is no folder {folder} on this machine.")
    data = studio.settings.data_folder.resolve()
    if folder in (data, *data.parents) or data in folder.parents:
        raise Refused(f"{folder} holds Harnet's own data; watch another folder.")
    return str(folder)


def _require_readable(folder: str) -> None:
    try:
        next(Path(folder).iterdir(), None)
    except OSError:
        raise Refused(f"{folder} cannot be read; ask whoever administers this machine.") from None


def _is_below(folder: str, root: str) -> bool:
    return folder == root or folder.startswith(f"{root}/")


def _require_named_root(studio: Studio, session: Session, folder: str) -> None:
    """Once people sign in, whoever runs Harnet names what of this machine they may read.

    Raises:
        Refused: it lies below none of what is named.
    """
    named = studio.settings.shelf_roots
    if not named and not asks_for_names(session):
        return
    roots = [one if is_bucket(one) else str(Path(one).resolve()) for one in named]
    if not any(_is_below(folder, root.rstrip("/")) for root in roots):
        listed = ", ".join(roots) or "none"
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
