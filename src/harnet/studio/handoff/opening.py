"""Opening a handoff pack: its pictures come onto a shelf of their own, its pages become a job."""

import shutil
import tempfile
from pathlib import Path
from typing import IO, Any

from sqlalchemy.orm import Session

from harnet.core.errors import ValueOutOfRange
from harnet.core.target import checked_target
from harnet.core.targetlist import target_named
from harnet.core.targetvalues import target_as_values, target_from_values
from harnet.media.errors import UnreadableFile
from harnet.store.base import now_utc
from harnet.store.models import Item, Job, Page, Picture
from harnet.store.outputmodels import PackOpening
from harnet.studio.desk import Desk
from harnet.studio.errors import NotThere, Refused
from harnet.studio.handoff.jobfile import (
    FrameEntry,
    ItemEntry,
    JobFile,
    PlacedEntry,
    TextEntry,
)
from harnet.studio.handoff.reading import Pack, job_in, opened_zip, placement_in, read_pack
from harnet.studio.pictures import source_of
from harnet.studio.placed import FRAME, PICTURE, write_placement
from harnet.studio.progress import DONE, FAILED, RUNNING, WORKING, Cancelled
from harnet.studio.shelves import shelf_named
from harnet.studio.takein import handed_in, take_in
from harnet.studio.targetfiles import TargetEntry


def keep_pack(desk: Desk, session: Session, name: str, stream: IO[bytes]) -> PackOpening:
    """Takes a pack from the browser; the worker opens it.

    Raises:
        UnreadableFile: it is no pack; nothing of it stays.
    """
    with handed_in(desk, name, stream) as (shown, path):
        with opened_zip(path, shown) as pack:
            job = job_in(pack, shown)
        sha256 = desk.blobs.put_file(path)
    opening = PackOpening(file_name=shown, title=job.title, sha256=sha256)
    session.add(opening)
    session.flush()
    return opening


def opening_with(session: Session, opening_id: int) -> PackOpening:
    """The opening of that number.

    Raises:
        NotThere: there is none.
    """
    opening = session.get(PackOpening, opening_id)
    if opening is None:
        raise NotThere("Nothing is being opened under this number.")
    return opening


def open_pack(desk: Desk, opening_id: int) -> None:
    """Makes the job of a pack; the worker calls this. The job appears whole or not at all."""
    with desk.session() as session:
        opening = session.get(PackOpening, opening_id)
        if opening is None or opening.state not in RUNNING:
            return
        opening.state = WORKING
        sha256, name = opening.sha256, opening.file_name
    folder = Path(tempfile.mkdtemp(dir=desk.settings.scratch_folder))
    try:
        path = folder / "pack.zip"
        desk.blobs.copy_to(sha256, path)
        pack = read_pack(path, name, folder)
        taken = _pictures(desk, opening_id, pack)
        with desk.session() as session:
            opening = opening_with(session, opening_id)
            if opening.state not in RUNNING:
                return
            pictures = {name: session.get_one(Picture, number) for name, number in taken.items()}
            opening.job_id = _job(session, pack.job, pictures).id
            opening.state, opening.finished_at = DONE, now_utc()
    except Cancelled:
        return
    except (UnreadableFile, Refused) as error:
        _fail(desk, opening_id, f"{error} The pack was not opened.")
    except Exception:
        _fail(desk, opening_id, "Opening this failed for a reason of Harnet's own.")
        raise
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _pictures(desk: Desk, opening_id: int, pack: Pack) -> dict[str, int]:
    """Takes the pictures onto a shelf named after the job; their numbers by their names."""
    taken: dict[str, int] = {}
    rights = {entry.name: entry.rights for entry in pack.job.pictures}
    for done, (name, path) in enumerate(pack.files.items()):
        with desk.session() as session:
            opening = opening_with(session, opening_id)
            if opening.state not in RUNNING:
                raise Cancelled
            opening.done_steps, opening.all_steps = done, len(pack.files)
            shelf = shelf_named(desk, session, f"From {pack.job.title}"[:100])
            with path.open("rb") as file:
                taken[name] = take_in(desk, session, shelf, name, file, rights[name]).id
    return taken


def _job(session: Session, file: JobFile, pictures: dict[str, Picture]) -> Job:
    job = Job(
        title=file.title,
        unit=file.unit,
        px_per_inch=file.px_per_inch if file.unit == "px" else None,
        width_pt=file.width_pt,
        height_pt=file.height_pt,
        bleed_pt=file.bleed_pt,
        margin_pt=file.margin_pt,
        is_facing=file.is_facing,
        target=_target(file.target) or target_as_values(target_named("coated")),
    )
    for position, entry in enumerate(file.pages):
        page = Page(
            position=position,
            width_pt=entry.width_pt or file.width_pt,
            height_pt=entry.height_pt or file.height_pt,
            target=_target(entry.target),
        )
        page.items = [_item(item, place, pictures) for place, item in enumerate(entry.items)]
        job.pages.append(page)
    session.add(job)
    session.flush()
    return job


def _target(entry: TargetEntry | None) -> dict[str, Any] | None:
    """A target's figures, once they make sense together."""
    if entry is None:
        return None
    target = target_from_values(entry.model_dump(mode="json"))
    try:
        return target_as_values(checked_target(target))
    except ValueOutOfRange as error:
        raise Refused(f"The target {entry.name} makes no sense: {error}.") from None


def _item(entry: ItemEntry, place: int, pictures: dict[str, Picture]) -> Item:
    item = Item(
        position=place,
        kind=entry.kind,
        x_pt=entry.x_pt,
        y_pt=entry.y_pt,
        width_pt=entry.width_pt,
        height_pt=entry.height_pt,
        rotation_deg=entry.rotation_deg,
        style={},
    )
    if isinstance(entry, PlacedEntry):
        picture = pictures.get(entry.picture)
        item.shape, item.radius_pt = entry.shape.value, entry.radius_pt
        if picture is None:
            # Its file was missing where it was packed: the frame says what it wants.
            item.kind, item.style = FRAME, {"wanted": entry.picture}
            return item
        item.kind, item.picture, item.target = PICTURE, picture, _target(entry.target)
        write_placement(item, placement_in(entry, source_of(picture)))
        if entry.column:
            item.style = {"column": entry.column}
    elif isinstance(entry, FrameEntry):
        item.shape, item.radius_pt = entry.shape.value, entry.radius_pt
        asked = {"column": entry.column, "wanted": entry.wanted}
        item.style = {name: text for name, text in asked.items() if text}
    elif isinstance(entry, TextEntry):
        item.text, item.style = entry.text, entry.style.model_dump()
    else:
        fields = {"fill", "stroke", "stroke_pt"}
        item.style = {
            name: value
            for name, value in entry.model_dump(include=fields).items()
            if value is not None
        }
    return item


def _fail(desk: Desk, opening_id: int, sentence: str) -> None:
    with desk.session() as session:
        opening = opening_with(session, opening_id)
        if opening.state in RUNNING:
            opening.state, opening.trouble, opening.finished_at = FAILED, sentence, now_utc()
