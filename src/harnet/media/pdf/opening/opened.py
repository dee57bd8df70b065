"""Opening a PDF that anyone may have sent, with a clear sentence where it cannot be read."""

import logging
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pikepdf

from harnet.media.beginning import FETCH_AGAIN
from harnet.media.errors import UnreadableFile
from harnet.media.limits import MAX_PDF_PAGES
from harnet.media.pdf.opening.signature import require_pdf

NEEDS_PASSWORD = "the PDF is encrypted and needs a password"
_WRONG_PASSWORD = "the PDF is encrypted and this is not its password"
_BLOCK_BYTES = 1 << 20
_REFUSED = (pikepdf.PdfError, ValueError, RuntimeError, TypeError)
_NO_PAGE = "Pages tree includes"
_DAMAGED = "file is damaged"
"""What qpdf warns of where it puts the table of objects together again."""


@contextmanager
def opened_pdf(
    path: Path, name: str | None = None, password: str = "", *, is_to_be_kept: bool = False
) -> Iterator[pikepdf.Pdf]:
    """The open PDF; closed on leaving. `password` is that of its owner or of its readers.

    One that is to be kept leaves what pages inherit where it stands; otherwise each has its own.

    Raises:
        UnreadableFile: no PDF, encrypted with a password, cut off, damaged, or without pages.
    """
    with _opened(path, name, password, is_to_be_kept) as (pdf, _):
        yield pdf


@contextmanager
def opened_and_told(
    path: Path, name: str | None = None, password: str = ""
) -> Iterator[tuple[pikepdf.Pdf, bool]]:
    """The open PDF, and whether it is damaged and was mended to be read; closed on leaving.

    Raises:
        UnreadableFile: no PDF, encrypted with a password, cut off, too damaged, or without pages.
    """
    with _opened(path, name, password) as found:
        yield found


@contextmanager
def _opened(
    path: Path, name: str | None, password: str, is_to_be_kept: bool = False
) -> Iterator[tuple[pikepdf.Pdf, bool]]:
    shown = name or path.name
    require_pdf(path, shown)
    pdf, is_damaged = _open(path, shown, password, is_to_be_kept)
    with pdf:
        page_count = len(pdf.pages)
        if page_count == 0:
            page_count, is_damaged = _pages_gathered(pdf), True
        if page_count == 0:
            raise UnreadableFile(shown, "the PDF has no pages")
        if page_count > MAX_PDF_PAGES:
            raise UnreadableFile(
                shown, f"the PDF has {page_count} pages; the limit is {MAX_PDF_PAGES}"
            )
        yield pdf, is_damaged


def _open(path: Path, shown: str, password: str, is_to_be_kept: bool) -> tuple[pikepdf.Pdf, bool]:
    """The PDF with its pages counted, and whether it had to be mended.

    Raises:
        UnreadableFile: encrypted, incomplete or damaged beyond mending.
    """
    has_end = _has_end(path)
    try:
        with _listening() as heard:
            pdf = pikepdf.open(path, password=password, inherit_page_attributes=not is_to_be_kept)
            # A look at the pages finds what opening does not.
            len(pdf.pages)
        warnings = pdf.get_warnings()
        if has_end or not warnings:
            return pdf, heard.lost_pages or any(_DAMAGED in str(warning) for warning in warnings)
        pdf.close()
    except pikepdf.PasswordError:
        reason = _WRONG_PASSWORD if password else NEEDS_PASSWORD
        raise UnreadableFile(shown, reason, "Give its password, or save it without one") from None
    except _REFUSED as error:
        if "ncrypt" in str(error):
            raise UnreadableFile(
                shown,
                "the PDF is encrypted in a way that Harnet cannot open, for example with"
                " certificates",
                "Save it without encryption and try again",
            ) from None
    again = _mended(path) if has_end else None
    if again is not None:
        return again, True
    failure = "the PDF is damaged" if has_end else "the PDF is incomplete"
    raise UnreadableFile(shown, failure, FETCH_AGAIN)


def _pages_gathered(pdf: pikepdf.Pdf) -> int:
    """Puts pages that no tree holds into one, in the order of the file; returns how many."""
    found = [
        thing
        for thing in pdf.objects
        if isinstance(thing, pikepdf.Dictionary) and thing.get("/Type") == "/Page"
    ]
    for page in found[: MAX_PDF_PAGES + 1]:
        pdf.pages.append(pikepdf.Page(page))
    return len(pdf.pages)


class _Heard(logging.Handler):
    """What the library says of a PDF on its way, beside its list of warnings."""

    def __init__(self) -> None:
        super().__init__()
        self.said: list[str] = []

    def emit(self, record: logging.LogRecord) -> None:
        """Keeps what is said."""
        self.said.append(record.getMessage())

    @property
    def lost_pages(self) -> bool:
        """Whether the tree of pages names something that is none."""
        return any(_NO_PAGE in one for one in self.said)


@contextmanager
def _listening() -> Iterator[_Heard]:
    logger, heard = logging.getLogger("pikepdf._core"), _Heard()
    logger.addHandler(heard)
    try:
        yield heard
    finally:
        logger.removeHandler(heard)


def _mended(path: Path) -> pikepdf.Pdf | None:
    # Its library takes as long to import as a hundred pages to read, and few PDFs need it.
    from harnet.media.pdf.opening.mending import mended  # noqa: PLC0415

    return mended(path)


def _has_end(path: Path) -> bool:
    """Whether the end is there; mail and storage leave all sorts of bytes behind it."""
    with path.open("rb") as file:
        end = path.stat().st_size
        while end > 0:
            start = max(0, end - _BLOCK_BYTES)
            file.seek(start)
            if b"%%EOF" in file.read(end - start + len(b"%%EOF")):
                return True
            end = start
    return False
