"""Check a PDF: drop it, see every picture that it paints on its pages and on the ruler."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from flask import Blueprint, Response, current_app, jsonify, render_template, request, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy.orm import Session

from harnet.core.geometry import Matrix
from harnet.core.preflight.check import check
from harnet.core.preflight.finding import Finding
from harnet.core.target import Target
from harnet.core.targetvalues import target_as_values
from harnet.core.units import Unit
from harnet.core.userspace import SeenSpace, seen_space
from harnet.core.verdict import Verdict
from harnet.core.wording import density_text, size_text
from harnet.store.pdfmodels import CheckedPdf, PaintedPicture
from harnet.studio.checkedpdfs import (
    all_pdfs,
    delete_pdf,
    density_of,
    keep_pdf,
    line_of,
    pdf_with,
    pictures_in,
    target_of_pdf,
)
from harnet.studio.errors import Refused
from harnet.studio.ledger import Line, Wanted, verdict_counts, wanted_lines
from harnet.studio.pdfpages import page_picture
from harnet.studio.pdfspots import outline_on
from harnet.studio.pdfsubjects import document_of, findings_on
from harnet.studio.progress import RUNNING
from harnet.studio.targets import target_asked, target_with
from harnet.web.ruler import Ruler, ruler_of, scale_of_lines, spots_of_lines
from harnet.web.shared import desk

blueprint = Blueprint("pdfcheck", __name__, url_prefix="/pdf")
_MOST_ROWS = 300
_FOREVER = 365 * 24 * 3600


@dataclass(frozen=True, slots=True)
class PdfRow:
    """A picture of a PDF as the list shows it."""

    picture: PaintedPicture
    line: Line
    ppi: str
    size: str
    pieces: Sequence[tuple[int, int]]
    findings: Sequence[Finding]


@dataclass(frozen=True, slots=True)
class Outline:
    """A picture's outline on the page as it is drawn, in pixels of the drawing, and its badge."""

    picture: PaintedPicture
    line: Line
    points: str
    ppi: str
    badge_x: float
    badge_y: float


@blueprint.get("")
def listing() -> str:
    """The drop area, and the PDFs that were checked."""
    with desk().session() as session:
        return render_template("pdf_list.html", **_list_values(session))


@blueprint.get("/rows")
def rows() -> str:
    """The list alone; the page asks again while something is being read."""
    with desk().session() as session:
        return render_template("_pdf_rows.html", **_list_values(session))


def _list_values(session: Session) -> dict[str, object]:
    pdfs = all_pdfs(session)
    counts = {}
    for pdf in pdfs:
        target = target_of_pdf(pdf)
        lines = [line_of(picture, target) for picture in pictures_in(session, pdf)]
        counts[pdf.id] = verdict_counts(line for line in lines if line.judged_ppi is not None)
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
    queue = current_app.extensions["queue"]
    queue.configure_task("read_pdf", queue="outputs").defer(pdf_id=pdf_id)
    return jsonify(name=name, is_known=False, address=url_for("pdfcheck.show", pdf_id=pdf_id))


@blueprint.get("/<int:pdf_id>")
def show(pdf_id: int) -> str:
    """A page of the PDF with its pictures outlined, the ruler, and every picture in a list."""
    with desk().session() as session:
        pdf = pdf_with(session, pdf_id)
        values = _values(session, pdf)
        is_fragment = "HX-Request" in request.headers
        return render_template("_pdf_check.html" if is_fragment else "pdf_check.html", **values)


