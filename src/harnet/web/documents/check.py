"""Check a PDF: drop it, see every picture that it paints on its pages and on the ruler."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from flask import Blueprint, Response, jsonify, render_template, request, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy.orm import Session

from harnet.core.documents.painted import Painted, ReadPage, line_of
from harnet.core.documents.userspace import SeenSpace, seen_space
from harnet.core.ledger.lines import Line, seen_counts, tried_on, wanted_lines
from harnet.core.measure.wording import density_text, ppi_text
from harnet.core.preflight.finding import Finding
from harnet.core.preflight.painted import findings_on, findings_on_whole
from harnet.core.targets.target import Target
from harnet.store.tables.documents import CheckedPdf
from harnet.studio.common.errors import Refused
from harnet.studio.documents.accepting import acceptances_of
from harnet.studio.documents.kept import (
    READ_PDF,
    all_pdfs,
    counts_of,
    delete_pdf,
    judge_by,
    keep_pdf,
    pdf_with,
    pictures_in,
    read_of,
    target_of_pdf,
)
from harnet.studio.documents.pages import page_picture
from harnet.studio.documents.report import split_by
from harnet.studio.documents.spots import outline_on
from harnet.studio.targets.targets import target_asked, target_with
from harnet.studio.tasks.states import RUNNING
from harnet.web.common.ruler import Ruler, Scale, ruler_of, spots_of_lines
from harnet.web.common.shared import desk, in_background
from harnet.web.common.values import row_number
from harnet.web.documents.asked import after_the_hand, pdf_asked, scale_for
from harnet.web.ledger.asked import Asked

blueprint = Blueprint("pdfcheck", __name__, url_prefix="/pdf")
_MOST_ROWS = 300
_FOREVER = 365 * 24 * 3600


@dataclass(frozen=True, slots=True)
class PdfRow:
    """A picture of a PDF as the list shows it."""

    picture: Painted
    line: Line
    ppi: str
    size: str
    pieces: Sequence[tuple[int, int]]
    findings: Sequence[Finding]


@dataclass(frozen=True, slots=True)
class Outline:
    """A picture's outline on the page as it is drawn, in points, and its badge."""

    picture: Painted
    line: Line
    points: str
    ppi: str
    badge: str
    badge_x: float
    badge_y: float
    badge_w: float
    has_badge: bool
    """Whether it has room for one."""


@blueprint.get("")
def listing() -> str:
    """The drop area, and the PDFs that were checked."""
    with desk().session() as session:
        return render_template("documents/list.html", **_list_values(session))


@blueprint.get("/rows")
def rows() -> str:
    """The list alone; the page asks again while something is being read."""
    with desk().session() as session:
        return render_template("documents/_rows.html", **_list_values(session))


def _list_values(session: Session) -> dict[str, object]:
    pdfs = all_pdfs(session)
    counts = {pdf.id: counts_of(session, pdf) for pdf in pdfs}
    return {"pdfs": pdfs, "counts": counts, "running": RUNNING}


@blueprint.post("/upload")
def upload() -> ResponseReturnValue:
    """Takes one PDF; the page sends several one after the other."""
    file = request.files.get("file")
    if file is None or not file.filename:
        raise Refused("Choose a PDF.")
    with desk().session() as session:
        target = target_with(session, "coated")
        pdf = keep_pdf(desk(), session, file.filename, file.stream, target)
        pdf_id, name = pdf.id, pdf.file_name
    in_background(READ_PDF, row_id=pdf_id)
    return jsonify(name=name, is_known=False, address=url_for("pdfcheck.show", pdf_id=pdf_id))


@blueprint.get("/<int:pdf_id>")
def show(pdf_id: int) -> str:
    """A page of the PDF with its pictures outlined, the ruler, and every picture in a list."""
    with desk().session() as session:
        pdf = pdf_with(session, pdf_id)
        values = _values(session, pdf)
        is_fragment = "HX-Request" in request.headers
        return render_template(
            "documents/_check.html" if is_fragment else "documents/check.html", **values
        )


