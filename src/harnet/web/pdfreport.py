"""The report of a checked PDF: a page, and files of the same; the copy with notes."""

import json
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from flask import Blueprint, Response, render_template, url_for

from harnet.core.preflight.finding import Finding
from harnet.store.pdfmodels import CheckedPdf
from harnet.studio.pdfpages import page_picture
from harnet.studio.pdfs.kept import pdf_with
from harnet.studio.pdfs.keptreport import noted_copy, report_of_pdf
from harnet.studio.pdfs.report import PdfReport, report_as_csv, report_as_json
from harnet.studio.pdfs.reporthtml import pdf_report_as_html
from harnet.studio.pdfs.reportpdf import pdf_report_as_pdf
from harnet.studio.pdfs.spots import Spot, spot_of
from harnet.studio.takein import safe_file_name
from harnet.web.shared import desk

blueprint = Blueprint("pdfreport", __name__, url_prefix="/pdf/<int:pdf_id>")
_MOST_SHOWN = 300


@dataclass(frozen=True, slots=True)
class ShownFinding:
    """A finding beside the spot of the page where it is; a whole PDF has none."""

    finding: Finding
    spot: Spot | None
    page_address: str
    points: str


def shown_findings(report: PdfReport, page_address: Callable[[int], str]) -> list[ShownFinding]:
    """The worst findings of a report with their spots; `page_address` is where a page is drawn."""
    pictures = {picture.id: picture for picture in report.pictures}
    shown = []
    for finding in report.findings[:_MOST_SHOWN]:
        picture = pictures.get(finding.item_id)
        spot = spot_of(picture, report.pages[picture.page_number - 1]) if picture else None
        points = " ".join(f"{x:.2f},{y:.2f}" for x, y in spot.outline) if spot else ""
        address = page_address(spot.page_number) if spot else ""
        shown.append(ShownFinding(finding, spot, address, points))
    return shown


@blueprint.get("/report")
def page(pdf_id: int) -> str:
    """The report as a page."""
    with desk().session() as session:
        pdf = pdf_with(session, pdf_id)
        report = report_of_pdf(session, pdf)
        shown = shown_findings(report, lambda number: _page_address(pdf_id, number))
        return render_template("pdf_report.html", pdf=pdf, report=report, shown=shown)


def _page_address(pdf_id: int, number: int) -> str:
    return url_for("pdfcheck.page_png", pdf_id=pdf_id, number=number)


@blueprint.get("/report.json")
def as_json(pdf_id: int) -> Response:
    """The report in its published form."""
    with desk().session() as session:
        pdf = pdf_with(session, pdf_id)
        values = report_as_json(report_of_pdf(session, pdf))
        text = json.dumps(values, indent=1, ensure_ascii=False)
        return _file(pdf, text + "\n", "application/json", "report.json")


@blueprint.get("/report.csv")
def as_csv(pdf_id: int) -> Response:
    """A line for each picture, with what was found on it."""
    with desk().session() as session:
        pdf = pdf_with(session, pdf_id)
        text = report_as_csv(report_of_pdf(session, pdf))
        return _file(pdf, text, "text/csv", "report.csv")


@blueprint.get("/report.html")
def as_html(pdf_id: int) -> Response:
    """The report as one file, to be sent and kept; it is never shown as a page of Harnet's."""
    with desk().session() as session:
        pdf = pdf_with(session, pdf_id)
        drawing = partial(page_picture, desk(), pdf.sha256, pdf.file_name)
        text = pdf_report_as_html(report_of_pdf(session, pdf), drawing)
        return _file(pdf, text, "text/html", "report.html")


@blueprint.get("/report.pdf")
def as_pdf(pdf_id: int) -> Response:
    """The report on A4, with pictures of the poor spots."""
    with desk().session() as session:
        pdf = pdf_with(session, pdf_id)
        drawing = partial(page_picture, desk(), pdf.sha256, pdf.file_name)
        data = pdf_report_as_pdf(report_of_pdf(session, pdf), drawing)
        return _file(pdf, data, "application/pdf", "report.pdf")


@blueprint.get("/noted.pdf")
def noted(pdf_id: int) -> Response:
    """A copy with a note on each picture that falls short."""
    with desk().session() as session:
        pdf = pdf_with(session, pdf_id)
        return _file(pdf, noted_copy(desk(), session, pdf), "application/pdf", "with notes.pdf")


def _file(pdf: CheckedPdf, data: str | bytes, kind: str, ending: str) -> Response:
    response = Response(data, mimetype=kind)
    name = safe_file_name(f"{pdf.file_name.removesuffix('.pdf')} {ending}")
    response.headers.set("Content-Disposition", "attachment", filename=name)
    return response
