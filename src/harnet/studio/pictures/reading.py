"""What the readings of shelves have in common, in a folder and in a bucket."""

from typing import Protocol

from sqlalchemy.orm import Session

from harnet.core.pictures.picture import Facts, facts_as_values
from harnet.media.errors import UnreadableFile
from harnet.store.tables.pictures import Picture, Shelf

DEEPEST = 8
"""So many folders inside each other are read."""
_LONGEST_NAME = 255


class Reading(Protocol):
    """One thing to be read of a shelf."""

    def __call__(self, session: Session, shelf: Shelf) -> int:
        """Reads it; returns how many pictures are new by it.

        Raises:
            UnreadableFile: it is no usable picture, or not just now.
        """


def require_short(name: str) -> None:
    """Refuses a file whose name does not fit.

    Raises:
        UnreadableFile: with its folders it is too long.
    """
    if len(name) > _LONGEST_NAME:
        short = name.rpartition("/")[2]
        raise UnreadableFile(short, "its name with its folders is too long")


def read_picture(
    shelf: Shelf, name: str, sha256: str, facts: Facts, size_bytes: int, modified_ns: int
) -> Picture:
    """The row of a picture that was read by its header; its previews come later."""
    return Picture(
        shelf=shelf,
        file_name=name,
        sha256=sha256,
        facts=facts_as_values(facts),
        size_bytes=size_bytes,
        modified_ns=modified_ns,
        is_previewed=False,
    )
