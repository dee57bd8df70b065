"""Where a placed picture's bytes live: linked to a shelf, carried in the job, or loose."""

from dataclasses import replace
from pathlib import Path
from typing import IO

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.core.pictures.picture import facts_as_values
from harnet.core.preflight.subject import FileState
from harnet.store.blobs import sha256_of
from harnet.store.history import recorded
from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.pictures import Picture, Shelf
from harnet.studio.common.errors import Refused
from harnet.studio.common.studio import Studio
from harnet.studio.layout.placed import placement_of, write_placement
from harnet.studio.layout.placing import name_of, new_picture_item
from harnet.studio.people.quotas import require_room
from harnet.studio.pictures.importing import examined_with_previews, import_picture, received_file
from harnet.studio.pictures.picture import (
    path_of,
    remember_file,
    remember_looks,
    set_rights,
    source_of,
    state_of,
)

LINKED, CARRIED, LOOSE = "linked", "carried", "loose"


def file_of(studio: Studio, item: Item) -> Path | None:
    """The file to draw a placed picture from; None where it is missing or changed."""
    assert item.picture is not None
    if item.holding != LINKED:
        return studio.blobs.file(item.picture.sha256, studio.settings.scratch_folder)
    is_in_place = state_of(item.picture) is FileState.IN_PLACE
    return path_of(item.picture) if is_in_place else None


def carry(studio: Studio, session: Session, job: Job, item: Item) -> None:
    """Keeps the picture's bytes with the job from now on.

    Raises:
        Refused: the file is not there, or no longer the one that was placed.
    """
    picture = _picture_of(item)
    if item.holding != LINKED:
        raise Refused(f"{picture.file_name} is {item.holding} already.")
    state = state_of(picture)
    if state is not FileState.IN_PLACE:
        raise Refused(f"{picture.file_name} is {state.value}, so it cannot be carried.")
    with recorded(session, job, f"Carry {picture.file_name}"):
        hold(studio, item)


def hold(studio: Studio, item: Item) -> None:
    """Keeps the bytes behind an item, as part of an edit that the caller records."""
    studio.blobs.put_file(path_of(_picture_of(item)))
    item.holding = CARRIED


def save_to_shelf(studio: Studio, session: Session, job: Job, item: Item, shelf: Shelf) -> Picture:
    """Writes a carried or loose picture to a shelf and links it there.

    Raises:
        Refused: it is linked already, or its bytes are gone.
        UnreadableFile: the shelf cannot take it.
    """
    picture = _picture_of(item)
    if item.holding == LINKED:
        raise Refused(f"{picture.file_name} is on a shelf already.")
    if shelf.is_watched:
        raise Refused(
            f"{shelf.name} is a watched folder, which Harnet never writes to; choose one of"
            " Harnet's own shelves."
        )
    path = file_of(studio, item)
    if path is None:
        raise Refused(f"{picture.file_name} is no longer stored.")
    with path.open("rb") as file:
        out = import_picture(studio, session, shelf, picture.file_name, file)
    with recorded(session, job, f"Save {picture.file_name} to a shelf"):
        item.picture, item.picture_id, item.holding = out, out.id, LINKED
    return out


def paste_picture(
    studio: Studio, session: Session, job: Job, page: Page, name: str, stream: IO[bytes]
) -> Item:
    """Places a picture that has no file: its bytes are kept with the job, its source is unknown.

    Raises:
        UnreadableFile: it is no usable picture; nothing of it stays.
    """
    require_room(session)
    with received_file(studio, name, stream) as (shown, path):
        sha256 = sha256_of(path)
        known = select(Picture).where(Picture.shelf_id.is_(None), Picture.sha256 == sha256)
        picture = session.scalars(known).first()
        if picture is None:
            examined = examined_with_previews(studio, path, shown, sha256)
            picture = Picture(
                shelf_id=None,
                file_name=shown,
                sha256=sha256,
                facts=facts_as_values(examined.facts),
                size_bytes=path.stat().st_size,
                modified_ns=0,
                file_state=LOOSE,
            )
            set_rights(picture, examined.rights)
            remember_looks(picture, examined)
            session.add(picture)
            session.flush()
        studio.blobs.put_file(path)
    with recorded(session, job, f"Paste {picture.file_name}"):
        item = new_picture_item(page, picture)
        item.holding = LOOSE
        session.add(item)
    session.expire(page, ["items"])
    return item


def update_changed(studio: Studio, session: Session, item: Item) -> int:
    """Reads a changed file again; every placement of it keeps its frame and its drawn size.

    Returns how many placements there are, over all jobs.

    Raises:
        Refused: the file is missing, or as it was.
        UnreadableFile: the file is no usable picture any longer; nothing is changed.
    """
    picture = _picture_of(item)
    if item.holding != LINKED or state_of(picture) is not FileState.CHANGED:
        raise Refused(f"{picture.file_name} has not changed; there is nothing to update.")
    path = path_of(picture)
    sha256 = sha256_of(path)
    examined = examined_with_previews(studio, path, picture.file_name, sha256)
    before = {
        one: placement_of(one)
        for one in session.scalars(
            select(Item).where(Item.picture_id == picture.id, Item.holding == LINKED)
        )
    }
    picture.sha256, picture.facts = sha256, facts_as_values(examined.facts)
    picture.failure, picture.file_state = None, FileState.IN_PLACE.value
    remember_looks(picture, examined)
    remember_file(picture)
    source = source_of(picture)
    for one, placement in before.items():
        width, height = placement.drawn_size_pt
        content = replace(
            placement.content, scale_x=width / source.px_w, scale_y=height / source.px_h
        )
        # Not an edit that undo could take back: the bytes from before are gone.
        write_placement(one, replace(placement, source=source, content=content))
    session.flush()
    return len(before)


def _picture_of(item: Item) -> Picture:
    if item.picture is None:
        raise Refused(f"There is no picture in this {name_of(item)}.")
    return item.picture
