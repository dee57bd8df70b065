"""A report as PDF: headings, tables of short texts, pictures beside sentences, on A4."""

import io
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Image, KeepTogether, Paragraph, SimpleDocTemplate, Spacer, TableStyle
from reportlab.platypus import Table as FlowTable

from harnet.media.pagedrawing.text_lines import registered_font

_INK, _SOFT, _HAIR = HexColor("#1c2833"), HexColor("#566573"), HexColor("#d9dfe3")
_MARGIN_PT = 48.0
_PICTURE_PT = 96.0
_FRAME_PADDING_PT = 6.0
"""What reportlab leaves free inside the margins."""


@dataclass(frozen=True, slots=True)
class Heading:
    """A heading with a line of plain text below."""

    text: str
    below: str = ""


@dataclass(frozen=True, slots=True)
class ReportEntry:
    """A paragraph: a strong beginning and what follows; a picture stands on its left."""

    strong: str
    text: str
    picture: bytes | None = None


@dataclass(frozen=True, slots=True)
class ReportTable:
    """A table: its heads and its rows, all short texts; widths are shares."""

    heads: Sequence[str]
    rows: Sequence[Sequence[str]]
    widths: Sequence[float]


Part = Heading | ReportEntry | ReportTable


def write_report(title: str, parts: Sequence[Part]) -> bytes:
    """The report as the bytes of a PDF; every page has the title and its number at its foot."""
    out = io.BytesIO()
    document = SimpleDocTemplate(
        out,
        pagesize=A4,
        leftMargin=_MARGIN_PT,
        rightMargin=_MARGIN_PT,
        topMargin=_MARGIN_PT,
        bottomMargin=_MARGIN_PT + 12,
        title=title,
        producer="Harnet",
        invariant=True,
        lang="en",
    )
    flow = []
    for part in parts:
        flow += _flowed(part, document.width - 2 * _FRAME_PADDING_PT)
    foot = _foot(title)
    document.build(flow, onFirstPage=foot, onLaterPages=foot)
    return out.getvalue()


def _foot(title: str) -> Callable[[Canvas, SimpleDocTemplate], None]:
    def draw(canvas: Canvas, document: SimpleDocTemplate) -> None:
        canvas.setFont(registered_font("sans-400"), 8)
        canvas.setFillColor(_SOFT)
        canvas.drawString(_MARGIN_PT, 30, title)
        canvas.drawRightString(A4[0] - _MARGIN_PT, 30, str(document.page))

    return draw


def _style(font: str, size: float, leading: float, colour: object = _INK) -> ParagraphStyle:
    return ParagraphStyle(
        font, fontName=registered_font(font), fontSize=size, leading=leading, textColor=colour
    )


def _escaped(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


def _flowed(part: Part, width: float) -> list[object]:
    plain, soft = _style("sans-400", 9, 12), _style("sans-400", 8.5, 11, _SOFT)
    strong = _style("sans-600", 9.5, 12.5)
    if isinstance(part, Heading):
        flow = [Spacer(1, 12), Paragraph(_escaped(part.text), _style("sans-600", 14, 18))]
        return flow + ([Paragraph(_escaped(part.below), soft)] if part.below else [])
    if isinstance(part, ReportEntry):
        words = [Paragraph(_escaped(part.strong), strong), Paragraph(_escaped(part.text), plain)]
        if part.picture is None:
            return [Spacer(1, 6), KeepTogether(words)]
        picture = Image(io.BytesIO(part.picture))
        picture._restrictSize(_PICTURE_PT, _PICTURE_PT)
        pair = FlowTable([[picture, words]], colWidths=[_PICTURE_PT + 10, width - _PICTURE_PT - 10])
        pair.setStyle(
            TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0)])
        )
        return [Spacer(1, 6), pair]
    heads = [Paragraph(_escaped(head), _style("sans-600", 8, 10)) for head in part.heads]
    body = [
        [Paragraph(_escaped(text), _style("sans-400", 8, 10)) for text in row] for row in part.rows
    ]
    whole = sum(part.widths)
    table = FlowTable(
        [heads, *body], colWidths=[width * share / whole for share in part.widths], repeatRows=1
    )
    lines = [("LINEBELOW", (0, 0), (-1, -1), 0.4, _HAIR), ("VALIGN", (0, 0), (-1, -1), "TOP")]
    lines += [("LEFTPADDING", (0, 0), (-1, -1), 0), ("TOPPADDING", (0, 0), (-1, -1), 2)]
    table.setStyle(TableStyle(lines))
    return [Spacer(1, 6), table]
