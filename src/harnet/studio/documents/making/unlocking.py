"""PDFs that need a password: read without it, and what is made of them locked as they were."""

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from harnet.media.packages.signature import FileKind, document_kind
from harnet.studio.documents.making.apart import module_apart


@dataclass(frozen=True, slots=True)
class Locked:
    """A PDF as it is encrypted, and the password that opens it."""

    path: Path
    password: str


def unlock(locked: Locked, name: str, to: Path) -> None:
    """Writes the same PDF without encryption.

    Raises:
        UnreadableFile: the PDF cannot be read, or the password is not its own.
    """
    order = {"password": locked.password, "to": str(to)}
    module_apart("harnet.media.pdf.opening.unlocking", locked.path, name, order)


@contextmanager
def readable(path: Path, name: str, password: str) -> Iterator[tuple[Path, Locked | None]]:
    """The PDF as it can be read, and how it is locked; gone on leaving where it had to be unlocked.

    Another document is read as it is: the password is none of its own.

    Raises:
        UnreadableFile: the file cannot be read, or the password is not its own.
    """
    if not password or document_kind(path, name) is not FileKind.PDF:
        yield path, None
        return
    locked = Locked(path, password)
    with tempfile.TemporaryDirectory() as folder:
        plain = Path(folder) / "unlocked.pdf"
        unlock(locked, name, plain)
        yield plain, locked
