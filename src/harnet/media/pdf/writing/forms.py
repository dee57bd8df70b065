"""Text and links of a PDF: forms with their fonts, and annotations."""

import io
from collections.abc import Sequence

import pikepdf
from reportlab.pdfgen.canvas import Canvas

from harnet.core.measure.geometry import Matrix, turned_about
from harnet.media.pagedrawing.plan import PagePlan, TextPart
from harnet.media.pagedrawing.text_lines import lines_of, registered_font, shaped
from harnet.media.pdf.writing.paint import Paint


def links_of(plan: PagePlan) -> list[TextPart]:
    """The text frames of a page that lead somewhere."""
    return [part for part in plan.parts if isinstance(part, TextPart) and part.style.link]


def text_forms(pdf: pikepdf.Pdf, parts: Sequence[TextPart], paint: Paint) -> list[pikepdf.Object]:
    """Each text frame as a form, in order; the fonts are embedded once for all of them."""
    if not parts:
        return []
    drawn = io.BytesIO()
    canvas = Canvas(drawn, invariant=1, initialFontName=registered_font(parts[0].style.font))
    for part in parts:
        canvas.setPageSize((part.frame.width, part.frame.height))
        canvas.setFont(registered_font(part.style.font), part.style.size_pt)
        canvas.setFillColor(paint.for_reportlab(part.style.colour))
        for text_line in lines_of(part.text, part.style, part.frame.width):
            baseline = part.frame.height - text_line.baseline_pt
            canvas.drawString(text_line.x_pt, baseline, shaped(text_line.text, part.style))
        canvas.showPage()
    canvas.save()
    with pikepdf.open(drawn) as source:
        return [
            pdf.copy_foreign(source.make_indirect(page.as_form_xobject())) for page in source.pages
        ]


def link_annotation(part: TextPart, to_pdf: Matrix) -> pikepdf.Dictionary:
    """A link over a text frame (ISO 32000-2, 12.5.6.5)."""
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
