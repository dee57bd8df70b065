"""Makes what is asked for of a checked PDF; the worker calls this."""

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from harnet.core.documents.improving import (
    AT_TARGET,
    MOST_TIMES,
    CopyColours,
    ImproveSettings,
)
from harnet.core.documents.same_shot import Sureness
from harnet.core.output.pdf_settings import DEFAULT_THRESHOLD
from harnet.core.preflight.subject import FileState
from harnet.core.targets.values import target_as_values, target_from_values
from harnet.media.errors import UnreadableFile
from harnet.store.blobs import sha256_of
from harnet.store.tables.documents import Document, DocumentWork
from harnet.store.tables.pictures import Picture
from harnet.studio.common.errors import Refused
from harnet.studio.common.studio import Studio
from harnet.studio.documents.keeping import read_pdf
from harnet.studio.documents.making.files_made import make_files_of_images, make_page_images
from harnet.studio.documents.making.improving import (
    Original,
    look_for_originals,
    make_copy,
    plan_from,
)
from harnet.studio.documents.making.unlocking import Locked, unlock
from harnet.studio.documents.making.works import (
    EXTRACT,
    FIND,
    IMPROVE,
    PAGES,
    not_chosen,
)
from harnet.studio.documents.uploads import document_with
from harnet.studio.people.access import is_on_seen_shelf, sees_picture
from harnet.studio.pictures.picture import facts_of_picture, path_of
from harnet.studio.pictures.profiles import profile_file
from harnet.studio.tasks.task import Task
from harnet.studio.tasks.work import Work, carry_out

_OF_PICTURE = frozenset({"picture_id", "sha256", "px"})
_OWN_FAULT = "Harnet failed to make this through a fault of its own."
_GONE = "The original {name} is no longer as it was. Look for originals again."


def do_document_work(studio: Studio, row_id: int) -> None:
    """Makes what a row asks for; the worker calls this."""
    work = Work(studio, DocumentWork, row_id)
    if not work.begin():
        return
    with work.scratch() as folder:
        carry_out(work, partial(_do, work, folder), _sentence_for, _OWN_FAULT)


def _sentence_for(error: Exception) -> str | None:
    return str(error) if isinstance(error, UnreadableFile | Refused) else None


def _do(work: Work[DocumentWork], folder: Path) -> None:
    with work.studio.session() as session:
        row = session.get_one(DocumentWork, work.row_id)
        document = document_with(session, row.document_id)
        kind, settings, sha256, name = (
            row.kind,
            dict(row.settings),
            document.sha256,
            document.file_name,
        )
    path = folder / "checked.pdf"
    work.studio.blobs.copy_to(sha256, path)
    doers: dict[str, Callable[..., None]] = {
        EXTRACT: make_files_of_images,
        PAGES: make_page_images,
        FIND: _find,
        IMPROVE: _improve,
    }
    doers[kind](work, folder, path, name, settings)


def _find(
    work: Work[DocumentWork], folder: Path, path: Path, name: str, settings: dict[str, Any]
) -> None:
    with work.studio.session() as session:
        pictures = _originals_on_shelves(session)
    files = [Original(Path(one["path"]), _known_points(work.studio, one)) for one in pictures]
    found = look_for_originals(
        path,
        name,
        files,
        target_from_values(settings["target"]),
        tell=lambda _what, done, of: work.tell(done, of),
        look_up=work.look_up,
    )
    for one, file, hashes in zip(pictures, files, found.hashes, strict=False):
        if file.hashes is None and hashes is not None:
            kept = folder / "points"
            kept.write_text(hashes)
            work.studio.blobs.put_preview(_points_name(one), kept)
    by_path = {one["path"]: one for one in pictures}
    images = [_with_picture(values, by_path) for values in found.images]
    result = {"images": images, "pictures": len(pictures)}

    def keep(_session: Session, row: DocumentWork) -> None:
        row.result = result

    work.finish(keep)


def _originals_on_shelves(session: Session) -> list[dict[str, Any]]:
    """Every raster picture whose file is in place: its path, its hash, its number."""
    wanted = select(Picture).options(joinedload(Picture.shelf)).where(is_on_seen_shelf())
    found = []
    for one in session.scalars(wanted.order_by(Picture.id)):
        facts = facts_of_picture(one)
        is_there = one.shelf is not None and one.file_state == FileState.IN_PLACE.value
        if is_there and not facts.is_vector:
            place = {"path": str(path_of(one)), "sha256": one.sha256, "id": one.id}
            found.append(place | {"px": [facts.px_w, facts.px_h]})
    return found


