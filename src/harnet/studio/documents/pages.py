"""Pages of files as pictures: drawn apart, once, and kept."""

import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path

from harnet.media.bounded import Order, work_apart
from harnet.studio.common.errors import NotThere
from harnet.studio.common.studio import Studio
from harnet.studio.documents.drawing import PAGE_MEMORY_BYTES, PAGE_SECONDS, page_order


def page_picture(studio: Studio, sha256: str, name: str, number: int) -> bytes:
    """A page as it is seen, crop box and turn included, as PNG.

    Raises:
        NotThere: the PDF's bytes are gone.
        UnreadableFile: the page cannot be drawn.
    """
    return drawn_once(studio, f"{sha256}-seen-{number}.png", sha256, page_order(name, number))


def picture_alone(studio: Studio, sha256: str, name: str, object_number: int) -> bytes:
    """One image of a PDF with every pixel, as PNG.

    Raises:
        NotThere: the PDF's bytes are gone.
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
