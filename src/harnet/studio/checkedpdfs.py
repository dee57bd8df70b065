"""Checked PDFs: handed in, read by the worker stretch by stretch, judged by any target, deleted."""

import json
import shutil
import tempfile
from collections.abc import Iterator
from functools import partial
from pathlib import Path
from typing import IO, Any

from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from harnet.core.density import EffectiveDensity, effective_density, headroom
from harnet.core.geometry import Matrix
from harnet.core.picture import Colour
from harnet.core.rulerscale import ruler_step
from harnet.core.target import Target
from harnet.core.targetvalues import target_as_values, target_from_values
from harnet.core.verdict import Verdict, verdict_of_judged
from harnet.media.bounded import work_apart
from harnet.media.errors import UnreadableFile
from harnet.store.base import now_utc
from harnet.store.pdfmodels import CheckedPdf, PaintedPicture
from harnet.studio.blobuse import let_go
from harnet.studio.desk import Desk
from harnet.studio.errors import NotThere
from harnet.studio.ledger import Line
from harnet.studio.pdfsubjects import name_of_painted
from harnet.studio.progress import DONE, FAILED, RUNNING, WORKING
from harnet.studio.takein import handed_in

_FIRST_PAGES, _PAGES_AT_ONCE = 8, 120
"""The first stretch is short, so that something is seen soon."""
_SECONDS, _MEMORY_BYTES = 120, 3_000_000_000
_MOST_PICTURES = 200_000
_VERDICTS = list(Verdict)
_LEAST_ROOM = -0.9999
"""A picture blown up so far that its density rounds to nothing still has a place on the ruler."""


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
        raise NotThere("This PDF is not here any more. Hand it in again to check it.")
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
    delete_pdf(desk, session, pdf)
    return earlier, False


def delete_pdf(desk: Desk, session: Session, pdf: CheckedPdf) -> None:
    """Deletes a PDF with everything found in it; other uses of the same bytes stay."""
    sha256 = pdf.sha256
    session.delete(pdf)
    let_go(desk, session, sha256)


def read_pdf(desk: Desk, pdf_id: int) -> None:
    """Reads a PDF stretch by stretch, each kept as soon as it is read; the worker calls this."""
    with desk.session() as session:
        pdf = session.get(CheckedPdf, pdf_id)
        if pdf is None or pdf.state not in RUNNING:
            return
        # A killed worker may have left a stretch or two: it is read anew from the start.
        session.query(PaintedPicture).filter_by(pdf_id=pdf_id).delete()
        pdf.state, pdf.pages, pdf.whole, pdf.done_steps = WORKING, [], {}, 0
        sha256, name = pdf.sha256, pdf.file_name
    folder = Path(tempfile.mkdtemp(dir=desk.settings.scratch_folder))
    try:
        path = folder / "checked.pdf"
        desk.blobs.copy_to(sha256, path)
        for stretch in _stretches(path, name, folder):
            if not desk.patiently(partial(_keep, pdf_id=pdf_id, stretch=stretch)):
                return
        desk.patiently(lambda session: _finish(session, pdf_id, DONE))
    except UnreadableFile as error:
        sentence = str(error)
        desk.patiently(lambda session: _finish(session, pdf_id, FAILED, sentence))
    except Exception:
        trouble = "Reading this failed for a reason of Harnet's own."
        desk.patiently(lambda session: _finish(session, pdf_id, FAILED, trouble))
        raise
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _stretches(path: Path, name: str, folder: Path) -> Iterator[dict[str, Any]]:
    """What each stretch of pages holds, read in a process of its own."""
    first, count, total = 1, 1, 0
    while first <= count:
        last = _FIRST_PAGES if first == 1 else first + _PAGES_AT_ONCE - 1
        answer = folder / "answer.json"
        order = {
            "path": str(path),
            "name": name,
            "first": first,
            "last": last,
            "answer": str(answer),
        }
        said = work_apart(
            "harnet.media.pdf.checkwork",
            order,
            name=name,
            seconds=_SECONDS,
            memory_bytes=_MEMORY_BYTES,
        )
        found = json.loads(answer.read_text())
        count = said["count"]
        total += len(found["pictures"])
        if total > _MOST_PICTURES:
            raise UnreadableFile(name, f"it paints more than {_MOST_PICTURES} pictures")
        yield {**found, "count": count, "whole": said["whole"]}
        first = last + 1


def _keep(session: Session, pdf_id: int, stretch: dict[str, Any]) -> bool:
    """Keeps a stretch; whether the PDF is still wanted."""
    pdf = session.get(CheckedPdf, pdf_id)
    if pdf is None or pdf.state not in RUNNING:
        return False
    pdf.pages = [*pdf.pages, *stretch["pages"]]
    pdf.done_steps, pdf.all_steps = len(pdf.pages), stretch["count"]
    fonts = {*pdf.whole.get("loose_fonts", ()), *stretch["loose_fonts"]}
    pdf.whole = {**pdf.whole, **stretch["whole"], "loose_fonts": sorted(fonts)}
    rows = [{"pdf_id": pdf_id, **picture} for picture in stretch["pictures"]]
    if rows:
        session.execute(insert(PaintedPicture), rows)
    return True


def _finish(session: Session, pdf_id: int, state: str, trouble: str | None = None) -> None:
    pdf = session.get(CheckedPdf, pdf_id)
    if pdf is not None and pdf.state in RUNNING:
        pdf.state, pdf.trouble, pdf.finished_at = state, trouble, now_utc()


def target_of_pdf(pdf: CheckedPdf) -> Target:
    """What a checked PDF is judged by."""
    return target_from_values(pdf.target)


def pictures_in(session: Session, pdf: CheckedPdf, page_number: int = 0) -> list[PaintedPicture]:
    """The pictures of a PDF, or of one page, in painting order."""
    wanted = select(PaintedPicture).where(PaintedPicture.pdf_id == pdf.id)
    if page_number:
        wanted = wanted.where(PaintedPicture.page_number == page_number)
    return list(session.scalars(wanted.order_by(PaintedPicture.page_number, PaintedPicture.place)))


def density_of(picture: PaintedPicture) -> EffectiveDensity:
    """The effective density of a painted picture, by formula 1."""
    return effective_density(picture.px_w, picture.px_h, Matrix(*picture.matrix))


def line_of(picture: PaintedPicture, target: Target) -> Line:
    """A painted picture as the ledger and the ruler take it, judged by a target.

    What cannot be seen is listed, and not judged.
    """
    density = density_of(picture)
    is_bilevel = picture.colour == Colour.BILEVEL.value
    limits = target.for_bits(is_bilevel)
    width, height = Matrix(*picture.matrix).u_length, Matrix(*picture.matrix).v_length
    room = headroom(density.judged, limits.density_ppi)
    is_seen = not picture.unseen
    return Line(
        picture.id,
        picture.page_number,
        name_of_painted(picture),
        _VERDICTS.index(verdict_of_judged(density.judged, limits)),
        density.judged if is_seen else None,
        room if is_seen else None,
        ruler_step(max(room, _LEAST_ROOM)) if is_seen else None,
        density.evenness,
        density.is_uneven,
        is_bilevel,
        False,
        picture.unseen or "seen",
        picture.colour,
        picture.source,
        picture.px_w * picture.px_h,
        width * height,
    )
