"""Pages of a PDF that lies on a shelf: looked at, and put beside it as pictures of their own."""

import tempfile
from pathlib import Path

from sqlalchemy.orm import Session

from harnet.core.pictures.rights import Rights
from harnet.core.preflight.subject import FileState
from harnet.media.bounded import work_apart
from harnet.store.tables.pictures import Picture
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.common.studio import Studio
from harnet.studio.pictures.importing import import_picture
from harnet.studio.pictures.picture import facts_of_picture, path_of, state_of
from harnet.studio.pictures.shelves import shelf_named

PAGES_SHELF = "Pages of PDFs"
"""Where pages go whose PDF lies in someone else's folder."""
_SECONDS, _MEMORY_BYTES = 120, 3_000_000_000
_THUMB_PX = 220


def page_count_of(picture: Picture) -> int:
    """How many pages a PDF has; 1 for every other picture."""
    facts = facts_of_picture(picture)
    return max(1, facts.frames) if facts.format == "pdf" else 1


def page_as_picture(studio: Studio, session: Session, picture: Picture, number: int) -> Picture:
    """A page of a PDF as a picture, on the same shelf; the first one of a single page is itself.

    It is vector as it was; what the PDF says of rights goes for its pages. A page that is on the
    shelf already is that picture.

    Raises:
        Refused: there is no such page, or the file is not the one that was read.
        UnreadableFile: the page cannot be taken out.
    """
    count = page_count_of(picture)
    if not 1 <= number <= count:
        raise Refused(f"{picture.file_name} has pages 1 to {count}, not {number}.")
    if count == 1:
        return picture
    path = _file_of(picture)
    assert picture.shelf is not None
    shelf = picture.shelf
    if shelf.is_watched:
        shelf = shelf_named(studio, session, PAGES_SHELF)
    name = f"{Path(picture.file_name).stem} page {str(number).zfill(len(str(count)))}.pdf"
    rights = Rights(picture.licence, picture.credit, picture.origin)
    with tempfile.TemporaryDirectory(dir=studio.settings.scratch_folder) as folder:
        alone = Path(folder) / "page.pdf"
        work_apart(
            "harnet.media.pdf.writing.single_page",
            {"path": str(path), "name": picture.file_name, "page": number, "to": str(alone)},
            name=picture.file_name,
            seconds=_SECONDS,
            memory_bytes=_MEMORY_BYTES,
        )
        with alone.open("rb") as stream:
            return import_picture(studio, session, shelf, name, stream, rights)


def page_thumbnail(studio: Studio, picture: Picture, number: int) -> bytes:
    """A small drawing of a page as PNG; drawn once and kept.

    Raises:
        NotThere: there is no such page.
        Refused: the file is not the one that was read.
        UnreadableFile: the page cannot be drawn.
    """
    if not 1 <= number <= page_count_of(picture):
        raise NotThere("This page is not there.")
    kept_as = f"{picture.sha256}-page-{number}-{_THUMB_PX}"
    try:
        with studio.blobs.open_preview(kept_as) as file:
            return file.read()
    except FileNotFoundError:
        pass
    with tempfile.TemporaryDirectory(dir=studio.settings.scratch_folder) as folder:
        look = Path(folder) / "look.png"
        work_apart(
            "harnet.media.pagedrawing.preview",
            {
                "path": str(_file_of(picture)),
                "name": picture.file_name,
                "look": str(look),
                "is_pdf": True,
                "is_whole": True,
                "page": number,
                "edge_px": _THUMB_PX,
            },
            name=picture.file_name,
            seconds=_SECONDS,
            memory_bytes=_MEMORY_BYTES,
        )
        studio.blobs.put_preview(kept_as, look)
        return look.read_bytes()


def _file_of(picture: Picture) -> Path:
    if state_of(picture) is not FileState.IN_PLACE:
        raise Refused(
            f"{picture.file_name} is not in its place as it was read. Put it back, or update it."
        )
    return path_of(picture)
