"""Opening a handoff pack: its pictures come onto a shelf of their own, its pages become a job."""

import os
from concurrent.futures import FIRST_COMPLETED, ThreadPoolExecutor, wait
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.core.copies.recipe import checked, recipe_as_values
from harnet.core.errors import ValueOutOfRange
from harnet.core.output.page_images import checked_image_settings, image_settings_as_values
from harnet.core.output.pdf_settings import checked_settings, settings_as_values
from harnet.core.pictures.picture import facts_as_values
from harnet.core.preflight.subject import FileState
from harnet.core.targets.shipped import target_named
from harnet.core.targets.target import checked_target
from harnet.core.targets.values import target_as_values, target_from_values
from harnet.media.errors import UnreadableFile
from harnet.store.base import now_utc
from harnet.store.bulk import add_items
from harnet.store.tables.copies import PrintCopy
from harnet.store.tables.handoff import PackOpening
from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.pictures import Picture, Shelf
from harnet.store.tables.preflight import Acceptance
from harnet.studio.common.activity import add_detail
from harnet.studio.common.errors import Refused, sentence_of
from harnet.studio.common.rows import row_with
from harnet.studio.common.studio import Studio
from harnet.studio.handoff.job_file import (
    AcceptedEntry,
    FileEntry,
    FrameEntry,
    ItemEntry,
    JobFile,
    OutputEntry,
    PictureEntry,
    PlacedEntry,
    TextEntry,
)
from harnet.studio.handoff.reading import Pack, job_in, opened_zip, placement_in, read_pack
from harnet.studio.judging.judging import settle
from harnet.studio.layout.placed import FRAME, PICTURE, write_placement
from harnet.studio.people.quotas import require_turn
from harnet.studio.pictures.importing import import_picture, numbered, received_file, safe_file_name
from harnet.studio.pictures.picture import facts_of_picture, lock_shelf, set_rights, source_of
from harnet.studio.pictures.shelves import shelf_named
from harnet.studio.presets.presets import add_preset
from harnet.studio.targets.files import TargetEntry
from harnet.studio.tasks.states import DONE
from harnet.studio.tasks.task import Task
from harnet.studio.tasks.work import Work, carry_out

_PAGES_AT_ONCE = 20
_LOOK_EVERY_SECONDS = 0.4


def keep_pack(studio: Studio, session: Session, name: str, stream: IO[bytes]) -> PackOpening:
    """Takes a pack from the browser; the worker opens it.

    Raises:
        UnreadableFile: it is no pack; nothing of it stays.
    """
    require_turn(session)
    with received_file(studio, name, stream) as (shown, path):
        with opened_zip(path, shown) as pack:
            job = job_in(pack, shown)
        sha256 = studio.blobs.put_file(path)
    opening = PackOpening(file_name=shown, title=job.title, sha256=sha256)
    session.add(opening)
    session.flush()
    add_detail(session, shown)
    return opening


def opening_with(session: Session, opening_id: int) -> PackOpening:
    """The opening of that number.

    Raises:
        NotThere: there is none.
    """
    return row_with(session, PackOpening, opening_id, "No pack is being opened under this number.")


_MOST_HANDS = 4
_OWN_FAULT = "Harnet failed to open this through a fault of its own."


def open_pack(studio: Studio, row_id: int) -> None:
    """Creates the job of a pack; the worker calls this. The job appears whole or not at all.

    Where it is cancelled, pictures that came onto the shelf by then stay.
    """
    work = Work(studio, PackOpening, row_id)
    if work.begin():
        with work.scratch() as folder:
            carry_out(work, lambda: _open(work, folder), _sentence_for, _OWN_FAULT)


def _sentence_for(error: Exception) -> str | None:
    if isinstance(error, UnreadableFile | Refused):
        return f"{error} The pack was not opened."
    return None


