"""Reading an output PDF back with readers that had no part in writing it: pdfium and pypdf."""

import ctypes
from contextlib import suppress
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path

import pypdf
import pypdfium2
import pypdfium2.raw as pdfium

from harnet.core.measure.density import EffectiveDensity, effective_density
from harnet.core.measure.geometry import Matrix
from harnet.media.pdf.writing.boxes import Edges, PageBoxes

_DEEPEST_FORM = 5
_PAGES_AT_ONCE = 10
"""pdfium keeps what it has read in memory until its document is closed."""


@dataclass(frozen=True, slots=True)
class FoundImage:
    """An image as pdfium finds it on a page."""

    page_number: int
    px_w: int
    px_h: int
    density: EffectiveDensity


@dataclass(frozen=True, slots=True)
class FoundPage:
    """A page as pdfium finds it: label, boxes in points, and where its links lead."""

    label: str
    boxes: PageBoxes
    links: tuple[str, ...]

    @property
    def trim_size_pt(self) -> tuple[float, float]:
        """Width and height of the trim box."""
        left, bottom, right, top = self.boxes.trim
        return right - left, top - bottom


@dataclass(frozen=True, slots=True, kw_only=True)
class FoundPdf:
    """What is found in a PDF; `fonts` by name, with whether each is embedded."""

    pages: tuple[FoundPage, ...]
    images: tuple[FoundImage, ...]
    inner_images: tuple[FoundImage, ...]
    """The images inside forms, as vector pictures bring them."""
    fonts: dict[str, bool]
    title: str = ""
    language: str = ""
    version: str = ""
    standard: str = ""
    """What it claims to be, such as PDF/X-4; empty for a plain PDF."""
    intent: str = ""
    """The name of its output intent; empty without one that holds a profile."""
    intent_sha256: str = ""
    """The hash of that profile."""


def read_back(path: Path) -> FoundPdf:
    """Pages, images by formula 1 from pdfium's own matrices, fonts, and what the whole claims."""
    pages: list[FoundPage] = []
    images: list[FoundImage] = []
    inner: list[FoundImage] = []
    fonts: dict[str, bool] = {}
    count, title = _count_and_title(path)
    for first in range(0, count, _PAGES_AT_ONCE):
        with pypdfium2.PdfDocument(path) as pdf:
            for index in range(first, min(first + _PAGES_AT_ONCE, count)):
                page = pdf[index]
                pages.append(_page(pdf, page, index))
                images += _images(page, index + 1)
                inner += _inner_images(page, index + 1)
                _add_fonts(page, fonts)
                page.close()
    # From an open file: from a path all of it would be read into memory.
    with path.open("rb") as file, pypdf.PdfReader(file) as reader:
        root = reader.root_object
        language = str(root.get("/Lang", ""))
        intent, intent_sha256 = _intent(root)
        xmp = reader.xmp_metadata
        standard = "" if xmp is None else _x_version(xmp)
        version = reader.pdf_header.removeprefix("%PDF-")
    return FoundPdf(
        pages=tuple(pages),
        images=tuple(images),
        inner_images=tuple(inner),
        fonts=fonts,
        title=title,
        language=language,
        version=version,
        standard=standard,
        intent=intent,
        intent_sha256=intent_sha256,
    )


def _count_and_title(path: Path) -> tuple[int, str]:
    with pypdfium2.PdfDocument(path) as pdf:
        return len(pdf), pdf.get_metadata_value("Title")


def _page(pdf: pypdfium2.PdfDocument, page: pypdfium2.PdfPage, index: int) -> FoundPage:
    boxes: list[Edges] = [page.get_mediabox(), page.get_bleedbox(), page.get_trimbox()]
    return FoundPage(pdf.get_page_label(index), PageBoxes(*boxes), tuple(_links(pdf, page)))


def _images(page: pypdfium2.PdfPage, number: int) -> list[FoundImage]:
    found = []
    for image in page.get_objects(filter=[pdfium.FPDF_PAGEOBJ_IMAGE], max_depth=1):
        a, b, c, d, e, f = image.get_matrix().get()
        px_w, px_h = image.get_px_size()
        density = effective_density(px_w, px_h, Matrix(a, b, c, d, e, f))
        found.append(FoundImage(number, px_w, px_h, density))
    return found


