"""The check of a PDF file without a database: read apart, judged, reported."""

import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from hashlib import file_digest
from pathlib import Path
from typing import Any

from harnet.core.documents.images import ImageOnPage, line_of, painted_from, read_from
from harnet.core.measure.units import Unit
from harnet.core.measure.verdict import Verdict
from harnet.core.targets.target import Target
from harnet.media.facts.bounded_reading import require_file
from harnet.media.pdf.opening.signature import require_pdf
from harnet.studio.documents.making.unlocking import Locked
from harnet.studio.documents.reading import PageRun, read_apart
from harnet.studio.documents.report import PdfReport, pdf_report, report_as_json, report_row


@dataclass(frozen=True, slots=True)
class PdfCheck:
    """What a check of a PDF found: the report on its pictures, and every image as it is painted.

    A picture that a producer cut is one picture in the report, and several images.
    """

    report: PdfReport
    images: Sequence[ImageOnPage]

    @property
    def file(self) -> str:
        """The file's name as it was given."""
        return self.report.read.name

    @property
    def pages(self) -> int:
        """How many pages it has."""
        return len(self.report.read.pages)

    def verdict_of(self, image: ImageOnPage) -> Verdict:
        """The verdict of one image."""
        return line_of(image, self.report.target).verdict

    @property
    def summary(self) -> dict[str, int]:
        """How many images that are seen have each verdict, worst first, zeros included."""
        counts = dict.fromkeys((verdict.value for verdict in Verdict), 0)
        for image in self.images:
            if not image.unseen:
                counts[self.verdict_of(image).value] += 1
        return counts

    @property
    def falls_short(self) -> bool:
        """Whether some image that is seen is coarse or thin."""
        return any(self.verdict_of(one).falls_short for one in self.images if not one.unseen)

    def as_json(self) -> dict[str, object]:
        """The check in its published form, docs/schemas/pdf-check.schema.json.

        Densities in ppi to a thousandth, lengths in points; images in painting order.
        """
        report = report_as_json(self.report)
        return {
            "file": self.file,
            "pages": self.pages,
            "target": report["target"],
            "images": [self.row(image) for image in self.images],
            "findings": [
                {key: one[key] for key in ("rule", "severity", "page", "headline", "sentence")}
                for one in report["findings"]
            ],
            "summary": self.summary,
        }

    def row(self, image: ImageOnPage) -> dict[str, Any]:
        """One image of the published form."""
        whole = report_row(image, line_of(image, self.report.target))
        return {column: whole[column] for column in COLUMNS}


COLUMNS = (
    *("page", "px_w", "px_h", "ppi_x", "ppi_y", "ppi_min", "verdict", "colour", "bits"),
    *("width_pt", "height_pt", "source", "unseen"),
)
"""The names of an image's figures, in order."""


def check_pdf(
    path: Path,
    name: str,
    target: Target,
    patience: float | None = None,
    unit: Unit = Unit.MM,
    locked: Locked | None = None,
) -> PdfCheck:
    """Every image that a PDF paints, judged; it is read in a process with bounds of its own.

    `patience` is how many times the quick bounds it may take; None gives the wide ones of work in
    the background. What lies beyond them is a finding. Findings speak of lengths in `unit`.
    `locked` is the PDF as it is encrypted, where `path` is the same without its password.

    Raises:
        UnreadableFile: the PDF cannot be read.
    """
    require_file(path, name)
    require_pdf(path, name)
    stretches: list[PageRun] = []
    with tempfile.TemporaryDirectory(prefix="harnet-") as folder:
        read_apart(path, name, Path(folder), stretches.append, with_images=True, patience=patience)
    pages = [page for one in stretches for page in one.pages]
    rows = (row for one in stretches for row in one.pictures)
    pictures = [painted_from(number, row) for number, row in enumerate(rows, 1)]
    rows = (row for one in stretches for row in one.images)
    images = [painted_from(number, row) for number, row in enumerate(rows, 1)]
    with (locked.path if locked is not None else path).open("rb") as file:
        sha256 = file_digest(file, "sha256").hexdigest()
    fonts = sorted({font for one in stretches for font in one.unembedded_fonts})
    is_damaged = any(stretch.whole["is_damaged"] for stretch in stretches)
    about = {**stretches[-1].whole, "unembedded_fonts": fonts, "is_damaged": is_damaged}
    read = read_from(name, about, pages)
    return PdfCheck(pdf_report(read, sha256, target, pictures, unit=unit), images)
