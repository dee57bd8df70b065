"""Opening a PDF that anyone may have sent, with a clear sentence where it cannot be read."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pikepdf

from harnet.media.errors import UnreadableFile
from harnet.media.limits import MAX_PDF_PAGES

_TAIL_BYTES = 2048
_FETCH_AGAIN = "Fetch or export it again"


@contextmanager
def opened_pdf(path: Path, name: str | None = None) -> Iterator[pikepdf.Pdf]:
    """The open PDF; closed on leaving.

    Raises:
        UnreadableFile: no PDF, encrypted with a password, cut off, damaged, or without pages.
    """
    shown = name or path.name
    require_pdf(path, shown)
    try:
        pdf = pikepdf.open(path)
    except pikepdf.PasswordError:
        raise UnreadableFile(
            shown, "the PDF is encrypted and needs a password", "Save it without one and try again"
        ) from None
    except (pikepdf.PdfError, ValueError, RuntimeError):
        raise UnreadableFile(shown, _damage(path), _FETCH_AGAIN) from None
    with pdf:
        try:
            is_mended = bool(pdf.get_warnings())
            page_count = len(pdf.pages)
        except (pikepdf.PdfError, ValueError, RuntimeError, TypeError):
            raise UnreadableFile(shown, _damage(path), _FETCH_AGAIN) from None
        if is_mended and not _has_end(path):
            raise UnreadableFile(shown, _damage(path), _FETCH_AGAIN)
        if page_count == 0:
            raise UnreadableFile(shown, "the PDF has no pages")
        if page_count > MAX_PDF_PAGES:
            raise UnreadableFile(
                shown, f"the PDF has {page_count} pages; the limit is {MAX_PDF_PAGES}"
            )
        yield pdf


def require_pdf(path: Path, shown: str) -> None:
    """Passes a file that can be opened and says that it is a PDF.

    Raises:
        UnreadableFile: it cannot, or does not.
    """
    try:
        with path.open("rb") as file:
            start = file.read(_TAIL_BYTES)
    except IsADirectoryError:
        raise UnreadableFile(shown, "it is a folder, not a PDF") from None
    except OSError as error:
        reason = (error.strerror or str(error)).lower()
        raise UnreadableFile(shown, f"the file cannot be opened ({reason})") from None
    if not start:
        raise UnreadableFile(shown, "the file is empty, 0 bytes", _FETCH_AGAIN)
    if b"%PDF-" not in start:
        raise UnreadableFile(shown, "its content is not a PDF", "Give it a PDF to check")


def _has_end(path: Path) -> bool:
    with path.open("rb") as file:
        file.seek(max(0, path.stat().st_size - _TAIL_BYTES))
        return b"%%EOF" in file.read()


def _damage(path: Path) -> str:
    return "the PDF is damaged" if _has_end(path) else "the PDF breaks off before its end"
