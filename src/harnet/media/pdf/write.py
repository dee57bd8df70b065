"""A PDF from page plans: every pixel kept, vector kept vector, text as text."""

import io
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

import cairosvg
import pikepdf
from reportlab.lib.colors import HexColor
from reportlab.pdfgen.canvas import Canvas

from harnet.core.density import EffectiveDensity, effective_density
from harnet.core.geometry import Box, Matrix, quarter_turns, turned_about
from harnet.core.pdfmode import Fate, PdfSettings, fate_of
from harnet.core.shape import Outline
from harnet.media.errors import UnreadableFile
from harnet.media.facts.read import facts_of
from harnet.media.pageplan import (
    LinePart,
    PagePlan,
    Part,
    PicturePart,
    RectanglePart,
    TextPart,
)
from harnet.media.pdf.streams import changed_since, image_stream
from harnet.media.textlines import lines_of, registered_font

STAYS_VECTOR, MISSING = "stays vector", "missing: a marked box stands in its place"
_FROM_PDF_UNIT = Matrix(1, 0, 0, -1, 0, 1)
"""PDF draws images on a unit square whose y grows upwards."""

Progress = Callable[[int, int], None]
FateOf = Callable[[PicturePart], Fate]


def _kept_whole(part: PicturePart) -> Fate:
    return fate_of(part.facts, part.placement, PdfSettings())


@dataclass(frozen=True, slots=True)
class Promise:
    """What the PDF was made to hold of one placed picture.

    `density` runs along the stored picture's axes, None for vector art and missing files.
    """

    page_number: int
    item_id: int
    name: str
    how: str
    px_w: int | None
    px_h: int | None
    density: EffectiveDensity | None


def write_pdf(
    plans: Sequence[PagePlan],
    title: str,
    path: Path,
    progress: Progress = lambda done, total: None,
    fate: FateOf = _kept_whole,
) -> list[Promise]:
    """Writes the pages and says what was promised of each picture, in painting order.

    `fate` says of each raster picture what happens to its pixels; without it every one is kept.

    Media box is trim and bleed; the trim and bleed boxes are written (ISO 32000-2, 14.11.2).

    Raises:
        UnreadableFile: a picture's file cannot be read any more.
    """
    with pikepdf.new() as pdf:
        texts = [part for plan in plans for part in plan.parts if isinstance(part, TextPart)]
        writer = _Writer(pdf, _text_forms(pdf, texts), fate)
        for done, plan in enumerate(plans):
            progress(done, len(plans))
            writer.add_page(plan)
        pdf.docinfo["/Title"] = title
        pdf.docinfo["/Producer"] = "Harnet"
        # 16-bit samples came with PDF 1.5; the rest used here is older.
        pdf.save(path, deterministic_id=True, min_version="1.7")
    progress(len(plans), len(plans))
    return writer.promises