def _points_name(picture: dict[str, Any]) -> str:
    return f"{picture['sha256']}-points-2"


def _known_points(studio: Studio, picture: dict[str, Any]) -> str | None:
    """The hashes of a picture's points, where they were made before."""
    try:
        with studio.blobs.open_preview(_points_name(picture)) as file:
            return file.read().decode()
    except FileNotFoundError:
        return None


def _with_picture(values: dict[str, Any], by_path: dict[str, Any]) -> dict[str, Any]:
    """An image's values, its candidate named by the picture and its bytes."""
    candidate = values.get("candidate")
    if candidate is None:
        return values
    picture = by_path[candidate["path"]]
    told = {"picture_id": picture["id"], "sha256": picture["sha256"], "px": picture["px"]}
    return {**values, "candidate": {**candidate, **told}}


def _improve(
    work: Work[DocumentWork], folder: Path, path: Path, name: str, settings: dict[str, Any]
) -> None:
    with work.studio.session() as session:
        row = session.get(DocumentWork, settings["found"])
        if row is None:
            raise Refused("Look for originals first.")
        target = target_from_values(row.settings["target"])
        document = document_with(session, row.document_id)
        came, password = document.locked_sha256, document.password or ""
        images = [_chosen(session, one, settings["chosen"]) for one in row.result["images"]]
    wanted = ImproveSettings(
        target=target,
        most_times=AT_TARGET if settings["at_target"] else MOST_TIMES,
        colours=CopyColours(settings["colours"]),
        chooses=Sureness.PERHAPS,
        threshold=DEFAULT_THRESHOLD if settings["is_trimmed"] else None,
        cuts=settings.get("is_cut", False),
        # What is edited was chosen by a person, image by image.
        accepts_edited=True,
        carries_tone=not settings.get("has_own_tone", False),
        keeps_own_tone=frozenset(settings.get("own_tone_images", ())),
    )
    plan = plan_from(images, path, name, wanted)
    copy, room = folder / "improved.pdf", folder / "room"
    room.mkdir()
    locked = Locked(folder / "locked.pdf", password) if came is not None else None
    if came is not None:
        work.studio.blobs.copy_to(came, folder / "locked.pdf")
    receipt = make_copy(
        plan,
        copy,
        room,
        locked=locked,
        profile=profile_file(work.studio, settings.get("profile"), folder),
        tell=lambda _what, done, of: work.tell(done, of),
        look_up=work.look_up,
    )
    if not receipt.is_proven:
        raise Refused("The copy could not be proven. " + " ".join(receipt.faults))
    sha256, size = work.studio.blobs.put_file(copy), copy.stat().st_size
    readable_sha256 = sha256
    if locked is not None:
        unlock(Locked(copy, password), name, folder / "unlocked.pdf")
        readable_sha256 = work.studio.blobs.put_file(folder / "unlocked.pdf")
    title = f"{Path(name).stem} improved{Path(name).suffix}"
    made: list[int] = []

    def keep(session: Session, row: DocumentWork) -> None:
        improved = Document(
            file_name=title,
            sha256=readable_sha256,
            size_bytes=size,
            target=target_as_values(target),
            locked_sha256=sha256 if locked is not None else None,
            password=password or None,
        )
        session.add(improved)
        session.flush()
        row.sha256, row.size_bytes, row.file_name = sha256, size, title
        row.result, row.copy_id = receipt.as_json(), improved.id
        made.append(improved.id)

    work.finish(keep)
    read_pdf(work.studio, made[0])


def _chosen(session: Session, values: dict[str, Any], chosen: Sequence[int]) -> dict[str, Any]:
    """An image with its original where it was chosen.

    Raises:
        Refused: the original is not as it was.
    """
    candidate = values.get("candidate")
    if candidate is None or values["key"] not in chosen:
        return not_chosen(values)
    picture = session.get(Picture, candidate["picture_id"])
    if picture is None or picture.shelf is None or not sees_picture(session, picture):
        raise Refused(_GONE.format(name=Path(candidate["path"]).name))
    # It may have been found by another machine, which has its copy elsewhere.
    path = path_of(picture)
    if not path.exists() or sha256_of(path) != candidate["sha256"]:
        raise Refused(_GONE.format(name=picture.file_name))
    plain = {key: one for key, one in candidate.items() if key not in _OF_PICTURE}
    return {**values, "candidate": plain | {"path": str(path)}}


DO_DOCUMENT_WORK = Task(
    name="document_work", queue="outputs", run=do_document_work, model=DocumentWork
)
