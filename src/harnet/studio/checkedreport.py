"""The report of a checked PDF as values; page, PDF, CSV and JSON are all written from these."""

import csv
import io
import shutil
import tempfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from harnet.core.geometry import Matrix
from harnet.core.preflight.finding import Finding
from harnet.core.target import Target
from harnet.core.verdict import Verdict
from harnet.media.bounded import work_apart
from harnet.media.pdf.notes import order_of
from harnet.store.pdfmodels import CheckedPdf, PaintedPicture
from harnet.studio.checkedpdfs import density_of, line_of, pictures_in, target_of_pdf
from harnet.studio.desk import Desk
from harnet.studio.errors import Refused
from harnet.studio.ledger import Line, verdict_counts
from harnet.studio.pdfnotes import notes_on
from harnet.studio.pdfsubjects import PageValues, all_findings, document_of
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
    "has_alpha",
    "source",
    "unseen",
    "pieces",
    "findings",
)
"""The columns of the report as CSV: a line for each picture."""


@dataclass(frozen=True, slots=True)
class PdfReport:
    """Everything that a report of a PDF says."""

    file: str
    sha256: str
    target: Target
    whole: Mapping[str, Any]
    pages: Sequence[PageValues]
    pictures: Sequence[PaintedPicture]
    lines: Sequence[Line]
    findings: Sequence[Finding]

    @property
    def counts(self) -> dict[Verdict, int]:
        """How many pictures that are seen have each verdict, worst first."""
        return verdict_counts(line for line in self.lines if line.judged_ppi is not None)

    @property
    def unseen(self) -> int:
        """How many pictures cannot be seen."""
        return sum(line.judged_ppi is None for line in self.lines)

    def findings_by_picture(self) -> dict[int, list[Finding]]:
        """The findings on each picture that has any, worst first; 0 is the PDF as a whole."""
        found: dict[int, list[Finding]] = {}
        for finding in self.findings:
            found.setdefault(finding.item_id, []).append(finding)
        return found


def report_of_pdf(session: Session, pdf: CheckedPdf, target: Target | None = None) -> PdfReport:
    """The report of a checked PDF by its own target, or by another that is tried."""
    return pdf_report(
        pdf.file_name,
        pdf.sha256,
        target or target_of_pdf(pdf),
        pdf.whole,
        pdf.pages,
        pictures_in(session, pdf),
    )


def pdf_report(
    name: str,
    sha256: str,
    target: Target,
    whole: Mapping[str, Any],
    pages: Sequence[PageValues],
    pictures: Sequence[PaintedPicture],
) -> PdfReport:
    """The report on what was read of a PDF; pictures in painting order, each with its number."""
    document = document_of(name, whole, pages, target)
    lines = [line_of(picture, target) for picture in pictures]
    findings = all_findings(document, pictures, pages)
    return PdfReport(name, sha256, target, whole, pages, pictures, lines, findings)


def report_as_json(report: PdfReport) -> dict[str, Any]:
    """The report in its published form, docs/schemas/pdf-report.schema.json.

    Densities in ppi to a thousandth, lengths in points; pictures in painting order, to which
    findings point by number from 1, or by null where they are on the PDF as a whole.
    """
    order = {picture.id: number for number, picture in enumerate(report.pictures, 1)}
    return {
        "format": "harnet pdf report",
        "version": 1,
        "file": report.file,
        "sha256": report.sha256,
        "pages": len(report.pages),
        "pdf_version": report.whole.get("version", ""),
        "fonts_not_embedded": list(report.whole.get("loose_fonts", [])),
        "target": target_json(report.target),
        "pictures": [
            report_row(picture, line)
            for picture, line in zip(report.pictures, report.lines, strict=True)
        ],
        "findings": [
            {
                "rule": one.rule_id,
                "severity": one.severity.value,
                "page": one.page_number or None,
                "picture": order.get(one.item_id),
                "headline": one.headline,
                "sentence": one.sentence,
            }
            for one in report.findings
        ],
        "summary": {verdict.value: count for verdict, count in report.counts.items()},
    }


def report_as_rows(report: PdfReport) -> list[dict[str, Any]]:
    """The lines below `COLUMNS`; what was found on a picture stands in the last."""
    found = report.findings_by_picture()
    return [
        report_row(picture, line)
        | {
            "findings": "; ".join(
                f"{one.severity.value}: {one.headline}" for one in found.get(picture.id, [])
            )
        }
        for picture, line in zip(report.pictures, report.lines, strict=True)
    ]


def report_as_csv(report: PdfReport) -> str:
    """A line for each picture under the names of `COLUMNS`."""
    text = io.StringIO()
    writer = csv.DictWriter(text, COLUMNS)
    writer.writeheader()
    writer.writerows(report_as_rows(report))
    return text.getvalue()


def report_row(picture: PaintedPicture, line: Line) -> dict[str, Any]:
    """A picture of the published form: densities in ppi to a thousandth, lengths in points."""
    density, matrix = density_of(picture), Matrix(*picture.matrix)
    return {
        "page": picture.page_number,
        "px_w": picture.px_w,
        "px_h": picture.px_h,
        "ppi_x": round(density.x, 3),
        "ppi_y": round(density.y, 3),
        "ppi_min": round(density.worst, 3),
        "verdict": line.verdict.value,
        "colour": picture.colour,
        "bits": picture.bits,
        "width_pt": round(matrix.u_length, 4),
        "height_pt": round(matrix.v_length, 4),
        "has_profile": picture.has_profile,
        "has_alpha": picture.has_alpha,
        "source": picture.source,
        "unseen": picture.unseen,
        "pieces": len(picture.pieces) // 2,
    }


def target_json(target: Target) -> dict[str, object]:
    """A target in the published form, in ppi."""
    return {
        "key": target.key,
        "name": target.name,
        "density_ppi": target.density_ppi,
        "bilevel_ppi": target.bilevel_ppi,
        "floor_ppi": round(target.floor_ppi, 4),
        "ceiling_ppi": target.ceiling_ppi,
        "tolerance": target.tolerance,
    }


def noted_copy(desk: Desk, session: Session, pdf: CheckedPdf) -> bytes:
    """The PDF with a note on each picture that falls short; what was handed in stays as it is.

    Raises:
        Refused: it is not read to its end.
        UnreadableFile: it cannot be read any more.
    """
    if pdf.state != DONE:
        raise Refused("Notes can be written once the whole PDF is read.")
    notes = notes_on(pictures_in(session, pdf), target_of_pdf(pdf))
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