def _open(work: Work[PackOpening], folder: Path) -> None:
    studio = work.studio
    with studio.session() as session:
        opening = opening_with(session, work.row_id)
        sha256, name = opening.sha256, opening.file_name
    path = folder / "pack.zip"
    studio.blobs.copy_to(sha256, path)
    pack = read_pack(path, name, folder)
    steps = _Steps(work, len(pack.files), len(pack.job.pages))
    taken = _pictures(studio, steps, pack)
    with studio.session() as session:
        pictures = {name: session.get_one(Picture, number) for name, number in taken.items()}
        job = _job(session, pack.job, pictures, steps)
        _copies(session, pack, pictures)
        for preset in pack.job.outputs.presets:
            add_preset(session, preset)
        settle(session, steps.judged)
        opening = work.row_in(session)
        opening.job_id = job.id
        work.end_in(opening)


@dataclass(frozen=True, slots=True)
class _Steps:
    """How far an opening is: each picture is a step, and each page twice, laid out and judged."""

    work: Work[PackOpening]
    pictures: int
    pages: int

    def at(self, done: int) -> None:
        """Records how many steps are done.

        Raises:
            Cancelled: someone cancelled it.
        """
        self.work.tell(done, self.pictures + 2 * self.pages)

    def judged(self, pages: int) -> None:
        """Records how many pages are judged."""
        self.at(self.pictures + self.pages + pages)


def _pictures(studio: Studio, steps: _Steps, pack: Pack) -> dict[str, int]:
    """Takes the pictures onto a shelf named after the job; their numbers by their names.

    Several are looked at side by side, each in a process of its own.
    """
    with studio.session() as session:
        shelf_id = shelf_named(studio, session, f"From {pack.job.title}"[:100]).id

    def packed(entry: PictureEntry) -> int:
        with studio.session() as session, pack.files[entry.name].open("rb") as file:
            shelf = session.get_one(Shelf, shelf_id)
            return import_picture(studio, session, shelf, entry.name, file, entry.rights).id

    taken: dict[str, int] = {}
    steps.at(0)
    with ThreadPoolExecutor(min(_MOST_HANDS, os.cpu_count() or 1)) as pool:
        coming = {
            pool.submit(packed, entry): entry.name
            for entry in pack.job.pictures
            if entry.name in pack.files
        }
        try:
            waiting = set(coming)
            while waiting:
                ended, waiting = wait(waiting, _LOOK_EVERY_SECONDS, FIRST_COMPLETED)
                taken |= {coming[future]: future.result() for future in ended}
                steps.at(len(taken))
        finally:
            pool.shutdown(cancel_futures=True)
    with studio.session() as session:
        shelf = session.get_one(Shelf, shelf_id)
        for entry in pack.job.pictures:
            if entry.name not in pack.files and entry.without_file is not None:
                taken[entry.name] = _without_file(session, shelf, entry, entry.without_file).id
    return taken


def _without_file(session: Session, shelf: Shelf, entry: PictureEntry, file: FileEntry) -> Picture:
    """A picture whose file was not packed: one of the same bytes that is known here, else one
    that is missing from the shelf until someone puts it there.
    """
    lock_shelf(session, shelf)
    if entry.sha256 is not None:
        same = select(Picture).where(Picture.sha256 == entry.sha256, Picture.shelf_id.is_not(None))
        known = session.scalars(same.order_by(Picture.file_state != "in place", Picture.id)).first()
        if known is not None:
            return known
    names = set(session.scalars(select(Picture.file_name).where(Picture.shelf_id == shelf.id)))
    shown = next(one for one in numbered(safe_file_name(entry.name)) if one not in names)
    picture = Picture(
        shelf=shelf,
        file_name=shown,
        sha256=entry.sha256 or "",
        size_bytes=0,
        modified_ns=0,
        facts=facts_as_values(file.facts),
        failure="The pack did not include its file.",
        file_state=FileState.MISSING.value,
    )
    set_rights(picture, entry.rights)
    session.add(picture)
    session.flush()
    return picture


