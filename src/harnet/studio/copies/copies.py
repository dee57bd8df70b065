"""Print copies: asked for by the web, made by the worker beside the original, and made again."""

from collections.abc import Iterable
from dataclasses import replace
from functools import partial
from pathlib import Path

from PIL import Image
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from harnet.core.copies.frame_copy import FrameCopy, frame_copy
from harnet.core.copies.recipe import (
    CopyFormat,
    Recipe,
    checked,
    recipe_as_values,
    recipe_from_values,
)
from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.wording import px_text
from harnet.core.pictures.picture import Facts, facts_as_values
from harnet.core.preflight.subject import FileState
from harnet.media.bounded import work_apart
from harnet.media.errors import UnreadableFile
from harnet.media.limits import COPY_MEMORY_BYTES, COPY_SECONDS
from harnet.store.tables.copies import PrintCopy
from harnet.store.tables.jobs import Item, Job
from harnet.store.tables.pictures import Picture
from harnet.studio.common.errors import Refused, sentence_of
from harnet.studio.common.studio import Studio
from harnet.studio.copies.placing import copy_with, lock_batch_of, place_finished
from harnet.studio.jobs.jobs import target_of
from harnet.studio.layout.placed import placement_of, target_for
from harnet.studio.people.quotas import require_turn
from harnet.studio.pictures.importing import import_picture
from harnet.studio.pictures.picture import (
    facts_of_picture,
    is_in_store,
    path_of,
    rights_of,
    state_of,
)
from harnet.studio.pictures.profiles import profile_file
from harnet.studio.tasks.states import Cancelled
from harnet.studio.tasks.task import Task
from harnet.studio.tasks.work import Work, cancel_work, carry_out, wait_again

_OWN_FAULT = "Harnet failed to make this through a fault of its own. Nothing was saved."
_SAME_TAG_PPI = 0.03
"""PNG counts a density in whole pixels per metre: 300 ppi becomes 299.9994."""


def ask_for_copy(session: Session, picture: Picture, recipe: Recipe) -> PrintCopy:
    """Records that a copy is wanted.

    Raises:
        Refused: no such copy can be made of this picture; the sentence says why.
    """
    if picture.shelf is None:
        raise Refused(f"{picture.file_name} was pasted; save it to a shelf first.")
    try:
        checked(recipe, facts_of_picture(picture))
    except ValueOutOfRange as error:
        raise Refused(sentence_of(error)) from None
    require_turn(session)
    copy = PrintCopy(
        picture_id=picture.id, recipe=recipe_as_values(recipe), file_name=copy_name(picture, recipe)
    )
    session.add(copy)
    session.flush()
    return copy


def frame_copy_of(job: Job, item: Item) -> FrameCopy:
    """The copy that a placement's frame asks for at the job's target.

    Raises:
        Refused: no picture, a vector picture, or a frame that shows nothing.
    """
    if item.picture is None:
        raise Refused("There is no picture in this frame to copy.")
    try:
        return frame_copy(placement_of(item), target_for(item, target_of(job)))
    except ValueOutOfRange as error:
        raise Refused(sentence_of(error)) from None


def ask_for_frame_copy(
    session: Session, job: Job, item: Item, may_be_smaller: bool = False
) -> PrintCopy:
    """Records that a placement wants the copy its frame needs; it is placed once it is made.

    Raises:
        Refused: the visible part has too few pixels, and `may_be_smaller` does not allow that.
    """
    wanted = frame_copy_of(job, item)
    assert item.picture is not None
    if wanted.is_too_small and not may_be_smaller:
        crop = wanted.recipe.crop
        raise Refused(
            f"The part of {item.picture.file_name} in this frame has"
            f" {px_text(crop.width, crop.height)} px; the frame needs"
            f" {px_text(wanted.needed_px_w, wanted.needed_px_h)}. Nothing was made."
        )
    recipe = replace(wanted.recipe, format=CopyFormat.TIFF)
    copy = ask_for_copy(session, item.picture, recipe)
    copy.item_id, copy.item_version = item.id, item.version
    return copy


def copy_name(picture: Picture, recipe: Recipe) -> str:
    """A copy's file name: the original's, its pixels and its density."""
    stem = picture.file_name.rpartition(".")[0] or picture.file_name
    width, height = recipe.file_px
    return f"{stem} {width}x{height} {recipe.density_x:.0f} ppi.{recipe.format.value}"


def copies_of(session: Session, picture: Picture) -> list[PrintCopy]:
    """A picture's copies, the latest first."""
    wanted = select(PrintCopy).where(PrintCopy.picture_id == picture.id)
    return list(session.scalars(wanted.order_by(PrintCopy.id.desc())))


def recipes_behind(session: Session, picture_ids: Iterable[int]) -> dict[int, PrintCopy]:
    """For pictures that are copies: the copy entry, with recipe and original, of each."""
    wanted = select(PrintCopy).where(PrintCopy.made_id.in_(list(picture_ids)))
    return {copy.made_id or 0: copy for copy in session.scalars(wanted.order_by(PrintCopy.id))}


