"""Pages of files as pictures: drawn apart, once, and kept."""

import hashlib
import shutil
import tempfile
from collections.abc import Callable
from functools import partial
from pathlib import Path

from harnet.core.documents.images import ImageOnPage
from harnet.media.bounded import Order, work_apart
from harnet.store.tables.documents import Document
from harnet.studio.common.errors import NotThere
from harnet.studio.common.studio import Studio
from harnet.studio.documents.drawing import (
    LOOK_PX,
    PAGE_MEMORY_BYTES,
    PAGE_SECONDS,
    SKETCHER,
    Drawings,
    look_order,
    page_order,
    sketch_order,
)
from harnet.studio.documents.uploads import read_of


def page_picture(studio: Studio, sha256: str, name: str, number: int) -> bytes:
    """A page as it is seen, crop box and turn included, as PNG.

    Raises:
        NotThere: its bytes are gone.
        UnreadableFile: the page cannot be drawn.
    """
    return drawn_once(studio, f"{sha256}-seen-{number}.png", sha256, page_order(name, number))


def document_page(studio: Studio, document: Document, number: int) -> bytes:
    """A page of a checked document as PNG: of a PDF as it is seen, of others as a sketch.

    Raises:
        NotThere: its bytes are gone, or it has no such page.
        UnreadableFile: the page cannot be drawn.
    """
    read = read_of(document)
    if not read.format.is_package:
        return page_picture(studio, document.sha256, document.file_name, number)
    page = read.page_of(number)
    if page is None or not page.is_drawn:
        raise NotThere("This document has no such page.")
    order = sketch_order(document.file_name, page)
    kept_as = f"{document.sha256}-sketch-{number}.png"
    return drawn_once(studio, kept_as, document.sha256, order, by=SKETCHER)


def image_look(
    studio: Studio, document: Document, picture: ImageOnPage, edge_px: int | None = LOOK_PX
) -> bytes:
    """A picture in a checked document as PNG, of at most so many pixels; None keeps them all.

    Raises:
        NotThere: the document's bytes are gone.
        UnreadableFile: the picture cannot be drawn.
    """
    if not picture.part:
        return picture_alone(studio, document.sha256, document.file_name, picture.object_number)
    order = look_order(document.file_name, picture, edge_px)
    part = hashlib.sha256(picture.part.encode()).hexdigest()[:16]
    kept_as = f"{document.sha256}-part-{part}-{edge_px or 'all'}.png"
    return drawn_once(studio, kept_as, document.sha256, order, by=SKETCHER)


def drawings_of(studio: Studio, document: Document) -> Drawings:
    """What draws a checked document for its reports."""
    return Drawings(partial(document_page, studio, document), partial(image_look, studio, document))


def picture_alone(studio: Studio, sha256: str, name: str, object_number: int) -> bytes:
    """One image of a PDF with every pixel, as PNG.

    Raises:
        NotThere: its bytes are gone.
        UnreadableFile: the image cannot be taken out.
    """
    order = {"number": object_number, "name": name}
    kept_as = f"{sha256}-pixels-{object_number}.png"
    return drawn_once(studio, kept_as, sha256, order, by="harnet.media.pdf.reading.single_image")


def drawn_once(
    studio: Studio,
    kept_as: str,
    sha256: str,
    order: Order,
    page_file: Callable[[Path], Path] = lambda source: source,
    by: str = "harnet.media.pagedrawing.preview",
) -> bytes:
    """A page as PNG: what is kept under that name, else drawn as ordered and kept.

    `page_file` says which file has the page, where the bytes are a pack of several; `by` is the
    module that draws.

    Raises:
        NotThere: the bytes are gone.
        UnreadableFile: the page cannot be drawn.
    """
    try:
        with studio.blobs.open_preview(kept_as) as file:
            return file.read()
    except FileNotFoundError:
        pass
    folder = Path(tempfile.mkdtemp(dir=studio.settings.scratch_folder))
    try:
        source, look = folder / "source", folder / "look.png"
        try:
            studio.blobs.copy_to(sha256, source)
        except FileNotFoundError:
            raise NotThere("This file is no longer stored.") from None
        work_apart(
            by,
            order | {"path": str(page_file(source)), "look": str(look)},
            name=order["name"],
            seconds=PAGE_SECONDS,
            memory_bytes=PAGE_MEMORY_BYTES,
        )
        studio.blobs.put_preview(kept_as, look)
        return look.read_bytes()
    finally:
        shutil.rmtree(folder, ignore_errors=True)
