"""Checks of documents made elsewhere: uploaded, read by the worker, reported."""

from typing import Any

from apiflask.fields import UploadFile
from flask import Response

from harnet.studio.common.errors import Refused
from harnet.studio.documents.keeping import READ_PDF
from harnet.studio.documents.reporting.report import report_as_json
from harnet.studio.documents.reporting.stored import noted_copy, stored_report_of
from harnet.studio.documents.uploads import (
    add_document_once,
    delete_document,
    document_with,
    documents_between,
)
from harnet.web.api.door import fails, file_answer, resource, same_answer
from harnet.web.api.forms.base import Key, ListRange, Ppi, RequestForm
from harnet.web.api.forms.checks import CheckOut, CheckReportOut, Checks
from harnet.web.api.forms.targets import TargetIn
from harnet.web.api.values.checks import check_out
from harnet.web.api.values.targets import target_meant
from harnet.web.common.shared import in_background, studio

blueprint = resource("checks", "Checks of documents")


class CheckIn(RequestForm):
    """A document, and what it is judged by: a target's key, or a figure; coated press without."""

    file: UploadFile
    """A PDF, a slide deck, a text, a book or an SVG, with its file name."""
    target: Key | None = None
    """The key of a target."""
    ppi: Ppi | None = None
    """A custom density, in pixels per inch."""


@blueprint.get("/checks")
@blueprint.input(ListRange, location="query")
@blueprint.output(Checks)
def checks(query_data: ListRange) -> Checks:
    """The checked documents, the latest first."""
    with studio().session() as session:
        total, some = documents_between(session, query_data.offset, query_data.limit)
        return Checks(total=total, items=[check_out(session, document) for document in some])


@blueprint.post("/checks")
@blueprint.input(CheckIn, location="files")
@blueprint.output(CheckOut, status_code=202)
@blueprint.doc(
    responses=same_answer("This document is already checked against this target.", "CheckOut")
)
def upload(files_data: CheckIn) -> Any:
    """Hands a document in to be checked; the worker reads it.

    The same document by the same target is one check: sending it again answers 200 with that one.
    """
    file = files_data.file
    if not file.filename:
        raise Refused("The file needs a name.")
    with studio().session() as session:
        target = target_meant(session, TargetIn(key=files_data.target, ppi=files_data.ppi))
        document, is_new = add_document_once(studio(), session, file.filename, file.stream, target)
        answer = check_out(session, document)
    if is_new:
        in_background(READ_PDF, row_id=answer.id)
    return answer, 202 if is_new else 200


@blueprint.get("/checks/<int:document_id>")
@blueprint.output(CheckOut)
def check(document_id: int) -> CheckOut:
    """One check: how far it is, and the verdicts so far."""
    with studio().session() as session:
        return check_out(session, document_with(session, document_id))


@blueprint.get("/checks/<int:document_id>/report")
@blueprint.output(CheckReportOut)
def report(document_id: int) -> dict[str, Any]:
    """The report in its published form, docs/schemas/document-report.schema.json."""
    with studio().session() as session:
        return report_as_json(stored_report_of(session, document_with(session, document_id)))


@blueprint.get("/checks/<int:document_id>/noted.pdf")
@blueprint.doc(
    responses=file_answer("The copy with notes.", "application/pdf"), extensions=fails(422)
)
def noted(document_id: int) -> Response:
    """A copy of a PDF with a note on each picture that falls short."""
    with studio().session() as session:
        data = noted_copy(studio(), session, document_with(session, document_id))
    return Response(data, mimetype="application/pdf")


@blueprint.delete("/checks/<int:document_id>")
@blueprint.output({}, status_code=204)
def delete(document_id: int) -> str:
    """Deletes a checked document with what was found in it."""
    with studio().session() as session:
        delete_document(session, document_with(session, document_id))
    return ""
