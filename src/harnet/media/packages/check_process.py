"""Reading an untrusted document in a process of its own with limits; it hands over one file."""

import json
from pathlib import Path

from harnet.core.documents.document import page_values
from harnet.core.documents.images import row_of
from harnet.media.bounded import Order, Tell
from harnet.media.errors import UnreadableFile
from harnet.media.packages.reading import read_document
from harnet.media.packages.xml import allow_nesting


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    The document is written to `folder` in the form that the reader of PDFs has for a stretch of
    pages, and its number told. `beside` is the folder of pictures that an SVG refers to.

    Raises:
        UnreadableFile: it cannot be read.
    """
    allow_nesting()
    name = order["name"]
    beside = Path(order["beside"]) if order.get("beside") else None
    try:
        read = read_document(Path(order["path"]), name, beside)
    except (MemoryError, RecursionError):
        raise UnreadableFile(
            name, "reading it takes more memory than it may", "Save it again in a simpler form"
        ) from None
    rows = [row_of(one) for one in read.images]
    values = {
        "pages": [page_values(page) for page in read.pages],
        "pictures": rows,
        "images": None,
        "page_count": len(read.pages),
        "whole": {"version": "", "intent": "", "is_damaged": False, **read.whole},
        "unembedded_fonts": [],
    }
    (Path(order["folder"]) / "stretch 0.json").write_text(json.dumps(values))
    tell(0)
    return {}
