"""Two invented print houses with different demands; each looks at a PDF with readers of its own.

They share no code with what Harnet writes and checks by: pdfium finds the images and fonts, pypdf
the boxes and the output intent.
"""

from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

import pypdf
import pypdfium2
import pypdfium2.raw as pdfium
from pypdf.errors import PyPdfError

from harnet.core.measure.density import effective_density
from harnet.core.measure.geometry import Matrix
from harnet.core.measure.units import MM_PER_INCH, POINTS_PER_INCH
from harnet.core.measure.wording import bytes_text, counted
from harnet.studio.outside.print_house import Answer, IntakeError, PrintHouse

_MOST_REASONS = 40
_DEEPEST_FORM = 4
_PT_PER_MM = POINTS_PER_INCH / MM_PER_INCH
_AGAINST_ROUNDING = 0.01


@dataclass(frozen=True, slots=True, kw_only=True)
class Demands:
    """What a house wants; lengths in millimetres, densities in ppi."""

    least_ppi: float
    least_bilevel_ppi: float
    bleed_mm: float
    standard: str = ""
    wants_inks: bool = False
    """Pictures must not be RGB."""
    most_pages: int = 10_000
    most_bytes: int = 2_000_000_000
    allows_marks: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class _SeenImage:
    page: int
    px_w: int
    px_h: int
    ppi: float
    bits: int
    space: int


@dataclass(frozen=True, slots=True)
class Intake:
    """An intake that looks at a PDF by its house's demands."""

    key: str
    name: str
    wants: Demands

    @property
    def demands(self) -> tuple[str, ...]:
        """What it wants of a PDF, in sentences."""
        wants = self.wants
        demands = [
            f"Pictures have at least {wants.least_ppi:g} ppi at their printed size, 1-bit art"
            f" {wants.least_bilevel_ppi:g}.",
            f"At least {wants.bleed_mm:g} mm bleed on every side."
            if wants.bleed_mm
            else "No bleed is needed.",
            "Every font is embedded.",
        ]
        if wants.standard:
            demands.append(f"{wants.standard} with an output intent.")
        if wants.wants_inks:
            demands.append("Pictures are grey or CMYK.")
        if not wants.allows_marks:
            demands.append("No printer's marks: the media box is the bleed box.")
        if wants.most_pages < 1000:
            demands.append(f"At most {counted(wants.most_pages, 'page')} in a file.")
        demands.append(f"No file above {bytes_text(wants.most_bytes)}.")
        return tuple(demands)

    def take(self, path: Path) -> Answer:
        """Checks a PDF.

        Raises:
            IntakeError: it is too large to send, or cannot be opened.
        """
        size = path.stat().st_size
        if size > self.wants.most_bytes:
            raise IntakeError(
                f"{self.name} takes no file above {bytes_text(self.wants.most_bytes)}; this one has"
                f" {bytes_text(size)}."
            )
        try:
            with path.open("rb") as file, pypdf.PdfReader(file) as reader:
                reasons = [*self._of_pages(reader), *self._of_whole(reader)]
                pages = len(reader.pages)
            images, unembedded_fonts = _seen(path)
        except (PyPdfError, pypdfium2.PdfiumError):
            raise IntakeError(f"{self.name} could not open the file.") from None
        reasons += self._of_images(images)
        reasons += [f"The font {name} is not embedded." for name in sorted(unembedded_fonts)]
        looked_at = [counted(pages, "page"), counted(len(images), "picture")]
        if images:
            looked_at.append(f"lowest density {min(image.ppi for image in images):.0f} ppi")
        if len(reasons) > _MOST_REASONS:
            more = len(reasons) - _MOST_REASONS
            reasons = [*reasons[:_MOST_REASONS], f"And {counted(more, 'reason')} more."]
        return Answer(not reasons, tuple(reasons), tuple(looked_at))

    def _of_whole(self, reader: pypdf.PdfReader) -> Iterator[str]:
        wants = self.wants
        if len(reader.pages) > wants.most_pages:
            yield f"{len(reader.pages)} pages; at most {wants.most_pages} are taken."
        if wants.standard:
            xmp = reader.root_object.get("/Metadata")
            text = xmp.get_object().get_data().decode("utf-8", "replace") if xmp else ""
            if f">{wants.standard}<" not in text:
                yield f"The file does not say that it is {wants.standard}."
            intents = [one.get_object() for one in reader.root_object.get("/OutputIntents", [])]
            if not any("/DestOutputProfile" in intent for intent in intents):
                yield "There is no output intent with a profile."

    def _of_pages(self, reader: pypdf.PdfReader) -> Iterator[str]:
        wants = self.wants
        for number, page in enumerate(reader.pages, 1):
            trim, bleed, media = page.trimbox, page.bleedbox, page.mediabox
            gaps = (
                trim.left - bleed.left,
                trim.bottom - bleed.bottom,
                bleed.right - trim.right,
                bleed.top - trim.top,
            )
            found = min(float(gap) for gap in gaps) / _PT_PER_MM
            if found < wants.bleed_mm - _AGAINST_ROUNDING:
                yield f"Page {number} has {max(0.0, found):.1f} mm bleed, not {wants.bleed_mm:g}."
            if not wants.allows_marks and media.width - bleed.width > 1:
                yield f"Page {number} has room for marks around it."

    def _of_images(self, images: list[_SeenImage]) -> Iterator[str]:
        wants = self.wants
        for image in images:
            least = wants.least_bilevel_ppi if image.bits == 1 else wants.least_ppi
            if image.ppi < least - _AGAINST_ROUNDING:
                yield (
                    f"Page {image.page}: a picture of {image.px_w} × {image.px_h} px has"
                    f" {image.ppi:.0f} ppi, not {least:g}."
                )
            if wants.wants_inks and image.space in _RGB_SPACES:
                yield f"Page {image.page}: a picture of {image.px_w} × {image.px_h} px is RGB."


