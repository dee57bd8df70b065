"""Writing the images of an untrusted document to files, in a process of its own with limits."""

from pathlib import Path

from harnet.core.documents.extraction import file_stem
from harnet.core.documents.images import ImageKind, row_of
from harnet.media.bounded import Order, Tell
from harnet.media.packages.archive import MOST_MEDIA_BYTES, UnreadablePart
from harnet.media.packages.making.held import held_document
from harnet.media.packages.xml import allow_nesting

_AS_IT_IS = "bytes unchanged"
_ENDINGS = {"jpeg": "jpg", "tiff": "tif"}


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    `pages` is a text such as 1-3; `chosen` are pairs of page and place among its images, None for
    all. Files go into `folder` with the bytes that they have in the document, `with_alpha` or not;
    the answer has a row for each time that an image is painted, with its `file` and `how`.

    Raises:
        UnreadableFile: the document cannot be read, or has no such pages.
    """
    allow_nesting()
    folder = Path(order["folder"])
    chosen = order["chosen"]
    wanted = None if chosen is None else {tuple(one) for one in chosen}
    rows = []
    with held_document(Path(order["path"]), order["name"], order["pages"]) as document:
        kept = {one.part for one in document.parts}
        uses = [
            one
            for one in document.images
            if one.kind is ImageKind.RASTER
            and one.part in kept
            and (wanted is None or (one.page_number, one.place) in wanted)
        ]
        total = len({one.part for one in uses})
        written: dict[str, tuple[str, str]] = {}
        for one in uses:
            if one.part not in written:
                stem = file_stem(one.page_number, len(document.facts.pages), one.place)
                name = f"{stem}.{_ENDINGS.get(one.filters, one.filters)}"
                try:
                    data = document.store.read(one.part, MOST_MEDIA_BYTES)
                    (folder / name).write_bytes(data)
                    written[one.part] = name, _AS_IT_IS
                except UnreadablePart as error:
                    written[one.part] = "", str(error)
                tell([len(written), total])
            file, how = written[one.part]
            rows.append(row_of(one) | {"file": file, "how": how})
    return {"rows": rows}
