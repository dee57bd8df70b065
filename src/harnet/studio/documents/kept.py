"""Checked PDFs: handed in, read by the worker stretch by stretch, judged by any target, deleted."""

from collections.abc import Iterable
from functools import partial
from pathlib import Path
from typing import IO, Any

from sqlalchemy import Row, insert, select
from sqlalchemy.orm import Session

from harnet.core.documents.painted import (
    Painted,
    ReadPdf,
    line_of,
    page_from,
    page_values,
    painted_from,
    read_from,
)
from harnet.core.ledger.lines import seen_counts
from harnet.core.measure.verdict import Verdict
from harnet.core.targets.target import Target
from harnet.core.targets.values import target_as_values, target_from_values
from harnet.media.errors import UnreadableFile
from harnet.store.tables.documents import CheckedPdf, PaintedPicture
from harnet.studio.common.desk import Desk
from harnet.studio.common.errors import NotThere
from harnet.studio.documents.reading import Stretch, read_apart
from harnet.studio.pictures.take_in import handed_in
from harnet.studio.tasks.states import FAILED, RUNNING
from harnet.studio.tasks.task import Task
from harnet.studio.tasks.work import Work, carry_out

_COLUMNS = [column for column in PaintedPicture.__table__.columns if column.name != "pdf_id"]
_NAMES = [column.name for column in _COLUMNS]


def keep_pdf(
    desk: Desk, session: Session, name: str, stream: IO[bytes], target: Target
) -> CheckedPdf:
    """Takes a PDF to be checked by a target; the worker reads it.

    Raises:
        UnreadableFile: it is no PDF; nothing of it stays.
    """
    with handed_in(desk, name, stream) as (shown, path):
        with path.open("rb") as file:
            start = file.read(2048)
        if b"%PDF-" not in start:
            trouble = "its content is not a PDF" if start else "the file is empty, 0 bytes"
            raise UnreadableFile(shown, trouble, "Pictures go onto a shelf, under Pictures")
        size_bytes = path.stat().st_size
        sha256 = desk.blobs.put_file(path)
    pdf = CheckedPdf(
        file_name=shown, sha256=sha256, size_bytes=size_bytes, target=target_as_values(target)
    )
    session.add(pdf)
    session.flush()
    return pdf


def pdf_with(session: Session, pdf_id: int) -> CheckedPdf:
    """The checked PDF of that number.

    Raises:
        NotThere: there is none.
    """
    pdf = session.get(CheckedPdf, pdf_id)
    if pdf is None:
        raise NotThere("This PDF is no longer here. Upload it again to check it.")
    return pdf


def all_pdfs(session: Session) -> list[CheckedPdf]:
    """The checked PDFs, the latest first."""
    return list(session.scalars(select(CheckedPdf).order_by(CheckedPdf.id.desc())))


def keep_pdf_once(
    desk: Desk, session: Session, name: str, stream: IO[bytes], target: Target
) -> tuple[CheckedPdf, bool]:
    """Takes a PDF unless the same one is here by the same target; whether it is new.

    A sender who does not know whether a first attempt arrived may send again.

    Raises:
        UnreadableFile: it is no PDF; nothing of it stays.
    """
    pdf = keep_pdf(desk, session, name, stream, target)
    same = select(CheckedPdf).where(
        CheckedPdf.sha256 == pdf.sha256,
        CheckedPdf.file_name == pdf.file_name,
        CheckedPdf.target == pdf.target,
        CheckedPdf.state != FAILED,
        CheckedPdf.id != pdf.id,
    )
    earlier = session.scalars(same.order_by(CheckedPdf.id)).first()
    if earlier is None:
        return pdf, True
    delete_pdf(session, pdf)
    return earlier, False


def delete_pdf(session: Session, pdf: CheckedPdf) -> None:
    """Deletes a PDF with everything found in it; the sweep deletes bytes that nothing else has."""
    session.delete(pdf)
    session.flush()


_OWN_FAULT = "Harnet failed to read this through a fault of its own."


def read_pdf(desk: Desk, row_id: int) -> None:
    """Reads a PDF stretch by stretch, each kept as soon as it is read; the worker calls this."""
    work = Work(desk, CheckedPdf, row_id)
    if work.begin(_begun_anew):
        with work.scratch() as folder:
            carry_out(work, lambda: _read(work, folder), _sentence_for, _OWN_FAULT)