def ask_again(copy: PrintCopy) -> None:
    """Wants a finished or failed copy made again from its recipe."""
    if wait_again(copy):
        copy.note, copy.item_id, copy.batch = "", None, None


def make_copy(studio: Studio, row_id: int) -> None:
    """Makes a copy, reads it back and puts it on the original's shelf; the worker calls this.

    The copy appears whole or not at all, and a failure is kept as a sentence.
    """
    work = Work(studio, PrintCopy, row_id, partial(lock_batch_of, copy_id=row_id))
    if work.begin():
        with work.scratch() as folder:
            carry_out(work, lambda: _make(work, folder), _sentence_for, _OWN_FAULT, _after_failure)


def _sentence_for(error: Exception) -> str | None:
    if isinstance(error, UnreadableFile):
        return f"{error} No copy was saved."
    if isinstance(error, Refused | OSError):
        return f"The copy was not saved: {error}"
    return None


def _after_failure(session: Session, copy: PrintCopy) -> None:
    place_finished(session, copy)


def cancel_copy(session: Session, copy: PrintCopy) -> None:
    """Stops a copy that is not finished; the others of its batch are placed if it was the last."""
    lock_batch_of(session, copy.id)
    if cancel_work(copy):
        place_finished(session, copy)


def _make(work: Work[PrintCopy], folder: Path) -> None:
    studio, copy_id = work.studio, work.row_id
    with studio.session() as session:
        copy = copy_with(session, copy_id)
        picture = copy.picture
        require_original(picture)
        recipe, facts = recipe_from_values(copy.recipe), facts_of_picture(picture)
        path, file_name = path_of(picture), copy.file_name
        before = path.stat()
        profile = profile_file(studio, recipe.profile, folder)
    target = folder / f"copy.{recipe.format.value}"
    work_apart(
        "harnet.media.pixels.print_copy",
        order_of(path, facts, recipe, profile, picture.file_name) | {"target": str(target)},
        name=picture.file_name,
        seconds=COPY_SECONDS,
        memory_bytes=COPY_MEMORY_BYTES,
        tell=lambda percent: work.tell(min(percent, 99), 100),
        look_up=work.look_up,
    )
    try:
        after = path.stat()
    except OSError:
        raise UnreadableFile(picture.file_name, "it disappeared while its copy was made") from None
    if (before.st_size, before.st_mtime_ns) != (after.st_size, after.st_mtime_ns):
        raise UnreadableFile(picture.file_name, "it changed while its copy was made", "Try again")
    _read_back(target, recipe)
    with studio.session() as session:
        copy = copy_with(session, copy_id)
        shelf = copy.picture.shelf
        assert shelf is not None, "only a picture on a shelf can be copied"
        latest = session.scalar(select(func.max(Picture.id))) or 0
        with target.open("rb") as file:
            made = import_picture(studio, session, shelf, file_name, file, rights_of(copy.picture))
        # Only now is anything locked: no decoder runs while others wait.
        try:
            copy = work.row_in(session)
        except Cancelled:
            if made.id > latest and not is_in_store(shelf):
                path_of(made).unlink(missing_ok=True)
            raise
        was = copy.made_sha256
        copy.made, copy.made_sha256 = made, made.sha256
        work.end_in(copy)
        if was is not None:
            same = "the same bytes as before" if was == made.sha256 else "other bytes than before"
            copy.note = f"Made again: {same}."
        session.flush()
        place_finished(session, copy)


def require_original(picture: Picture) -> None:
    """Makes sure that the bytes to copy are those that are known.

    Raises:
        UnreadableFile: the file is missing, or was changed.
    """
    state = state_of(picture)
    if state is FileState.MISSING:
        raise UnreadableFile(
            picture.file_name, "the file is missing from its shelf", "Bring it back and try again"
        )
    if state is FileState.CHANGED:
        raise UnreadableFile(
            picture.file_name, "the file was changed since it was read", "Import it again first"
        )


def order_of(
    path: Path, facts: Facts, recipe: Recipe, profile: Path | None, name: str
) -> dict[str, object]:
    """What the process that makes a copy is told."""
    return {
        "path": str(path),
        "name": name,
        "facts": facts_as_values(facts),
        "recipe": recipe_as_values(recipe),
        "profile": str(profile) if profile else None,
    }


def _read_back(path: Path, recipe: Recipe) -> None:
    """Reads the finished file with Pillow, which did not write it.

    Raises:
        UnreadableFile: it is not what the recipe promised.
    """
    with Image.open(path) as image:
        found_px = image.size
        found_ppi = [float(figure) for figure in image.info.get("dpi", (0, 0))]
    wanted_ppi = (recipe.density_x, recipe.density_y)
    off = max(abs(one - other) for one, other in zip(found_ppi, wanted_ppi, strict=True))
    if found_px != recipe.file_px or off > max(_SAME_TAG_PPI, 1e-3 * max(wanted_ppi)):
        raise UnreadableFile(
            "The finished copy",
            f"it has {px_text(*found_px)} px at {found_ppi[0]:.2f} ppi, not what was promised",
        )


MAKE_COPY = Task(name="make_copy", queue="copies", run=make_copy, model=PrintCopy)