def _values(session: Session, pdf: CheckedPdf) -> dict[str, object]:
    own, read = target_of_pdf(pdf), read_of(pdf)
    pictures = {picture.id: picture for picture in pictures_in(session, pdf)}
    settled = [line_of(picture, own) for picture in pictures.values()]
    scale = scale_for(settled, own)
    asked = after_the_hand(pdf, pdf_asked(session, request.args, own), scale)
    target = asked.tried or own
    lines = tried_on(settled, asked.tried, own) if asked.tried else settled
    parts = asked.parts
    chosen = pictures.get(row_number(parts["select"]) or 0)
    first = chosen.page_number if chosen else 1
    number = row_number(parts["page"]) or first
    number = min(max(1, number), max(1, len(read.pages)))
    wanted = replace(asked.wanted, page=number) if parts["only"] else asked.wanted
    shown = wanted_lines(lines, wanted, target.density_ppi)
    listed = [pictures[line.item_id] for line in shown[:_MOST_ROWS]]
    found: dict[int, list[Finding]] = {}
    acceptances = acceptances_of(session, pdf)
    on_pictures, passed = split_by(findings_on(listed, read, target), acceptances)
    for finding in on_pictures:
        found.setdefault(finding.item_id, []).append(finding)
    on_whole, whole_passed = split_by(findings_on_whole(read, target), acceptances)
    drawing = _drawing(read.pages, number)
    return {
        "pdf": pdf,
        "asked": asked,
        "here": url_for("pdfcheck.show", pdf_id=pdf.id),
        "target": target,
        "own": own,
        "number": number,
        "counts": seen_counts(lines),
        "unseen": sum(line.judged_ppi is None for line in lines),
        "ruler": _ruler(settled, lines, own, asked, scale, chosen),
        "whole_findings": on_whole,
        "whole_passed": whole_passed,
        "passed": {finding.item_id for finding, _ in passed},
        "rows": [
            _row(pictures[line.item_id], line, found.get(line.item_id, ()))
            for line in shown[:_MOST_ROWS]
        ],
        "hidden": max(0, len(shown) - _MOST_ROWS),
        "total": len(lines),
        "outlines": _outlines(read.pages, number, pictures.values(), target),
        "drawing": drawing,
        "badge_pt": _badge_pt(drawing) if drawing else 0,
        "chosen": chosen,
        "colours": sorted({picture.colour for picture in pictures.values()}),
        "running": RUNNING,
    }


def _ruler(
    settled: Sequence[Line],
    lines: Sequence[Line],
    own: Target,
    asked: Asked,
    scale: Scale,
    chosen: Painted | None,
) -> Ruler:
    """Dots stand where their densities are; their signs are by the target that is tried."""
    verdicts = {line.item_id: line.verdict for line in lines}
    spots = [
        replace(spot, verdict=verdicts[spot.item_id])
        for spot in spots_of_lines([line for line in settled if line.judged_ppi is not None])
    ]
    below = sum(line.verdict.falls_short for line in lines if line.judged_ppi is not None)
    wanted = asked.wanted
    brushed = (wanted.from_ppi, wanted.to_ppi) if wanted.to_ppi else None
    selected = [chosen.id] if chosen else []
    return ruler_of(spots, own, below, scale, selected, asked.tried, brushed)


def _row(picture: Painted, line: Line, findings: Sequence[Finding]) -> PdfRow:
    pieces = list(zip(picture.pieces[::2], picture.pieces[1::2], strict=True))
    return PdfRow(picture, line, density_text(picture.density), picture.size_text, pieces, findings)


def _drawing(pages: Sequence[ReadPage], number: int) -> SeenSpace | None:
    """A page as it is drawn."""
    if not 1 <= number <= len(pages):
        return None
    page = pages[number - 1]
    return seen_space(page.box, page.turn_deg)


def _outlines(
    pages: Sequence[ReadPage], number: int, pictures: Iterable[Painted], target: Target
) -> list[Outline]:
    drawing = _drawing(pages, number)
    if drawing is None:
        return []
    size_pt = _badge_pt(drawing)
    outlines = []
    for picture in pictures:
        if picture.page_number != number or picture.unseen:
            continue
        corners = outline_on(picture, pages[number - 1])
        line = line_of(picture, target)
        badge = f"{ppi_text(line.judged_ppi or 0.0)} ppi"
        left = max(0.0, min(x for x, _ in corners))
        right = min(drawing.width_pt, max(x for x, _ in corners))
        bottom = min(drawing.height_pt, max(y for _, y in corners))
        width = size_pt * (0.55 * len(badge) + 0.8)
        outlines.append(
            Outline(
                picture,
                line,
                " ".join(f"{x:.2f},{y:.2f}" for x, y in corners),
                density_text(picture.density),
                badge,
                left,
                bottom,
                width,
                right - left >= width,
            )
        )
    return outlines


def _badge_pt(drawing: SeenSpace) -> float:
    """Letters of badges, in points of the page: about the same on screen for every page."""
    return max(drawing.width_pt * 0.6, drawing.height_pt) / 34


@blueprint.post("/<int:pdf_id>/target")
def set_target(pdf_id: int) -> Response:
    """Judges the PDF by another target from now on."""
    form = request.form
    with desk().session() as session:
        pdf = pdf_with(session, pdf_id)
        target = target_asked(
            session, form.get("target", ""), form.get("own_ppi", ""), target_of_pdf(pdf)
        )
        judge_by(pdf, target)
    return Response("", headers={"HX-Redirect": url_for("pdfcheck.show", pdf_id=pdf_id)})


@blueprint.post("/<int:pdf_id>/delete")
def delete(pdf_id: int) -> Response:
    """Deletes a PDF and what was found in it."""
    with desk().session() as session:
        delete_pdf(session, pdf_with(session, pdf_id))
    return Response("", headers={"HX-Redirect": url_for("pdfcheck.listing")})


@blueprint.get("/<int:pdf_id>/<int:number>.png")
def page_png(pdf_id: int, number: int) -> Response:
    """A page as a picture; the bytes of a checked PDF never change."""
    with desk().session() as session:
        pdf = pdf_with(session, pdf_id)
        data = page_picture(desk(), pdf.sha256, pdf.file_name, number)
    response = Response(data, mimetype="image/png")
    response.headers["Cache-Control"] = f"private, max-age={_FOREVER}, immutable"
    return response
