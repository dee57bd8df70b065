"""What leaves of a checked PDF: the report as data, and a copy of the file with notes."""

import shutil
import tempfile
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from harnet.core.geometry import Matrix
from harnet.core.picture import Colour
from harnet.core.target import Target
from harnet.media.bounded import work_apart
from harnet.media.pdf.notes import order_of
from harnet.store.pdfmodels import CheckedPdf, PaintedPicture
from harnet.studio.checkedpdfs import density_of, line_of, pictures_in, target_of_pdf
from harnet.studio.desk import Desk
from harnet.studio.errors import Refused
from harnet.studio.ledger import verdict_counts
from harnet.studio.pdfcheck import note_on, target_json
from harnet.studio.progress import DONE

_SECONDS, _MEMORY_BYTES = 60, 3_000_000_000
COLUMNS = (
    "page",
    "px_w",
    "px_h",
    "ppi_x",
    "ppi_y",
    "ppi_min",
    "verdict",
    "colour",
    "bits",
    "width_pt",
    "height_pt",
    "has_profile",
    "source",
    "unseen",
    "pieces",
)


def report_of_pdf(session: Session, pdf: CheckedPdf) -> dict[str, Any]:
    """The report in its published form, docs/schemas/pdf-report.schema.json.

    Densities in ppi to a thousandth, lengths in points; pictures in painting order.
    """
    target = target_of_pdf(pdf)
    pictures = pictures_in(session, pdf)
    lines = [line_of(picture, target) for picture in pictures]
    counts = verdict_counts(line for line in lines if line.judged_ppi is not None)
    return {
        "format": "harnet pdf report",
        "version": 1,
        "file": pdf.file_name,
        "sha256": pdf.sha256,
        "pages": len(pdf.pages),
        "pdf_version": pdf.whole.get("version", ""),
        "fonts_not_embedded": pdf.whole.get("loose_fonts", []),
        "target": target_json(target),
        "pictures": [_row(picture, target) for picture in pictures],
        "summary": {verdict.value: count for verdict, count in counts.items()},
    }


def _row(picture: PaintedPicture, target: Target) -> dict[str, Any]:
    density, matrix = density_of(picture), Matrix(*picture.matrix)
    return {
        "page": picture.page_number,
        "px_w": picture.px_w,
        "px_h": picture.px_h,
        "ppi_x": round(density.x, 3),
        "ppi_y": round(density.y, 3),
        "ppi_min": round(density.worst, 3),
        "verdict": line_of(picture, target).verdict.value,
        "colour": picture.colour,
        "bits": picture.bits,
        "width_pt": round(matrix.u_length, 4),
        "height_pt": round(matrix.v_length, 4),
        "has_profile": picture.has_profile,
        "source": picture.source,
        "unseen": picture.unseen,
        "pieces": len(picture.pieces) // 2,
    }


def noted_copy(desk: Desk, session: Session, pdf: CheckedPdf) -> bytes:
    """The PDF with a note on each picture that falls short; what was handed in stays as it is.

    Raises:
        Refused: it is not read to its end.
        UnreadableFile: it cannot be read any more.
    """
    if pdf.state != DONE:
        raise Refused("Notes can be written once the whole PDF is read.")
    target = target_of_pdf(pdf)
    notes = []
    for picture in pictures_in(session, pdf):
        line = line_of(picture, target)
        if line.judged_ppi is not None and line.verdict.falls_short:
            limits = target.for_bits(picture.colour == Colour.BILEVEL.value)
            matrix = Matrix(*picture.matrix)
            notes.append(
                note_on(picture.page_number, matrix, line.judged_ppi, limits, line.verdict)
            )
    folder = Path(tempfile.mkdtemp(dir=desk.settings.scratch_folder))
    try:
        source, noted = folder / "source.pdf", folder / "noted.pdf"
        desk.blobs.copy_to(pdf.sha256, source)
        work_apart(
            "harnet.media.pdf.notes",
            order_of(source, pdf.file_name, notes, noted),
            name=pdf.file_name,
            seconds=_SECONDS,
            memory_bytes=_MEMORY_BYTES,
        )
        return noted.read_bytes()
    finally:
        shutil.rmtree(folder, ignore_errors=True)
