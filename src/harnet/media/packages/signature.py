"""What kind of document a file is, by its first bytes; its name says nothing."""

from enum import Enum
from pathlib import Path

from harnet.media.beginning import FETCH_AGAIN, beginning_of
from harnet.media.errors import UnreadableFile

_START_BYTES = 65_536
_OLDER = b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"
"""The start of a compound file, in which older documents and encrypted ones are kept."""
_ENCRYPTED = "EncryptedPackage".encode("utf-16-le")
_READS = "It checks PDF, PPTX, DOCX, XLSX, ODT, ODP, ODG, EPUB and SVG"


class FileKind(Enum):
    """How a file is opened."""

    PDF = "pdf"
    ZIP = "zip"
    XML = "xml"


def document_kind(path: Path, shown: str) -> FileKind:
    """How a document is opened.

    Raises:
        UnreadableFile: it cannot be opened, or is no document that Harnet checks.
    """
    start = beginning_of(path, shown, _START_BYTES, "document")
    if start.startswith(b"PK\x03\x04"):
        return FileKind.ZIP
    if b"%PDF-" in start[:2048]:
        return FileKind.PDF
    if start.startswith(_OLDER):
        reason, advice = _about_older(path)
        raise UnreadableFile(shown, reason, advice)
    if start.startswith(b"PK"):
        raise UnreadableFile(shown, "it is an empty or divided ZIP file", FETCH_AGAIN)
    if _is_xml(start):
        return FileKind.XML
    raise UnreadableFile(shown, "its content is not a document that Harnet checks", _READS)


def _is_xml(start: bytes) -> bool:
    if start.startswith((b"\xff\xfe", b"\xfe\xff")):
        start = start.decode("utf-16", "ignore").encode()
    text = start.removeprefix(b"\xef\xbb\xbf").lstrip()
    named = (b"<svg", b":svg", b"2000/svg", b"opendocument:xmlns:office")
    return text.startswith(b"<") and any(one in text for one in named)


def _about_older(path: Path) -> tuple[str, str]:
    """Why a compound file is not read, and what to do."""
    with path.open("rb") as file:
        is_encrypted = _ENCRYPTED in file.read(4_000_000)
    if is_encrypted:
        return "the document is encrypted with a password", "Save it without a password"
    reason = "it is in an older binary format that Harnet does not read"
    return reason, "Save it as PPTX, DOCX, XLSX, ODP or ODT"