def _copies(session: Session, pack: Pack, pictures: dict[str, Picture]) -> None:
    """Records how print copies were made, so that they can be made again.

    Raises:
        Refused: a recipe that its original cannot be copied by.
    """
    for entry in pack.job.pictures:
        made = pictures.get(entry.name)
        original = pictures.get(entry.copy_of or "")
        if entry.recipe is None or made is None or original is None:
            continue
        if session.scalar(select(PrintCopy.id).where(PrintCopy.made_id == made.id).limit(1)):
            continue
        try:
            recipe = checked(entry.recipe, facts_of_picture(original))
        except ValueOutOfRange as error:
            raise Refused(f"The recipe of {entry.name} is invalid: {error}.") from None
        session.add(
            PrintCopy(
                picture_id=original.id,
                recipe=recipe_as_values(recipe),
                file_name=made.file_name,
                state=DONE,
                steps_done=1,
                steps_total=1,
                made_id=made.id,
                made_sha256=made.sha256,
                note=f"Imported with {pack.job.title}.",
                finished_at=now_utc(),
            )
        )


def _job(session: Session, file: JobFile, pictures: dict[str, Picture], steps: _Steps) -> Job:
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
        output_settings=_output_settings(file.outputs),
        text_styles={key: style.model_dump() for key, style in file.text_styles.items()},
        grid=file.grid.model_dump(exclude_defaults=True),
    )
    for position, entry in enumerate(file.pages):
        if position % _PAGES_AT_ONCE == 0:
            steps.at(steps.pictures + position)
        page = Page(
            position=position,
            width_pt=entry.width_pt or file.width_pt,
            height_pt=entry.height_pt or file.height_pt,
            target=_target(entry.target),
            guides=entry.guides.model_dump(exclude_defaults=True),
        )
        job.pages.append(page)
    session.add(job)
    session.flush()
    items = []
    accepted: list[tuple[Item, AcceptedEntry]] = []
    for page, entry in zip(job.pages, file.pages, strict=True):
        steps.at(steps.pictures + page.position)
        for place, of in enumerate(entry.items):
            item = _item(of, place, pictures)
            item.page_id = page.id
            items.append(item)
            accepted += [(item, one) for one in of.accepted]
    numbers = add_items(session, items)
    session.add_all(
        _acceptance(job, numbers[item.page_id, item.position], one) for item, one in accepted
    )
    return job


def _acceptance(job: Job, item_id: int, entry: AcceptedEntry) -> Acceptance:
    return Acceptance(
        job_id=job.id,
        item_id=item_id,
        rule_id=entry.rule,
        badness=entry.badness,
        headline=entry.headline,
        reason=entry.reason,
        name=entry.name,
        accepted_at=entry.accepted_at,
    )


def _output_settings(entry: OutputEntry) -> dict[str, Any]:
    """How outputs are made, once it makes sense.

    Raises:
        Refused: a figure that makes none.
    """
    kept: dict[str, Any] = {}
    try:
        if entry.pdf is not None:
            kept["pdf"] = settings_as_values(checked_settings(entry.pdf))
        if entry.images is not None:
            kept["images"] = image_settings_as_values(checked_image_settings(entry.images))
    except ValueOutOfRange as error:
        raise Refused(f"Its output settings are invalid: {sentence_of(error)}") from None
    return kept


def _target(entry: TargetEntry | None) -> dict[str, Any] | None:
    """A target's figures, once they make sense together.

    Raises:
        Refused: a target in the pack that is not valid.
    """
    if entry is None:
        return None
    target = target_from_values(entry.model_dump())
    try:
        return target_as_values(checked_target(target))
    except ValueOutOfRange as error:
        raise Refused(f"The target {entry.name} is invalid: {error}.") from None


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
        item.kind, item.picture_id, item.target = PICTURE, picture.id, _target(entry.target)
        write_placement(item, placement_in(entry, source_of(picture)))
        if entry.column:
            item.style = {"column": entry.column}
    elif isinstance(entry, FrameEntry):
        item.shape, item.radius_pt = entry.shape.value, entry.radius_pt
        pattern = {"column": entry.column, "wanted": entry.wanted}
        item.style = {name: text for name, text in pattern.items() if text}
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


OPEN_PACK = Task(name="open_pack", queue="outputs", run=open_pack, model=PackOpening)