def _values(session: Session, pdf: CheckedPdf) -> dict[str, object]:
    args = request.args
    own = target_of_pdf(pdf)
    key = args.get("try", "")
    tried = target_asked(session, key, args.get("ppi", "")) if key else None
    target = tried or own
    pictures = {picture.id: picture for picture in pictures_in(session, pdf)}
    lines = [line_of(picture, target) for picture in pictures.values()]
    wanted = Wanted(
        verdict=args.get("verdict", ""),
        colour=args.get("colour", ""),
        page=args.get("only", 0, int),
        sort=args.get("sort", "shortfall"),
    )
    shown = wanted_lines(lines, wanted, target.density_ppi)
    chosen = pictures.get(args.get("select", 0, int))
    listed = [pictures[line.item_id] for line in shown[:_MOST_ROWS]]
    found: dict[int, list[Finding]] = {}
    for finding in findings_on(listed, pdf.pages, target):
        found.setdefault(finding.item_id, []).append(finding)
    number = args.get("page", chosen.page_number if chosen else 1, int)
    number = min(max(1, number), max(1, len(pdf.pages)))
    return {
        "pdf": pdf,
        "target": target,
        "own": own,
        "tried": tried,
        "number": number,
        "counts": verdict_counts(line for line in lines if line.judged_ppi is not None),
        "unseen": sum(line.judged_ppi is None for line in lines),
        "ruler": _ruler(lines, target),
        "whole_findings": _on_the_whole(pdf, list(pictures.values()), target),
        "rows": [
            _row(pictures[line.item_id], line, found.get(line.item_id, ()))
            for line in shown[:_MOST_ROWS]
        ],
        "hidden": max(0, len(shown) - _MOST_ROWS),
        "total": len(lines),
        "outlines": _outlines(pdf, number, pictures.values(), target),
        "drawing": _drawing(pdf, number),
        "chosen": chosen,
        "wanted": wanted,
        "colours": sorted({picture.colour for picture in pictures.values()}),
        "running": RUNNING,
        "verdicts": list(Verdict),
    }


def _ruler(lines: list[Line], target: Target) -> Ruler:
    seen = [line for line in lines if line.judged_ppi is not None]
    below = sum(line.verdict.falls_short for line in seen)
    return ruler_of(spots_of_lines(seen), target, below, scale_of_lines(seen, target))


def _on_the_whole(
    pdf: CheckedPdf, pictures: Sequence[PaintedPicture], target: Target
) -> list[Finding]:
    return check([document_of(pdf.file_name, pdf.whole, pdf.pages, pictures, target)])


def _row(picture: PaintedPicture, line: Line, findings: Sequence[Finding]) -> PdfRow:
    matrix = Matrix(*picture.matrix)
    size = size_text(matrix.u_length, matrix.v_length, Unit.MM, digits=1)
    pieces = list(zip(picture.pieces[::2], picture.pieces[1::2], strict=True))
    return PdfRow(picture, line, density_text(density_of(picture)), size, pieces, findings)


def _drawing(pdf: CheckedPdf, number: int) -> SeenSpace | None:
    """A page as it is drawn."""
    if not 1 <= number <= len(pdf.pages):
        return None
    page = pdf.pages[number - 1]
    return seen_space(page["box"], page["turn"])


def _outlines(
    pdf: CheckedPdf, number: int, pictures: Iterable[PaintedPicture], target: Target
) -> list[Outline]:
    drawing = _drawing(pdf, number)
    if drawing is None:
        return []
    outlines = []
    for picture in pictures:
        if picture.page_number != number or picture.unseen:
            continue
        corners = outline_on(picture, pdf.pages[number - 1])
        line = line_of(picture, target)
        points = " ".join(f"{x:.2f},{y:.2f}" for x, y in corners)
        outlines.append(
            Outline(
                picture,
                line,
                points,
                density_text(density_of(picture)),
                max(0.0, min(x for x, _ in corners)),
                min(drawing.height_pt, max(y for _, y in corners)),
            )
        )
    return outlines


@blueprint.post("/<int:pdf_id>/target")
def set_target(pdf_id: int) -> Response:
    """Judges the PDF by another target from now on."""
    form = request.form
    with desk().session() as session:
        pdf = pdf_with(session, pdf_id)
        target = target_asked(session, form.get("target", ""), form.get("own_ppi", ""))
        pdf.target = target_as_values(target)
    return Response("", headers={"HX-Redirect": url_for("pdfcheck.show", pdf_id=pdf_id)})


@blueprint.post("/<int:pdf_id>/delete")
def delete(pdf_id: int) -> Response:
    """Deletes a PDF and what was found in it."""
    with desk().session() as session:
        delete_pdf(desk(), session, pdf_with(session, pdf_id))
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
