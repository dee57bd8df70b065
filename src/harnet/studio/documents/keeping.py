"""Reading a document in the background; what is read is kept in its row, stretch by stretch."""

from functools import partial
from pathlib import Path

from sqlalchemy.orm import Session

from harnet.core.documents.document import page_values
from harnet.core.documents.images import kept_for_lines, painted_from
from harnet.core.measure.verdict import Verdict
from harnet.media.errors import UnreadableFile
from harnet.media.pdf.opening.opened import NEEDS_PASSWORD
from harnet.store.bulk import insert_rows
from harnet.store.tables.documents import Document, DocumentImage
from harnet.studio.common.studio import Studio
from harnet.studio.documents.reading import PageRun, read_apart
from harnet.studio.documents.uploads import counts_as_values, document_with, lines_of
from harnet.studio.tasks.task import Task
from harnet.studio.tasks.work import Work, carry_out

_OWN_FAULT = "Harnet failed to read this through a fault of its own."
_GROWS_BY = 0.25
"""A row is written again once it would grow by this share."""


def read_pdf(studio: Studio, row_id: int) -> None:
    """Reads a document stretch by stretch, the first ones seen at once; the worker calls this."""
    work = Work(studio, Document, row_id)
    if work.begin(_begun_anew):
        with work.scratch() as folder:
            carry_out(work, lambda: _read(work, folder), _sentence_for, _OWN_FAULT)


READ_PDF = Task(name="read_pdf", queue="outputs", run=read_pdf, model=Document)


def _sentence_for(error: Exception) -> str | None:
    return str(error) if isinstance(error, UnreadableFile) else None


def _begun_anew(session: Session, document: Document) -> None:
    """A killed worker may have left a stretch or two: it is read again from the start."""
    session.query(DocumentImage).filter_by(document_id=document.id).delete()
    document.pages, document.whole = [], {}
    document.counts = counts_as_values(dict.fromkeys(Verdict, 0))


def _read(work: Work[Document], folder: Path) -> None:
    with work.studio.session() as session:
        document = document_with(session, work.row_id)
        sha256, name = document.sha256, document.file_name
    path = folder / "checked"
    work.studio.blobs.copy_to(sha256, path)
    keeper = _Keeper(work)
    try:
        read_apart(path, name, folder, keeper.take)
    except UnreadableFile as error:
        keeper.keep()
        if error.reason == NEEDS_PASSWORD:
            work.change(_note_locked)
        raise
    keeper.keep()
    work.finish(lambda _session, document: None)


def _note_locked(_session: Session, document: Document) -> None:
    document.whole = {"needs_password": True}


class _Keeper:
    """Puts stretches into a document's row: the first ones at once, later ones together.

    The row has all pages, and is written as a whole: so it is written each time it has grown by a
    share of what it has, and what is written in all grows as the document does.
    """

    def __init__(self, work: Work[Document]) -> None:
        self._work = work
        self._waiting: list[PageRun] = []
        self._kept = 0

    def take(self, stretch: PageRun) -> None:
        """Takes the next stretch.

        Raises:
            Cancelled: nobody wants the document any longer.
        """
        self._waiting.append(stretch)
        count = sum(len(one.pages) for one in self._waiting)
        if count >= _GROWS_BY * self._kept:
            self.keep()
        else:
            self._work.tell(self._kept + count, stretch.page_count)

    def keep(self) -> None:
        """Writes what was not written yet.

        Raises:
            Cancelled: nobody wants the document any longer.
        """
        if not self._waiting:
            return
        # The row is locked meanwhile: nobody changes its target while verdicts are counted.
        self._work.change(partial(_keep, stretches=self._waiting))
        self._kept += sum(len(one.pages) for one in self._waiting)
        self._waiting = []


def _keep(session: Session, document: Document, stretches: list[PageRun]) -> None:
    pages = [page_values(page) for stretch in stretches for page in stretch.pages]
    document.pages = [*document.pages, *pages]
    document.steps_done, document.steps_total = len(document.pages), stretches[-1].page_count
    for stretch in stretches:
        fonts = {*document.whole.get("unembedded_fonts", ()), *stretch.unembedded_fonts}
        is_damaged = document.whole.get("is_damaged", False) or stretch.whole["is_damaged"]
        about = {"unembedded_fonts": sorted(fonts), "is_damaged": is_damaged}
        document.whole = {**document.whole, **stretch.whole, **about}
    rows = [
        {
            "document_id": document.id,
            "about": {},
            **picture,
            **kept_for_lines(painted_from(0, picture)),
        }
        for stretch in stretches
        for picture in stretch.pictures
    ]
    insert_rows(session, DocumentImage, rows)
    document.counts = counts_as_values(lines_of(session, document).counts().verdicts)