def _inner_images(page: pypdfium2.PdfPage, number: int) -> list[FoundImage]:
    """The images inside the forms of a page, however deep, with all matrices multiplied in."""
    found: list[FoundImage] = []
    for form in page.get_objects(filter=[pdfium.FPDF_PAGEOBJ_FORM], max_depth=1):
        _look_inside(page, form.raw, Matrix(), number, found, _DEEPEST_FORM)
    return found


def _look_inside(
    page: pypdfium2.PdfPage,
    form: object,
    outer: Matrix,
    number: int,
    found: list[FoundImage],
    levels: int,
) -> None:
    matrix = _matrix_of(form).then(outer)
    for index in range(pdfium.FPDFFormObj_CountObjects(form)):
        thing = pdfium.FPDFFormObj_GetObject(form, index)
        kind = pdfium.FPDFPageObj_GetType(thing)
        if kind == pdfium.FPDF_PAGEOBJ_FORM and levels > 1:
            _look_inside(page, thing, matrix, number, found, levels - 1)
        elif kind == pdfium.FPDF_PAGEOBJ_IMAGE:
            px_w, px_h = pypdfium2.PdfImage(thing, page=page).get_px_size()
            on_page = _matrix_of(thing).then(matrix)
            if px_w and px_h and on_page.determinant:
                density = effective_density(px_w, px_h, on_page)
                found.append(FoundImage(number, px_w, px_h, density))


def _matrix_of(thing: object) -> Matrix:
    found = pdfium.FS_MATRIX()
    pdfium.FPDFPageObj_GetMatrix(thing, found)
    return Matrix(found.a, found.b, found.c, found.d, found.e, found.f)


def _add_fonts(page: pypdfium2.PdfPage, fonts: dict[str, bool]) -> None:
    for text in page.get_objects(filter=[pdfium.FPDF_PAGEOBJ_TEXT], max_depth=_DEEPEST_FORM):
        with suppress(pypdfium2.PdfiumError):
            font = text.get_font()
            # A subset's name begins with a tag of its own and a plus (ISO 32000-2, 9.9.2).
            name = font.get_base_name().rpartition("+")[2]
            fonts[name] = fonts.get(name, True) and font.is_embedded


def _links(pdf: pypdfium2.PdfDocument, page: pypdfium2.PdfPage) -> list[str]:
    found, position, link = [], ctypes.c_int(0), pdfium.FPDF_LINK()
    while pdfium.FPDFLink_Enumerate(page.raw, position, link):
        action = pdfium.FPDFLink_GetAction(link)
        length = pdfium.FPDFAction_GetURIPath(pdf.raw, action, None, 0) if action else 0
        if length:
            buffer = ctypes.create_string_buffer(length)
            pdfium.FPDFAction_GetURIPath(pdf.raw, action, buffer, length)
            found.append(buffer.value.decode("ascii", "replace"))
    return found


def _x_version(xmp: pypdf.xmp.XmpInformation) -> str:
    nodes = xmp.get_element("", "http://www.npes.org/pdfx/ns/id/", "GTS_PDFXVersion")
    for node in nodes:
        value = getattr(node, "value", None) or "".join(
            child.data for child in node.childNodes if child.nodeType == child.TEXT_NODE
        )
        if value:
            return str(value)
    return ""


def _intent(root: pypdf.generic.DictionaryObject) -> tuple[str, str]:
    """The name of the output intent, and the SHA-256 of the profile that it holds."""
    for entry in root.get("/OutputIntents", []):
        intent = entry.get_object()
        if intent.get("/S") == "/GTS_PDFX" and "/DestOutputProfile" in intent:
            name = str(intent.get("/OutputCondition") or intent.get("/Info") or "unnamed")
            return name, sha256(intent["/DestOutputProfile"].get_data()).hexdigest()
    return "", ""
