"""The formats of documents made elsewhere, and the words for their parts."""

from enum import Enum


class DocumentFormat(Enum):
    """What a document is, told by its content."""

    PDF = "pdf"
    PPTX = "pptx"
    """A presentation of ISO/IEC 29500."""
    DOCX = "docx"
    """A text document of ISO/IEC 29500."""
    XLSX = "xlsx"
    """A spreadsheet of ISO/IEC 29500; its drawings are checked."""
    ODT = "odt"
    """A text document of ISO/IEC 26300, in a package or as flat XML; so the three below."""
    ODP = "odp"
    ODG = "odg"
    ODS = "ods"
    EPUB = "epub"
    SVG = "svg"

    @property
    def noun(self) -> str:
        """What a sentence calls such a document."""
        return _NOUNS[self]

    @property
    def part(self) -> str:
        """What its parts are counted as."""
        return _PARTS.get(self, "page")

    @property
    def has_pages(self) -> bool:
        """Whether a picture in it stands on a page, a slide or in a section with a number."""
        return self not in (_F.DOCX, _F.ODT, _F.XLSX, _F.ODS)

    @property
    def is_package(self) -> bool:
        """Whether it is anything else than a PDF."""
        return self is not _F.PDF


_F = DocumentFormat
_NOUNS = {
    _F.PDF: "PDF",
    _F.PPTX: "slide deck",
    _F.DOCX: "text document",
    _F.XLSX: "spreadsheet",
    _F.ODT: "text document",
    _F.ODP: "slide deck",
    _F.ODG: "drawing",
    _F.ODS: "spreadsheet",
    _F.EPUB: "book",
    _F.SVG: "SVG",
}
_PARTS = {
    _F.PPTX: "slide",
    _F.ODP: "slide",
    _F.XLSX: "sheet",
    _F.ODS: "sheet",
    _F.EPUB: "section",
    _F.DOCX: "section",
    _F.ODT: "section",
}
