"""Reading a document that is no PDF: which reader it takes, and what is told of the whole."""

from dataclasses import replace
from pathlib import Path
from typing import Any

from harnet.core.documents.formats import DocumentFormat
from harnet.core.documents.images import ImageOnPage
from harnet.media.errors import UnreadableFile
from harnet.media.packages.archive import FETCH_AGAIN, Package
from harnet.media.packages.books.book import BookReader, is_book
from harnet.media.packages.gathering import ReadDocument, Refused, short
from harnet.media.packages.leftovers import office_leftovers
from harnet.media.packages.media import MediaStore
from harnet.media.packages.office.sheets import SheetsReader
from harnet.media.packages.office.slides import SlidesReader
from harnet.media.packages.office.texts import TextReader
from harnet.media.packages.opendocument.documents import (
    FlatReader,
    OpenDocumentReader,
    is_opendocument,
)
from harnet.media.packages.relationships import Parts, main_part
from harnet.media.packages.signature import FileKind, document_kind
from harnet.media.packages.xml import child, local
from harnet.media.svg.document import SvgReader

_BY_ROOT = {
    "presentation": (DocumentFormat.PPTX, SlidesReader),
    "document": (DocumentFormat.DOCX, TextReader),
    "workbook": (DocumentFormat.XLSX, SheetsReader),
}
_MOST_IMAGES = 200_000
_MOST_NOTES = 20
_NOT_READ = "It checks PPTX, DOCX, XLSX, ODT, ODP, ODG, EPUB and SVG"


def read_document(path: Path, name: str, beside: Path | None = None) -> ReadDocument:
    """A document with everything that it paints; numbers and places are those of the document.

    `beside` is the folder in which pictures lie that an SVG refers to; None follows none.

    Raises:
        UnreadableFile: it cannot be read.
    """
    try:
        if document_kind(path, name) is FileKind.XML:
            read = _read_xml(path, name, beside)
        else:
            with Package(path, name) as package:
                read = _read_package(package)
    except Refused as error:
        raise UnreadableFile(name, error.reason, error.advice) from None
    if len(read.images) > _MOST_IMAGES:
        raise UnreadableFile(name, f"it shows more than {_MOST_IMAGES} images")
    return replace(read, images=_in_place(read.images))


def _in_place(images: list[ImageOnPage]) -> list[ImageOnPage]:
    """The images with their places on each page, from 1."""
    counts: dict[int, int] = {}
    placed = []
    for one in sorted(images, key=lambda image: image.page_number):
        counts[one.page_number] = counts.get(one.page_number, 0) + 1
        place = counts[one.page_number]
        placed.append(one if one.place == place else replace(one, place=place))
    return placed


def _read_package(package: Package) -> ReadDocument:
    """A document in a ZIP package.

    Raises:
        UnreadableFile: it is none that Harnet checks.
    """
    if is_opendocument(package):
        return OpenDocumentReader(package).read()
    if is_book(package):
        return BookReader(package).read()
    parts = Parts(package)
    part = main_part(parts)
    root = parts.root(part)
    if part is None or root is None:
        if part is not None and part.endswith(".bin"):
            raise UnreadableFile(
                package.name,
                "it is a binary spreadsheet, which Harnet does not read",
                "Save it as XLSX",
            )
        if package.found("[Content_Types].xml") is None:
            raise UnreadableFile(
                package.name, "it is a ZIP file, but none of a document", _NOT_READ
            )
        raise UnreadableFile(package.name, "its main part is missing or damaged", FETCH_AGAIN)
    found = _BY_ROOT.get(local(root))
    if found is None:
        raise UnreadableFile(
            package.name, "it is a package of a kind that Harnet does not read", _NOT_READ
        )
    form, reader = found
    media = MediaStore(package)
    read: ReadDocument = reader(parts, media, part).read()
    told: dict[str, Any] = {
        "format": form.value,
        "leftovers": office_leftovers(parts, media),
        "repeated": media.repeated_values(),
        "notes": [short(one) for one in parts.faults.values()][:_MOST_NOTES],
        "producer": _text(parts, "extended-properties", "Application"),
        "title": _text(parts, "core-properties", "title"),
    }
    return replace(read, whole=read.whole | told)


def _text(parts: Parts, kind: str, name: str) -> str:
    root = parts.root(parts.first("", kind))
    found = child(root, name) if root is not None else None
    return short(found.text or "") if found is not None else ""


def _read_xml(path: Path, name: str, beside: Path | None) -> ReadDocument:
    """A document in one XML file: flat ISO/IEC 26300, or SVG."""
    start = path.read_bytes()[:65_536]
    if b"opendocument:xmlns:office" in start and b"office:document" in start:
        return FlatReader(path, name).read()
    return SvgReader(path, name, beside).read()
