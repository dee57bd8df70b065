"""The report of a checked PDF: a page, and files of the same; the copy with notes."""

import json
from pathlib import Path

from flask import Blueprint, Response, render_template, request, url_for

from harnet.store.database import Session
from harnet.store.tables.documents import Document
from harnet.studio.documents.acceptance import accept_on, withdraw_on
from harnet.studio.documents.pages import drawings_of
from harnet.studio.documents.reporting.html import document_report_as_html
from harnet.studio.documents.reporting.pdf import document_report_as_pdf
from harnet.studio.documents.reporting.report import report_as_csv, report_as_json
from harnet.studio.documents.reporting.stored import noted_copy, stored_report_of
from harnet.studio.documents.uploads import document_with
from harnet.studio.pictures.importing import safe_file_name
from harnet.studio.tasks.states import DONE
from harnet.web.common.preferences import own_name, remember_name
from harnet.web.common.shared import studio
from harnet.web.common.subjects import may_accept_on
from harnet.web.common.units import paper_unit
from harnet.web.documents.findings import shown_findings

blueprint = Blueprint("documentreport", __name__, url_prefix="/documents/<int:document_id>")


@blueprint.get("/report")
def page(document_id: int) -> str:
    """The report as a page."""
    with studio().session() as session:
        return _view(session, document_with(session, document_id))


@blueprint.post("/accept/<int:picture_id>/<rule_id>")
def accept_finding(document_id: int, picture_id: int, rule_id: str) -> str:
    """Accepts a finding with a reason and a name, which is remembered for the next."""
    name = request.form.get("name", "")
    with studio().session() as session:
        document = document_with(session, document_id)
        accept_on(session, document, picture_id, rule_id, request.form.get("reason", ""), name)
        remember_name(name)
        session.flush()
        return _view(session, document)


@blueprint.post("/take-back/<int:picture_id>/<rule_id>")
def withdraw_acceptance(document_id: int, picture_id: int, rule_id: str) -> str:
    """Takes an acceptance back."""
    with studio().session() as session:
        document = document_with(session, document_id)
        withdraw_on(session, document, picture_id, rule_id)
        return _view(session, document)


def _view(session: Session, document: Document) -> str:
    report = stored_report_of(session, document, unit=paper_unit())
    return render_template(
        "documents/report.html",
        document=document,
        report=report,
        shown=shown_findings(
            report,
            lambda number: _page_address(document.id, number),
            lambda number: url_for(
                "documentpicture.look", document_id=document.id, picture_id=number
            ),
        ),
        own_name=own_name(),
        may_accept=document.state == DONE and may_accept_on(document),
    )


def _page_address(document_id: int, number: int) -> str:
    return url_for("documents.page_png", document_id=document_id, number=number)


@blueprint.get("/report.json")
def as_json(document_id: int) -> Response:
    """The report in its published form."""
    with studio().session() as session:
        document = document_with(session, document_id)
        values = report_as_json(stored_report_of(session, document))
        text = json.dumps(values, indent=1, ensure_ascii=False)
        return _file(document, text + "\n", "application/json", "report.json")


@blueprint.get("/report.csv")
def as_csv(document_id: int) -> Response:
    """A line for each picture, with what was found on it."""
    with studio().session() as session:
        document = document_with(session, document_id)
        text = report_as_csv(stored_report_of(session, document))
        return _file(document, text, "text/csv", "report.csv")


@blueprint.get("/report.html")
def as_html(document_id: int) -> Response:
    """The report as one file, to be sent and kept; it is never shown as a page of Harnet's."""
    with studio().session() as session:
        document = document_with(session, document_id)
        drawing = drawings_of(studio(), document)
        text = document_report_as_html(
            stored_report_of(session, document, unit=paper_unit()), drawing
        )
        return _file(document, text, "text/html", "report.html")


@blueprint.get("/report.pdf")
def as_pdf(document_id: int) -> Response:
    """The report on A4, with pictures of the poor samples."""
    with studio().session() as session:
        document = document_with(session, document_id)
        drawing = drawings_of(studio(), document)
        data = document_report_as_pdf(
            stored_report_of(session, document, unit=paper_unit()), drawing
        )
        return _file(document, data, "application/pdf", "report.pdf")


@blueprint.get("/noted.pdf")
def noted(document_id: int) -> Response:
    """A copy with a note on each picture that falls short."""
    with studio().session() as session:
        document = document_with(session, document_id)
        return _file(
            document, noted_copy(studio(), session, document), "application/pdf", "with notes.pdf"
        )


def _file(document: Document, data: str | bytes, kind: str, ending: str) -> Response:
    response = Response(data, mimetype=kind)
    name = safe_file_name(f"{Path(document.file_name).stem} {ending}")
    response.headers.set("Content-Disposition", "attachment", filename=name)
    return response
