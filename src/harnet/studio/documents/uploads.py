"""Checked documents: uploaded, read by the worker, judged by any target, deleted."""

import tempfile
from collections.abc import Iterable
from functools import partial
from pathlib import Path
from typing import IO, Any

from sqlalchemy import Row, func, insert, select
from sqlalchemy.orm import Session

from harnet.core.documents.document import DocumentFacts, page_from, page_values, read_from
from harnet.core.documents.formats import DocumentFormat
from harnet.core.documents.images import ImageOnPage, line_of, painted_from
from harnet.core.ledger.lines import seen_counts
from harnet.core.measure.verdict import Verdict
from harnet.core.measure.wording import counted
from harnet.core.targets.target import Target
from harnet.core.targets.values import target_as_values, target_from_values
from harnet.media.errors import UnreadableFile
from harnet.media.packages.signature import document_kind
from harnet.media.pdf.opening.opened import NEEDS_PASSWORD
from harnet.store.tables.documents import Document, DocumentImage
from harnet.studio.common.activity import add_detail
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.common.rows import row_with
from harnet.studio.common.studio import Studio
from harnet.studio.documents.making.unlocking import Locked, unlock
from harnet.studio.documents.reading import PageRun, read_apart
from harnet.studio.people.quotas import require_turn
from harnet.studio.pictures.importing import received_file
from harnet.studio.tasks.states import FAILED, RUNNING, WAITING
from harnet.studio.tasks.task import Task
from harnet.studio.tasks.work import Work, carry_out

_COLUMNS = [column for column in DocumentImage.__table__.columns if column.name != "document_id"]
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


_OWN_FAULT = "Harnet failed to read this through a fault of its own."


def read_pdf(studio: Studio, row_id: int) -> None:
    """Reads a PDF stretch by stretch, each kept as soon as it is read; the worker calls this."""
    work = Work(studio, Document, row_id)
    if work.begin(_begun_anew):
        with work.scratch() as folder:
            carry_out(work, lambda: _read(work, folder), _sentence_for, _OWN_FAULT)


def _sentence_for(error: Exception) -> str | None:
    return str(error) if isinstance(error, UnreadableFile) else None


def _begun_anew(session: Session, document: Document) -> None:
    """A killed worker may have left a stretch or two: it is read again from the start."""
    session.query(DocumentImage).filter_by(document_id=document.id).delete()
    document.pages, document.whole = [], {}
    document.counts = _counted([], target_of_document(document))


def _read(work: Work[Document], folder: Path) -> None:
    with work.studio.session() as session:
        document = document_with(session, work.row_id)
        sha256, name = document.sha256, document.file_name
    path = folder / "checked"
    work.studio.blobs.copy_to(sha256, path)
    # The row is locked as a stretch is kept: nobody changes its target while verdicts are counted.
    try:
        read_apart(path, name, folder, lambda stretch: work.change(partial(_keep, stretch=stretch)))
    except UnreadableFile as error:
        if error.reason == NEEDS_PASSWORD:
            work.change(_note_locked)
        raise
    work.finish(lambda _session, document: None)


def _note_locked(_session: Session, document: Document) -> None:
    document.whole = {"needs_password": True}


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


def _keep(session: Session, document: Document, stretch: PageRun) -> None:
    document.pages = [*document.pages, *(page_values(page) for page in stretch.pages)]
    document.steps_done, document.steps_total = len(document.pages), stretch.page_count
    fonts = {*document.whole.get("unembedded_fonts", ()), *stretch.unembedded_fonts}
    is_damaged = document.whole.get("is_damaged", False) or stretch.whole["is_damaged"]
    about = {"unembedded_fonts": sorted(fonts), "is_damaged": is_damaged}
    document.whole = {**document.whole, **stretch.whole, **about}
    if document.counts is not None:
        new = _counted(
            (painted_from(0, one) for one in stretch.pictures), target_of_document(document)
        )
        document.counts = {
            verdict: count + new[verdict] for verdict, count in document.counts.items()
        }
    rows = [{"document_id": document.id, "about": {}, **picture} for picture in stretch.pictures]
    if rows:
        session.execute(insert(DocumentImage), rows)


READ_PDF = Task(name="read_pdf", queue="outputs", run=read_pdf, model=Document)


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
        counts = _counted(pictures_in(session, document), target_of_document(document))
        if document.state not in RUNNING:
            document.counts = counts
    return {verdict: counts[verdict.value] for verdict in Verdict}


def _counted(pictures: Iterable[ImageOnPage], target: Target) -> dict[str, int]:
    counts = seen_counts(line_of(picture, target) for picture in pictures)
    return {verdict.value: count for verdict, count in counts.items()}


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


def pictures_in(session: Session, document: Document) -> list[ImageOnPage]:
    """The pictures of a PDF, in painting order."""
    wanted = select(*_COLUMNS).where(DocumentImage.document_id == document.id)
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
