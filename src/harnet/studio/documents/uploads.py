"""Checked documents: uploaded, judged by any target, deleted; what was read of them."""

import tempfile
from collections.abc import Collection, Mapping
from pathlib import Path
from typing import IO, Any

from sqlalchemy import Row, func, select
from sqlalchemy.orm import Session

from harnet.core.documents.document import DocumentFacts, page_from, read_from
from harnet.core.documents.formats import DocumentFormat
from harnet.core.documents.images import ImageOnPage, painted_from
from harnet.core.measure.verdict import Verdict
from harnet.core.measure.wording import counted
from harnet.core.targets.target import Target
from harnet.core.targets.values import target_as_values, target_from_values
from harnet.media.packages.signature import document_kind
from harnet.store.tables.documents import Document, DocumentImage
from harnet.studio.common.activity import add_detail
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.common.rows import row_with
from harnet.studio.common.studio import Studio
from harnet.studio.documents.lines import DocumentLines
from harnet.studio.documents.making.unlocking import Locked, unlock
from harnet.studio.people.quotas import require_turn
from harnet.studio.pictures.importing import received_file
from harnet.studio.tasks.states import FAILED, RUNNING, WAITING

_OF_LINES = {"name", "density_ppi", "evenness", "area_pt"}
_COLUMNS = [
    column
    for column in DocumentImage.__table__.columns
    if column.name != "document_id" and column.name not in _OF_LINES
]
_NAMES = [column.name for column in _COLUMNS]


def add_document(
    studio: Studio, session: Session, name: str, stream: IO[bytes], target: Target
) -> Document:
    """Takes a document to be checked by a target; the worker reads it.

    Raises:
        UnreadableFile: it is none that is checked; nothing of it stays.
    """
    require_turn(session)
    with received_file(studio, name, stream) as (shown, path):
        document_kind(path, shown)
        size_bytes = path.stat().st_size
        sha256 = studio.blobs.put_file(path)
    document = Document(
        file_name=shown, sha256=sha256, size_bytes=size_bytes, target=target_as_values(target)
    )
    session.add(document)
    session.flush()
    add_detail(session, shown)
    return document


def document_with(session: Session, document_id: int) -> Document:
    """The checked document of that number.

    Raises:
        NotThere: there is none.
    """
    return row_with(
        session,
        Document,
        document_id,
        "This document is no longer here. Upload it again to check it.",
    )


def documents_between(
    session: Session, first: int = 0, most: int | None = None
) -> tuple[int, list[Document]]:
    """How many documents were checked, and some of them, the latest first."""
    count = session.scalar(select(func.count(Document.id))) or 0
    some = select(Document).order_by(Document.id.desc()).offset(first).limit(most)
    return count, list(session.scalars(some))


def add_document_once(
    studio: Studio, session: Session, name: str, stream: IO[bytes], target: Target
) -> tuple[Document, bool]:
    """Takes a document unless the same one is here by the same target; whether it is new.

    A sender who does not know whether a first attempt arrived may send again.

    Raises:
        UnreadableFile: it is none that is checked; nothing of it stays.
    """
    document = add_document(studio, session, name, stream, target)
    same = select(Document).where(
        Document.sha256 == document.sha256,
        Document.file_name == document.file_name,
        Document.target == document.target,
        Document.state != FAILED,
        Document.id != document.id,
    )
    earlier = session.scalars(same.order_by(Document.id)).first()
    if earlier is None:
        return document, True
    delete_document(session, document)
    return earlier, False


def delete_document(session: Session, document: Document) -> None:
    """Deletes a PDF with everything found in it; the sweep deletes bytes that nothing else has."""
    add_detail(session, document.file_name)
    session.delete(document)
    session.flush()


def unlock_document(studio: Studio, document: Document, password: str) -> None:
    """Opens a PDF with its password; it can be read again from the start.

    The password is kept beside the file as it came, for copies that are locked again.

    Raises:
        Refused: it needs none.
        UnreadableFile: this is not its password.
    """
    if not document.whole.get("needs_password"):
        raise Refused("This PDF needs no password.")
    with tempfile.TemporaryDirectory(dir=studio.settings.scratch_folder) as folder:
        came, plain = Path(folder) / "locked.pdf", Path(folder) / "unlocked.pdf"
        studio.blobs.copy_to(document.sha256, came)
        unlock(Locked(came, password), document.file_name, plain)
        document.locked_sha256, document.password = document.sha256, password
        document.sha256 = studio.blobs.put_file(plain)
    document.whole, document.state, document.failure = {}, WAITING, None


def target_of_document(document: Document) -> Target:
    """What a checked PDF is judged by."""
    return target_from_values(document.target)


def judge_by(document: Document, target: Target) -> None:
    """Judges a PDF by another target from now on."""
    document.target, document.counts = target_as_values(target), None


def counts_of(session: Session, document: Document) -> dict[Verdict, int]:
    """How many pictures that are seen have each verdict, worst first; counted once, and kept."""
    counts = document.counts
    if counts is None:
        counts = counts_as_values(lines_of(session, document).counts().verdicts)
        if document.state not in RUNNING:
            document.counts = counts
    return {verdict: counts[verdict.value] for verdict in Verdict}


def counts_as_values(counts: Mapping[Verdict, int]) -> dict[str, int]:
    """How many there are of each verdict, as a document's row keeps it."""
    return {verdict.value: count for verdict, count in counts.items()}


def lines_of(session: Session, document: Document, tried: Target | None = None) -> DocumentLines:
    """A document's pictures as lines, by its target or by one that is tried."""
    return DocumentLines(session, document, target_of_document(document), tried)


def read_of(document: Document) -> DocumentFacts:
    """What was read of a PDF so far."""
    return read_from(
        document.file_name, document.whole, [page_from(page) for page in document.pages]
    )


def parts_text(document: Document) -> str:
    """How many pages, slides or sections a document has, in words; empty until that is known."""
    form = DocumentFormat(document.whole.get("format", DocumentFormat.PDF.value))
    count = document.whole.get("parts") or document.steps_total
    return counted(count, form.part) if count else ""


def pictures_in(
    session: Session,
    document: Document,
    *,
    page: int | None = None,
    among: Collection[int] | None = None,
) -> list[ImageOnPage]:
    """The pictures of a document, in painting order: all, those of a page, or of some numbers."""
    wanted = select(*_COLUMNS).where(DocumentImage.document_id == document.id)
    if page is not None:
        wanted = wanted.where(DocumentImage.page_number == page)
    if among is not None:
        wanted = wanted.where(DocumentImage.id.in_(among))
    wanted = wanted.order_by(DocumentImage.page_number, DocumentImage.place)
    # Straight from the connection: twenty thousand pictures need no identity map.
    rows = session.connection().execute(wanted)
    return [_painted(row) for row in rows]


def picture_in(session: Session, document: Document, picture_id: int) -> ImageOnPage:
    """One picture of a PDF.

    Raises:
        NotThere: it has none of that number.
    """
    wanted = select(*_COLUMNS).where(
        DocumentImage.document_id == document.id, DocumentImage.id == picture_id
    )
    row = session.connection().execute(wanted).first()
    if row is None:
        raise NotThere("This image is not in the document.")
    return _painted(row)


def _painted(row: Row[Any]) -> ImageOnPage:
    stored = dict(zip(_NAMES, row, strict=True))
    return painted_from(stored["id"], stored)
