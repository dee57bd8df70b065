"""Whether a file says that it is a PDF."""

from pathlib import Path

from harnet.media.errors import UnreadableFile

FETCH_AGAIN = "Download or export it again"
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
    try:
        with path.open("rb") as file:
            start = file.read(_START_BYTES)
    except IsADirectoryError:
        raise UnreadableFile(shown, "it is a folder, not a PDF") from None
    except OSError as error:
        reason = (error.strerror or str(error)).lower()
        raise UnreadableFile(shown, f"the file cannot be opened ({reason})") from None
    if not start:
        raise UnreadableFile(shown, "the file is empty, 0 bytes", FETCH_AGAIN)
    if b"%PDF-" not in start:
        raise UnreadableFile(shown, "its content is not a PDF", "Give it a PDF to check")