def _sentence_for(error: Exception) -> str | None:
    return str(error) if isinstance(error, UnreadableFile) else None


def _begun_anew(session: Session, pdf: CheckedPdf) -> None:
    """A killed worker may have left a stretch or two: it is read anew from the start."""
    session.query(PaintedPicture).filter_by(pdf_id=pdf.id).delete()
    pdf.pages, pdf.whole = [], {}
    pdf.counts = _counted([], target_of_pdf(pdf))


def _read(work: Work[CheckedPdf], folder: Path) -> None:
    with work.desk.session() as session:
        pdf = pdf_with(session, work.row_id)
        sha256, name = pdf.sha256, pdf.file_name
    path = folder / "checked.pdf"
    work.desk.blobs.copy_to(sha256, path)
    # The row is locked as a stretch is kept: nobody changes its target while verdicts are counted.
    read_apart(path, name, folder, lambda stretch: work.change(partial(_keep, stretch=stretch)))
    work.finish(lambda _session, pdf: None)


def _keep(session: Session, pdf: CheckedPdf, stretch: Stretch) -> None:
    pdf.pages = [*pdf.pages, *(page_values(page) for page in stretch.pages)]
    pdf.done_steps, pdf.all_steps = len(pdf.pages), stretch.page_count
    fonts = {*pdf.whole.get("loose_fonts", ()), *stretch.loose_fonts}
    is_damaged = pdf.whole.get("is_damaged", False) or stretch.whole["is_damaged"]
    about = {"loose_fonts": sorted(fonts), "is_damaged": is_damaged}
    pdf.whole = {**pdf.whole, **stretch.whole, **about}
    if pdf.counts is not None:
        new = _counted((painted_from(0, one) for one in stretch.pictures), target_of_pdf(pdf))
        pdf.counts = {verdict: count + new[verdict] for verdict, count in pdf.counts.items()}
    rows = [{"pdf_id": pdf.id, **picture} for picture in stretch.pictures]
    if rows:
        session.execute(insert(PaintedPicture), rows)


READ_PDF = Task(name="read_pdf", queue="outputs", run=read_pdf, model=CheckedPdf)


def target_of_pdf(pdf: CheckedPdf) -> Target:
    """What a checked PDF is judged by."""
    return target_from_values(pdf.target)


def judge_by(pdf: CheckedPdf, target: Target) -> None:
    """Judges a PDF by another target from now on."""
    pdf.target, pdf.counts = target_as_values(target), None


def counts_of(session: Session, pdf: CheckedPdf) -> dict[Verdict, int]:
    """How many pictures that are seen have each verdict, worst first; counted once, and kept."""
    counts = pdf.counts
    if counts is None:
        counts = _counted(pictures_in(session, pdf), target_of_pdf(pdf))
        if pdf.state not in RUNNING:
            pdf.counts = counts
    return {verdict: counts[verdict.value] for verdict in Verdict}


def _counted(pictures: Iterable[Painted], target: Target) -> dict[str, int]:
    counts = seen_counts(line_of(picture, target) for picture in pictures)
    return {verdict.value: count for verdict, count in counts.items()}


def read_of(pdf: CheckedPdf) -> ReadPdf:
    """What was read of a PDF so far."""
    return read_from(pdf.file_name, pdf.whole, [page_from(page) for page in pdf.pages])


def pictures_in(session: Session, pdf: CheckedPdf) -> list[Painted]:
    """The pictures of a PDF, in painting order."""
    wanted = select(*_COLUMNS).where(PaintedPicture.pdf_id == pdf.id)
    wanted = wanted.order_by(PaintedPicture.page_number, PaintedPicture.place)
    # Straight from the connection: twenty thousand pictures need no identity map.
    rows = session.connection().execute(wanted)
    return [_painted(row) for row in rows]


def picture_in(session: Session, pdf: CheckedPdf, picture_id: int) -> Painted:
    """One picture of a PDF.

    Raises:
        NotThere: it has none of that number.
    """
    wanted = select(*_COLUMNS).where(
        PaintedPicture.pdf_id == pdf.id, PaintedPicture.id == picture_id
    )
    row = session.connection().execute(wanted).first()
    if row is None:
        raise NotThere("This image is not in the PDF.")
    return _painted(row)


def _painted(row: Row[Any]) -> Painted:
    stored = dict(zip(_NAMES, row, strict=True))
    return painted_from(stored["id"], stored)