class _Writer:
    """The PDF being written, the pictures it holds already, and what was promised so far."""

    def __init__(self, pdf: pikepdf.Pdf, texts: list[pikepdf.Object], fate: FateOf) -> None:
        self.pdf = pdf
        self._texts = texts
        self.promises: list[Promise] = []
        self._fate = fate
        self._kept: dict[str, tuple[pikepdf.Object, str]] = {}

    def add_page(self, plan: PagePlan) -> None:
        bleed = plan.bleed_pt
        width, height = plan.width_pt + 2 * bleed, plan.height_pt + 2 * bleed
        page = self.pdf.add_blank_page(page_size=(width, height))
        trim = [bleed, bleed, bleed + plan.width_pt, bleed + plan.height_pt]
        page.obj.TrimBox = pikepdf.Array(trim)
        page.obj.BleedBox = pikepdf.Array([0, 0, width, height])
        to_pdf = Matrix(1, 0, 0, -1, bleed, plan.height_pt + bleed)
        xobjects = pikepdf.Dictionary()
        operators: list[str] = []
        for index, part in enumerate(plan.parts):
            operators.append("q")
            operators += self._drawn(part, plan, to_pdf, f"/X{index}", xobjects)
            operators.append("Q")
        page.obj.Resources = pikepdf.Dictionary(XObject=xobjects)
        page.obj.Contents = self.pdf.make_stream("\n".join(operators).encode())
        links = [_link(part, to_pdf) for part in plan.parts if isinstance(part, TextPart)]
        if any(links):
            page.obj.Annots = pikepdf.Array(
                [self.pdf.make_indirect(link) for link in links if link is not None]
            )

    def _drawn(
        self,
        part: Part,
        plan: PagePlan,
        to_pdf: Matrix,
        name: str,
        xobjects: pikepdf.Dictionary,
    ) -> list[str]:
        if isinstance(part, RectanglePart):
            return _rectangle(part, to_pdf)
        if isinstance(part, LinePart):
            return _line(part, to_pdf)
        if isinstance(part, TextPart):
            xobjects[name] = self._texts.pop(0)
            frame = part.frame
            turn = turned_about(part.rotation_deg, frame.centre)
            lower_left = Matrix(1, 0, 0, -1, frame.x, frame.y + frame.height)
            return [_cm(lower_left.then(turn).then(to_pdf)), f"{name} Do"]
        return self._picture(part, plan, to_pdf, name, xobjects)

    def _picture(
        self,
        part: PicturePart,
        plan: PagePlan,
        to_pdf: Matrix,
        name: str,
        xobjects: pikepdf.Dictionary,
    ) -> list[str]:
        clip = [_outline(part.placement.outline.mapped(to_pdf)), "W n"]
        if part.path is None:
            self.promises.append(
                Promise(plan.number, part.item_id, part.name, MISSING, None, None, None)
            )
            return [*clip, *_missing_mark(part.placement.frame, part.placement.turn.then(to_pdf))]
        to_page = part.placement.matrix.then(to_pdf)
        if part.facts.is_vector:
            form = self._vector(part)
            xobjects[name] = form
            self.promises.append(
                Promise(plan.number, part.item_id, part.name, STAYS_VECTOR, None, None, None)
            )
            left, bottom, right, top = (float(side) for side in form.BBox)
            to_unit = Matrix.translation(-left, -bottom).then(
                Matrix.scaling(1 / (right - left), 1 / (top - bottom))
            )
            return [*clip, _cm(to_unit.then(_FROM_PDF_UNIT).then(to_page)), f"{name} Do"]
        image, how = self._image(part)
        xobjects[name] = image
        upright = quarter_turns(part.facts.orientation)
        matrix = _FROM_PDF_UNIT.then(upright).then(to_page)
        px_w, px_h = int(image.Width), int(image.Height)
        density = effective_density(px_w, px_h, matrix)
        self.promises.append(
            Promise(plan.number, part.item_id, part.name, how, px_w, px_h, density)
        )
        return [*clip, _cm(matrix), f"{name} Do"]

    def _image(self, part: PicturePart) -> tuple[pikepdf.Object, str]:
        fate = self._fate(part)
        # Uses that need the same pixels share one stored image.
        key = f"{part.sha256} {fate.px_w}x{fate.px_h} {fate.quality}"
        if key not in self._kept:
            stream, how = image_stream(self.pdf, part, fate)
            self._kept[key] = (self.pdf.make_indirect(stream), how)
        return self._kept[key]

    def _vector(self, part: PicturePart) -> pikepdf.Object:
        if part.sha256 not in self._kept:
            assert part.path is not None
            if not facts_of(part.path, part.name).is_vector:
                raise changed_since(part.name)
            try:
                drawn = cairosvg.svg2pdf(bytestring=part.path.read_bytes(), unsafe=False)
            except Exception as error:
                # The drawing library raises whatever its parts raise.
                raise UnreadableFile(
                    part.name, f"it could not be drawn as vector ({type(error).__name__})"
                ) from error
            self._kept[part.sha256] = (_form_from(self.pdf, drawn, 0), STAYS_VECTOR)
        return self._kept[part.sha256][0]


def _form_from(pdf: pikepdf.Pdf, drawn: bytes, page_index: int) -> pikepdf.Object:
    with pikepdf.open(io.BytesIO(drawn)) as source:
        form = source.pages[page_index].as_form_xobject()
        return pdf.copy_foreign(source.make_indirect(form))


