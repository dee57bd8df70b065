"""A PDF without its password, written in a process of its own with limits."""

from pathlib import Path

import pikepdf

from harnet.media.bounded import Order, Tell
from harnet.media.pdf.opening.opened import opened_pdf


def work(order: Order, _tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    `to` is the file to write, with every stream as it is but for its encryption.

    Raises:
        UnreadableFile: the PDF cannot be read, or `password` does not open it.
    """
    with opened_pdf(Path(order["path"]), order["name"], order["password"]) as pdf:
        pdf.save(
            order["to"],
            encryption=False,
            compress_streams=False,
            stream_decode_level=pikepdf.StreamDecodeLevel.none,
            object_stream_mode=pikepdf.ObjectStreamMode.preserve,
            fix_metadata_version=False,
        )
    return {}
