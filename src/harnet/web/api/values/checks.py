"""Checked documents as the API gives them."""

from typing import cast

from harnet.store.database import Session
from harnet.store.tables.documents import Document
from harnet.studio.documents.uploads import counts_of, target_of_pdf
from harnet.web.api.forms.base import WorkState
from harnet.web.api.forms.checks import CheckOut, FormatWord
from harnet.web.api.values.targets import target_out


def check_out(session: Session, pdf: Document) -> CheckOut:
    """A checked document in the API's form."""
    target = target_of_pdf(pdf)
    counts = counts_of(session, pdf)
    return CheckOut(
        id=pdf.id,
        file=pdf.file_name,
        sha256=pdf.sha256,
        size_bytes=pdf.size_bytes,
        state=cast(WorkState, pdf.state),
        pages_read=pdf.steps_done,
        pages=pdf.whole.get("parts") or pdf.steps_total,
        format=_format_of(pdf),
        failure=pdf.failure,
        target=target_out(target),
        verdicts={verdict.value: count for verdict, count in counts.items()},
        requested_at=pdf.requested_at,
        finished_at=pdf.finished_at,
    )


def _format_of(pdf: Document) -> FormatWord | None:
    """What a document is; None until it was looked into."""
    if not pdf.pages:
        return None
    return cast(FormatWord, pdf.whole.get("format", "pdf"))