def _text_forms(pdf: pikepdf.Pdf, parts: Sequence[TextPart]) -> list[pikepdf.Object]:
    """Each text frame as a form, in order; the fonts are embedded once for all of them."""
    if not parts:
        return []
    drawn = io.BytesIO()
    canvas = Canvas(drawn, invariant=1, initialFontName=registered_font(parts[0].style.font))
    for part in parts:
        canvas.setPageSize((part.frame.width, part.frame.height))
        canvas.setFont(registered_font(part.style.font), part.style.size_pt)
        canvas.setFillColor(HexColor(part.style.colour))
        for line in lines_of(part.text, part.style, part.frame.width):
            canvas.drawString(line.x_pt, part.frame.height - line.baseline_pt, line.text)
        canvas.showPage()
    canvas.save()
    with pikepdf.open(drawn) as source:
        return [
            pdf.copy_foreign(source.make_indirect(page.as_form_xobject())) for page in source.pages
        ]


def _cm(matrix: Matrix) -> str:
    return " ".join(_number(value) for value in matrix.as_tuple()) + " cm"


def _outline(outline: Outline) -> str:
    def text(point: tuple[float, float]) -> str:
        return f"{_number(point[0])} {_number(point[1])}"

    parts = [f"{text(outline.start)} m"]
    for step in outline.steps:
        parts.append(f"{' '.join(map(text, step))} {'l' if len(step) == 1 else 'c'}")
    return " ".join([*parts, "h"])


def _path(points: Sequence[tuple[float, float]]) -> str:
    corners = [f"{_number(x)} {_number(y)}" for x, y in points]
    return " ".join([f"{corners[0]} m", *(f"{corner} l" for corner in corners[1:]), "h"])


def _number(value: float) -> str:
    return f"{value:.8f}".rstrip("0").rstrip(".")


def _colour(hex_colour: str) -> str:
    return " ".join(_number(int(hex_colour[at : at + 2], 16) / 255) for at in (1, 3, 5))


def _rectangle(part: RectanglePart, to_pdf: Matrix) -> list[str]:
    turn = turned_about(part.rotation_deg, part.frame.centre).then(to_pdf)
    path = _path([turn.applied(x, y) for x, y in part.frame.corners()])
    operators = []
    if part.fill:
        operators.append(f"{_colour(part.fill)} rg {path} f")
    if part.stroke:
        operators.append(f"{_colour(part.stroke)} RG {_number(part.stroke_pt)} w {path} S")
    return operators


def _line(part: LinePart, to_pdf: Matrix) -> list[str]:
    turn = turned_about(part.rotation_deg, part.frame.centre).then(to_pdf)
    middle = part.frame.centre[1]
    ends = [turn.applied(x, middle) for x in (part.frame.x, part.frame.x + part.frame.width)]
    way = " ".join(
        f"{_number(x)} {_number(y)} {sign}" for (x, y), sign in zip(ends, "ml", strict=True)
    )
    return [f"{_colour(part.stroke)} RG {_number(part.stroke_pt)} w {way} S"]


def _link(part: TextPart, to_pdf: Matrix) -> pikepdf.Dictionary | None:
    """A link over a text frame (ISO 32000-2, 12.5.6.5), None where it leads nowhere."""
    if not part.style.link:
        return None
    turn = turned_about(part.rotation_deg, part.frame.centre).then(to_pdf)
    xs, ys = zip(*(turn.applied(x, y) for x, y in part.frame.corners()), strict=True)
    return pikepdf.Dictionary(
        Type=pikepdf.Name.Annot,
        Subtype=pikepdf.Name.Link,
        Rect=pikepdf.Array([min(xs), min(ys), max(xs), max(ys)]),
        Border=pikepdf.Array([0, 0, 0]),
        A=pikepdf.Dictionary(
            S=pikepdf.Name.URI,
            URI=pikepdf.String(part.style.link.encode("ascii", "replace").decode()),
        ),
    )


def _missing_mark(frame: Box, to_pdf: Matrix) -> list[str]:
    corners = [to_pdf.applied(x, y) for x, y in frame.corners()]
    crossed = " ".join(_path([corners[i], corners[j]]) for i, j in ((0, 2), (1, 3)))
    return [
        "0.88 g",
        f"{_path(corners)} f",
        "0.48 0.12 0.24 RG 1 w",
        f"{_path(corners)} S",
        f"{crossed} S",
    ]
