"""Drawing a page of an untrusted document, or a picture in it; in a process with limits."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pyvips

from harnet.core.documents.sketch import mark_from
from harnet.media.bounded import Order, Tell
from harnet.media.errors import UnreadableFile
from harnet.media.packages.archive import MOST_MEDIA_BYTES, Package, PartStore, UnreadablePart
from harnet.media.packages.media import media_of
from harnet.media.packages.reading import read_document
from harnet.media.packages.signature import FileKind, document_kind
from harnet.media.packages.sketch import sketch_png
from harnet.media.packages.xml import allow_nesting

_MOST_EDGE_PX = 20_000


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    With `marks` and `size` the sketch of a page, its longer edge of `edge_px`; with `part` that
    picture, of all its pixels or of at most `edge_px`. It is written to `look` as PNG.

    Raises:
        UnreadableFile: it cannot be drawn.
    """
    allow_nesting()
    name, look = order["name"], Path(order["look"])
    with opened_parts(Path(order["path"]), name) as store:
        try:
            if "part" in order:
                edge_px = order["edge_px"] or _MOST_EDGE_PX
                data = look_of(store, order["part"], edge_px, is_png=True)
                if data is None:
                    raise UnreadableFile(name, f"{order['part']} cannot be drawn")
            else:
                marks = [mark_from(one) for one in order["marks"]]
                size = (order["size"][0], order["size"][1])
                data = sketch_png(
                    marks, size, order["edge_px"], lambda part, edge: look_of(store, part, edge)
                )
        except pyvips.Error:
            raise UnreadableFile(name, "its page cannot be drawn") from None
    look.write_bytes(data)
    return {}


@contextmanager
def opened_parts(path: Path, name: str, beside: Path | None = None) -> Iterator[PartStore]:
    """The parts of a document: of its package, or as they stand in its text.

    Raises:
        UnreadableFile: it cannot be opened.
    """
    if document_kind(path, name) is FileKind.XML:
        store = read_document(path, name, beside).store
        assert store is not None
        yield store
        return
    with Package(path, name) as package:
        yield package


def look_of(store: PartStore, part: str, edge_px: int, *, is_png: bool = False) -> bytes | None:
    """A picture of at most so many pixels on its longer edge; None where it cannot be decoded."""
    try:
        data = store.read(part, MOST_MEDIA_BYTES)
    except UnreadablePart:
        return None
    file = media_of(data, part)
    if file.failure or file.vector not in ("", "svg"):
        return None
    try:
        image = pyvips.Image.thumbnail_buffer(
            data, edge_px, height=edge_px, size="down", no_rotate=True
        )
        if image.interpretation == "cmyk" or image.bands > 4:
            image = image.colourspace("srgb")
        if is_png or image.hasalpha():
            return bytes(image.pngsave_buffer(compression=3, keep="none"))
        return bytes(image.jpegsave_buffer(Q=88, keep="none"))
    except pyvips.Error:
        return None
