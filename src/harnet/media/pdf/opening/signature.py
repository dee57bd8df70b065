"""Whether a file says that it is a PDF."""

from pathlib import Path

from harnet.media.beginning import beginning_of
from harnet.media.errors import UnreadableFile

_START_BYTES = 2048


def is_pdf(path: Path) -> bool:
    """Whether a file says that it is a PDF, and not a ZIP that may hold one."""
    try:
        with path.open("rb") as file:
            start = file.read(_START_BYTES)
    except OSError:
        return False
    return b"%PDF-" in start and not start.startswith(b"PK")


def require_pdf(path: Path, shown: str) -> None:
    """Passes a file that can be opened and says that it is a PDF.

    Raises:
        UnreadableFile: it cannot, or does not.
    """
    start = beginning_of(path, shown, _START_BYTES, "PDF")
    if b"%PDF-" not in start:
        raise UnreadableFile(shown, "its content is not a PDF", "Give it a PDF to check")
