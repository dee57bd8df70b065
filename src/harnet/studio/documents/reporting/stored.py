"""The report of a checked PDF, and its copy with notes."""

import shutil
import tempfile
from pathlib import Path

from sqlalchemy.orm import Session

from harnet.core.measure.units import Unit
from harnet.core.targets.target import Target
from harnet.store.tables.documents import Document
from harnet.studio.common.errors import Refused
from harnet.studio.common.studio import Studio
from harnet.studio.documents.acceptance import acceptances_of
from harnet.studio.documents.notes import notes_on, write_noted
from harnet.studio.documents.reporting.report import DocumentReport, document_report
from harnet.studio.documents.uploads import pictures_in, read_of, target_of_document
from harnet.studio.tasks.states import DONE


def stored_report_of(
    session: Session, document: Document, target: Target | None = None, unit: Unit = Unit.MM
) -> DocumentReport:
    """The report of a checked PDF by its own target, or by another that is tried.

    Its lengths are said in `unit`.
    """
    return document_report(
        read_of(document),
        document.sha256,
        target or target_of_document(document),
        pictures_in(session, document),
        acceptances_of(session, document),
        unit,
    )


def noted_copy(studio: Studio, session: Session, document: Document) -> bytes:
    """The PDF with a note on each picture that falls short; what was uploaded stays as it is.

    Raises:
        Refused: it is no PDF, or not read to its end.
        UnreadableFile: it cannot be read any longer.
    """
    if read_of(document).format.is_package:
        raise Refused("Notes are added to PDFs alone. The report says the same.")
    if document.state != DONE:
        raise Refused("Notes can be added once the whole PDF has been read.")
    notes = notes_on(pictures_in(session, document), target_of_document(document))
    folder = Path(tempfile.mkdtemp(dir=studio.settings.scratch_folder))
    try:
        source, noted = folder / "source.pdf", folder / "noted.pdf"
        studio.blobs.copy_to(document.sha256, source)
        write_noted(source, document.file_name, notes, noted)
        return noted.read_bytes()
    finally:
        shutil.rmtree(folder, ignore_errors=True)
