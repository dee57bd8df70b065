"""Opening a PDF that anyone may have sent, with a clear sentence where it cannot be read."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pikepdf

from harnet.media.errors import UnreadableFile
from harnet.media.limits import MAX_PDF_PAGES
from harnet.media.pdf.signature import FETCH_AGAIN, require_pdf

_TAIL_BYTES = 2048


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
        raise UnreadableFile(shown, _damage(path), FETCH_AGAIN) from None
    with pdf:
        try:
            is_mended = bool(pdf.get_warnings())
            page_count = len(pdf.pages)
        except (pikepdf.PdfError, ValueError, RuntimeError, TypeError):
            raise UnreadableFile(shown, _damage(path), FETCH_AGAIN) from None
        if is_mended and not _has_end(path):
            raise UnreadableFile(shown, _damage(path), FETCH_AGAIN)
        if page_count == 0:
            raise UnreadableFile(shown, "the PDF has no pages")
        if page_count > MAX_PDF_PAGES:
            raise UnreadableFile(
                shown, f"the PDF has {page_count} pages; the limit is {MAX_PDF_PAGES}"
            )
        yield pdf


def _has_end(path: Path) -> bool:
    with path.open("rb") as file:
        file.seek(max(0, path.stat().st_size - _TAIL_BYTES))
        return b"%%EOF" in file.read()


def _damage(path: Path) -> str:
    return "the PDF is damaged" if _has_end(path) else "the PDF breaks off before its end"
