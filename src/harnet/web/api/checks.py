"""Checks of PDFs made elsewhere: handed in, read by the worker, reported."""

from typing import Any

from apiflask.fields import UploadFile
from flask import Response
from sqlalchemy.orm import Session

from harnet.store.tables.documents import CheckedPdf
from harnet.studio.common.errors import Refused
from harnet.studio.documents.kept import (
    READ_PDF,
    all_pdfs,
    counts_of,
    delete_pdf,
    keep_pdf_once,
    pdf_with,
    target_of_pdf,
)
from harnet.studio.documents.keptreport import noted_copy, report_of_pdf
from harnet.studio.documents.report import report_as_json
from harnet.web.api.door import fails, file_answer, resource, same_answer
from harnet.web.api.schemas import Asked, CheckOut, Checks, Key, Ppi, ReportOut, Stretch, TargetIn
from harnet.web.api.targets import target_meant, target_out
from harnet.web.common.shared import desk, in_background

blueprint = resource("checks", "Checks of PDFs")


class CheckIn(Asked):
    """A PDF, and what it is judged by: a target's key, or a figure; coated press without."""

    file: UploadFile
    """The PDF, with its file name."""
    target: Key | None = None
    """The key of a target."""
    ppi: Ppi | None = None
    """A custom density, in pixels per inch."""


def check_out(session: Session, pdf: CheckedPdf) -> CheckOut:
    """A checked PDF in the API's form."""
    target = target_of_pdf(pdf)
    counts = counts_of(session, pdf)
    return CheckOut(
        id=pdf.id,
        file=pdf.file_name,
        sha256=pdf.sha256,
        size_bytes=pdf.size_bytes,
        state=pdf.state,  # type: ignore[arg-type]
        pages_read=pdf.done_steps,
        pages=pdf.all_steps,
        trouble=pdf.trouble,
        target=target_out(target),
        verdicts={verdict.value: count for verdict, count in counts.items()},
        asked_at=pdf.asked_at,
        finished_at=pdf.finished_at,
    )


@blueprint.get("/checks")
@blueprint.input(Stretch, location="query")
@blueprint.output(Checks)
def checks(query_data: Stretch) -> Checks:
    """The checked PDFs, the latest first."""
    with desk().session() as session:
        pdfs = all_pdfs(session)
        some = pdfs[query_data.offset : query_data.offset + query_data.limit]
        return Checks(total=len(pdfs), items=[check_out(session, pdf) for pdf in some])


@blueprint.post("/checks")
@blueprint.input(CheckIn, location="files")
@blueprint.output(CheckOut, status_code=202)
@blueprint.doc(
    responses=same_answer("This PDF is already checked against this target.", "CheckOut")
)
def hand_in(files_data: CheckIn) -> Any:
    """Hands a PDF in to be checked; the worker reads it.

    The same PDF by the same target is one check: sending it again answers 200 with that one.
    """
    file = files_data.file
    if not file.filename:
        raise Refused("The file needs a name.")
    with desk().session() as session:
        target = target_meant(session, TargetIn(key=files_data.target, ppi=files_data.ppi))
        pdf, is_new = keep_pdf_once(desk(), session, file.filename, file.stream, target)
        answer = check_out(session, pdf)
    if is_new:
        in_background(READ_PDF, row_id=answer.id)
    return answer, 202 if is_new else 200


@blueprint.get("/checks/<int:pdf_id>")
@blueprint.output(CheckOut)
def check(pdf_id: int) -> CheckOut:
    """One check: how far it is, and the verdicts so far."""
    with desk().session() as session:
        return check_out(session, pdf_with(session, pdf_id))


@blueprint.get("/checks/<int:pdf_id>/report")
@blueprint.output(ReportOut)
def report(pdf_id: int) -> dict[str, Any]:
    """The report in its published form, docs/schemas/pdf-report.schema.json."""
    with desk().session() as session:
        return report_as_json(report_of_pdf(session, pdf_with(session, pdf_id)))


@blueprint.get("/checks/<int:pdf_id>/noted.pdf")
@blueprint.doc(
    responses=file_answer("The copy with notes.", "application/pdf"), extensions=fails(422)
)
def noted(pdf_id: int) -> Response:
    """A copy of the PDF with a note on each picture that falls short."""
    with desk().session() as session:
        data = noted_copy(desk(), session, pdf_with(session, pdf_id))
    return Response(data, mimetype="application/pdf")


@blueprint.delete("/checks/<int:pdf_id>")
@blueprint.output({}, status_code=204)
def delete(pdf_id: int) -> str:
    """Deletes a checked PDF with what was found in it."""
    with desk().session() as session:
        delete_pdf(session, pdf_with(session, pdf_id))
    return ""
