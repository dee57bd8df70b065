"""A file that somebody gave: whether it is one, and its first bytes, by which its kind is told."""

import stat
from pathlib import Path

from harnet.media.errors import UnreadableFile

FETCH_AGAIN = "Download or export it again"


def beginning_of(path: Path, shown: str, length: int, wanted: str) -> bytes:
    """Up to `length` first bytes of a file, at least one; `wanted` is what it should be.

    Raises:
        UnreadableFile: it is a folder, cannot be opened, or is empty.
    """
    try:
        with path.open("rb") as file:
            start = file.read(length)
    except IsADirectoryError:
        raise UnreadableFile(shown, f"it is a folder, not a {wanted}") from None
    except OSError as error:
        reason = (error.strerror or str(error)).lower()
        raise UnreadableFile(shown, f"the file cannot be opened ({reason})") from None
    if not start:
        raise UnreadableFile(shown, "the file is empty, 0 bytes", FETCH_AGAIN)
    return start


def require_file(path: Path, name: str) -> None:
    """Makes sure that there is a file to read, and no pipe or device that never ends.

    Raises:
        UnreadableFile: there is none.
    """
    try:
        mode = path.stat().st_mode
    except OSError as error:
        reason = (error.strerror or str(error)).lower()
        raise UnreadableFile(name, f"the file cannot be opened ({reason})") from None
    if stat.S_ISDIR(mode):
        raise UnreadableFile(name, "it is a folder, not a picture")
    if not stat.S_ISREG(mode):
        raise UnreadableFile(name, "it is a pipe or a device, not a file")
