"""Pages of files as pictures: drawn apart, once, and kept."""

import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path

from harnet.media.bounded import Order, work_apart
from harnet.studio.common.desk import Desk
from harnet.studio.common.errors import NotThere
from harnet.studio.documents.drawing import PAGE_MEMORY_BYTES, PAGE_SECONDS, page_order


def page_picture(desk: Desk, sha256: str, name: str, number: int) -> bytes:
    """A page as it is seen, crop box and turn included, as PNG.

    Raises:
        NotThere: the PDF's bytes are gone.
        UnreadableFile: the page cannot be drawn.
    """
    return drawn_once(desk, f"{sha256}-seen-{number}.png", sha256, page_order(name, number))


def picture_alone(desk: Desk, sha256: str, name: str, object_number: int) -> bytes:
    """One image of a PDF with every pixel, as PNG.

    Raises:
        NotThere: the PDF's bytes are gone.
        UnreadableFile: the image cannot be taken out.
    """
    order = {"number": object_number, "name": name}
    kept_as = f"{sha256}-pixels-{object_number}.png"
    return drawn_once(desk, kept_as, sha256, order, by="harnet.media.pdf.reading.alone")


def drawn_once(
    desk: Desk,
    kept_as: str,
    sha256: str,
    order: Order,
    page_file: Callable[[Path], Path] = lambda source: source,
    by: str = "harnet.media.pagedrawing.look",
) -> bytes:
    """A page as PNG: what is kept under that name, else drawn as ordered and kept.

    `page_file` says which file has the page, where the bytes are a pack of several; `by` is the
    module that draws.

    Raises:
        NotThere: the bytes are gone.
        UnreadableFile: the page cannot be drawn.
    """
    try:
        with desk.blobs.open_preview(kept_as) as file:
            return file.read()
    except FileNotFoundError:
        pass
    folder = Path(tempfile.mkdtemp(dir=desk.settings.scratch_folder))
    try:
        source, look = folder / "source", folder / "look.png"
        try:
            desk.blobs.copy_to(sha256, source)
        except FileNotFoundError:
            raise NotThere("This file is no longer stored.") from None
        work_apart(
            by,
            order | {"path": str(page_file(source)), "look": str(look)},
            name=order["name"],
            seconds=PAGE_SECONDS,
            memory_bytes=PAGE_MEMORY_BYTES,
        )
        desk.blobs.put_preview(kept_as, look)
        return look.read_bytes()
    finally:
        shutil.rmtree(folder, ignore_errors=True)
