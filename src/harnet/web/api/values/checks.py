"""Checked documents as the API gives them."""

from typing import cast

from harnet.store.database import Session
from harnet.store.tables.documents import Document
from harnet.studio.documents.uploads import counts_of, target_of_document
from harnet.web.api.forms.base import WorkState
from harnet.web.api.forms.checks import CheckOut, FormatWord
from harnet.web.api.values.targets import target_out


def check_out(session: Session, document: Document) -> CheckOut:
    """A checked document in the API's form."""
    target = target_of_document(document)
    counts = counts_of(session, document)
    return CheckOut(
        id=document.id,
        file=document.file_name,
        sha256=document.sha256,
        size_bytes=document.size_bytes,
        state=cast(WorkState, document.state),
        pages_read=document.steps_done,
        pages=document.whole.get("parts") or document.steps_total,
        format=_format_of(document),
        failure=document.failure,
        target=target_out(target),
        verdicts={verdict.value: count for verdict, count in counts.items()},
        requested_at=document.requested_at,
        finished_at=document.finished_at,
    )


def _format_of(document: Document) -> FormatWord | None:
    """What a document is; None until it was looked into."""
    if not document.steps_total:
        return None
    return cast(FormatWord, document.whole.get("format", "pdf"))
