"""The receipt of an improved copy: as a page, as PDF and as JSON."""

from collections import Counter

from flask import Blueprint, Response, jsonify, render_template

from harnet.store.database import Session
from harnet.store.tables.documents import Document, DocumentWork
from harnet.studio.common.errors import NotThere
from harnet.studio.documents.making.receipt_pdf import outcome_text, proof_sentence, receipt_as_pdf
from harnet.studio.documents.making.works import IMPROVE, work_with
from harnet.studio.documents.reporting.stored import stored_report_of
from harnet.studio.documents.uploads import document_with, target_of_document
from harnet.studio.tasks.states import DONE
from harnet.web.common.shared import studio

blueprint = Blueprint(
    "improvedreceipt", __name__, url_prefix="/documents/<int:document_id>/improve/receipt"
)


@blueprint.get("/<int:work_id>")
def page(document_id: int, work_id: int) -> str:
    """What was done to each image, and the proof."""
    with studio().session() as session:
        document, work = _improved(session, document_id, work_id)
        return render_template(
            "documents/improved_receipt.html",
            document=document,
            work=work,
            receipt=work.result,
            outcome_text=outcome_text,
            proof=proof_sentence(work.result),
            beside=_findings_beside(session, document, work),
        )


@blueprint.get("/<int:work_id>.json")
def as_json(document_id: int, work_id: int) -> Response:
    """The receipt by its published schema."""
    with studio().session() as session:
        _, work = _improved(session, document_id, work_id)
        return jsonify(work.result)


@blueprint.get("/<int:work_id>.pdf")
def as_pdf(document_id: int, work_id: int) -> Response:
    """The receipt on A4."""
    with studio().session() as session:
        _, work = _improved(session, document_id, work_id)
        data, name = (
            receipt_as_pdf(work.file_name, work.result),
            f"{work.file_name[:-4]} receipt.pdf",
        )
    response = Response(data, mimetype="application/pdf")
    response.headers.set("Content-Disposition", "attachment", filename=name)
    return response


def _findings_beside(
    session: Session, document: Document, work: DocumentWork
) -> list[tuple[str, int, int]]:
    """How many findings of each kind the PDF has and its copy, by the target of the copy.

    Empty while the copy is being read, and where it was deleted.
    """
    copy = session.get(Document, work.copy_id) if work.copy_id is not None else None
    if copy is None or copy.state != DONE:
        return []
    target = target_of_document(copy)
    before, after = (
        Counter(found.group for found in stored_report_of(session, one, target).findings)
        for one in (document, copy)
    )
    return [(group, before[group], after[group]) for group in (before | after)]


def _improved(session: Session, document_id: int, work_id: int) -> tuple[Document, DocumentWork]:
    document = document_with(session, document_id)
    work = work_with(session, document, work_id)
    if work.kind != IMPROVE or work.state != DONE:
        raise NotThere("This receipt is not there.")
    return document, work
