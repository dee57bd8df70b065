"""Exact previews of the pictures: made in the worker when someone looks closely, then kept."""

import tempfile
from pathlib import Path

from harnet.media.errors import UnreadableFile
from harnet.media.pixels.exact import write_exact
from harnet.store.tables.pictures import Picture
from harnet.studio.common.studio import Studio
from harnet.studio.pictures.importing import source_file
from harnet.studio.pictures.picture import facts_of_picture, picture_with, state_of
from harnet.studio.tasks.task import Task

_NAME = "exact"


def exact_name(sha256: str) -> str:
    """The name that an exact preview is kept under."""
    return f"{sha256}-{_NAME}"


def exact_file(studio: Studio, sha256: str) -> Path | None:
    """The exact preview of a content as a file, None where none was made yet."""
    return studio.blobs.preview_file(exact_name(sha256), studio.settings.scratch_folder)


def make_exact(studio: Studio, picture_id: int) -> None:
    """Makes the exact preview of a picture unless it is there; the worker calls this.

    A picture that cannot be decoded keeps that failure.
    """
    with studio.session() as session:
        picture = picture_with(session, picture_id)
        facts, sha256, name = facts_of_picture(picture), picture.sha256, picture.file_name
        path = source_file(studio, picture)
    if path is None or facts.is_vector or exact_file(studio, sha256) is not None:
        return
    with tempfile.TemporaryDirectory(dir=studio.settings.scratch_folder) as folder:
        target = Path(folder) / "exact.tif"
        try:
            write_exact(path, facts, name, target)
        except UnreadableFile as error:
            with studio.session() as session:
                picture_with(session, picture_id).failure = str(error)
            return
        studio.blobs.put_preview(exact_name(sha256), target)


def why_not_exact(studio: Studio, picture: Picture) -> str:
    """Why a picture can have no exact preview, as a sentence; empty where it can."""
    if facts_of_picture(picture).is_vector:
        return f"{picture.file_name} is a vector picture: it has no pixels to compare."
    if picture.failure:
        return picture.failure
    if source_file(studio, picture) is None:
        state = state_of(picture).value
        return f"{picture.file_name} is {state} on its shelf, so its pixels cannot be read."
    return ""


MAKE_EXACT = Task(name="make_exact", queue="copies", run=make_exact)
