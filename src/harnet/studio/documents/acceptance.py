"""Findings on checked PDFs that someone accepts, with a reason and a name."""

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from harnet.core.preflight.document_images import document_findings, findings_on
from harnet.core.preflight.finding import Accepted, Finding
from harnet.store.tables.documents import Document, DocumentAcceptance
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.common.reasons import reason_given
from harnet.studio.documents.reporting.report import Acceptances
from harnet.studio.documents.uploads import picture_in, read_of, target_of_document
from harnet.studio.tasks.states import DONE

WHOLE = 0
"""Stands for the PDF as a whole where a picture's number would."""


def acceptances_of(session: Session, document: Document) -> Acceptances:
    """What was accepted on a PDF, by picture and rule, whether or not it holds still."""
    rows = session.scalars(
        select(DocumentAcceptance).where(DocumentAcceptance.document_id == document.id)
    )
    return {
        (row.picture_id, row.rule_id): Accepted(
            badness=row.badness,
            headline=row.headline,
            reason=row.reason,
            name=row.name,
            accepted_at=row.accepted_at,
        )
        for row in rows
    }


def accept_on(
    session: Session, document: Document, picture_id: int, rule_id: str, reason: str, name: str
) -> None:
    """Lets a finding pass; it comes back when its figures get worse.

    Raises:
        Refused: no reason, nobody's name, or the document is not read to its end.
        NotThere: it is not found, or not any longer.
    """
    if document.state != DONE:
        raise Refused("Findings can be accepted once the whole document has been read.")
    reason, name = reason_given(reason, name)
    finding = _finding_on(session, document, picture_id, rule_id)
    _forget(session, document, picture_id, rule_id)
    session.add(
        DocumentAcceptance(
            document_id=document.id,
            picture_id=picture_id,
            rule_id=rule_id,
            badness=finding.badness,
            headline=finding.headline,
            reason=reason,
            name=name,
        )
    )


def withdraw_on(session: Session, document: Document, picture_id: int, rule_id: str) -> None:
    """Takes an acceptance back.

    Raises:
        NotThere: there is none.
    """
    if not _forget(session, document, picture_id, rule_id):
        raise NotThere("This is not accepted, or its acceptance has already been withdrawn.")


def _finding_on(session: Session, document: Document, picture_id: int, rule_id: str) -> Finding:
    target, read = target_of_document(document), read_of(document)
    if picture_id == WHOLE:
        found = document_findings(read, target)
    else:
        found = findings_on([picture_in(session, document, picture_id)], read, target)
    for finding in found:
        if finding.rule_id == rule_id:
            return finding
    raise NotThere("The document’s current target no longer finds this.")


def _forget(session: Session, document: Document, picture_id: int, rule_id: str) -> bool:
    forgotten = session.execute(
        delete(DocumentAcceptance)
        .where(
            DocumentAcceptance.document_id == document.id,
            DocumentAcceptance.picture_id == picture_id,
            DocumentAcceptance.rule_id == rule_id,
        )
        .returning(DocumentAcceptance.id)
    )
    return forgotten.first() is not None