_RGB_SPACES = (pdfium.FPDF_COLORSPACE_DEVICERGB, pdfium.FPDF_COLORSPACE_CALRGB)


def _seen(path: Path) -> tuple[list[_SeenImage], set[str]]:
    """The images of a PDF and the names of fonts that are not embedded."""
    images, loose = [], set()
    with pypdfium2.PdfDocument(path) as pdf:
        count = len(pdf)
    for index in range(count):
        # Opened for each page: pdfium holds on to what it has read.
        with pypdfium2.PdfDocument(path) as pdf:
            page = pdf[index]
            for thing in page.get_objects(max_depth=_DEEPEST_FORM):
                if thing.type == pdfium.FPDF_PAGEOBJ_IMAGE:
                    images.append(_image(thing, index + 1))
                elif thing.type == pdfium.FPDF_PAGEOBJ_TEXT:
                    with suppress(pypdfium2.PdfiumError):
                        font = thing.get_font()
                        if not font.is_embedded:
                            loose.add(font.get_base_name())
            page.close()
    return images, loose


def _image(thing: pypdfium2.PdfImage, number: int) -> _SeenImage:
    facts = thing.get_metadata()
    a, b, c, d, e, f = thing.get_matrix().get()
    density = effective_density(facts.width, facts.height, Matrix(a, b, c, d, e, f))
    components = {pdfium.FPDF_COLORSPACE_ICCBASED: facts.bits_per_pixel // 8}
    space = facts.colorspace
    if components.get(space) == 3:
        space = pdfium.FPDF_COLORSPACE_DEVICERGB
    return _SeenImage(
        page=number,
        px_w=facts.width,
        px_h=facts.height,
        ppi=density.worst,
        bits=facts.bits_per_pixel,
        space=space,
    )


SKERRY_PRESS = Intake(
    "skerry",
    "Skerry Press, books and brochures",
    Demands(
        least_ppi=250,
        least_bilevel_ppi=800,
        bleed_mm=3,
        standard="PDF/X-4",
        wants_inks=True,
        most_bytes=500_000_000,
    ),
)
NORTHQUAY = Intake(
    "northquay",
    "Northquay Large Format",
    Demands(
        least_ppi=60,
        least_bilevel_ppi=300,
        bleed_mm=0,
        most_pages=4,
        most_bytes=200_000_000,
        allows_marks=False,
    ),
)


def print_houses() -> tuple[PrintHouse, ...]:
    """The houses of the scenario."""
    return (SKERRY_PRESS, NORTHQUAY)
