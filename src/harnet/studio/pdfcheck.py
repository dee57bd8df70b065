"""The check of a PDF file without a database: read apart, judged, reported."""

import json
import shutil
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from hashlib import file_digest
from pathlib import Path
from typing import Any

from harnet.core.target import Target
from harnet.core.verdict import Verdict
from harnet.media.bounded import work_apart
from harnet.media.pdf.opening import require_pdf
from harnet.store.pdfmodels import PaintedPicture
from harnet.studio.checkedpdfs import line_of
from harnet.studio.checkedreport import PdfReport, pdf_report, report_as_json, report_row

_SECONDS, _MEMORY_BYTES = 300, 4_000_000_000


@dataclass(frozen=True, slots=True)
class PdfCheck:
    """What a check of a PDF found: the report on its pictures, and every image as it is painted.

    A picture that a producer cut is one picture in the report, and several images.
    """

    report: PdfReport
    images: Sequence[PaintedPicture]

    @property
    def file(self) -> str:
        """The file's name as it was given."""
        return self.report.file

    @property
    def pages(self) -> int:
        """How many pages it has."""
        return len(self.report.pages)

    def verdict_of(self, image: PaintedPicture) -> Verdict:
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
                {key: value for key, value in one.items() if key != "picture"}
                for one in report["findings"]
            ],
            "summary": self.summary,
        }

    def row(self, image: PaintedPicture) -> dict[str, Any]:
        """One image of the published form."""
        whole = report_row(image, line_of(image, self.report.target))
        return {column: whole[column] for column in COLUMNS}


COLUMNS = (
    *("page", "px_w", "px_h", "ppi_x", "ppi_y", "ppi_min", "verdict", "colour", "bits"),
    *("width_pt", "height_pt", "source", "unseen"),
)
"""The names of an image's figures, in order."""


def check_pdf(path: Path, name: str, target: Target) -> PdfCheck:
    """Every image that a PDF paints, judged; it is read in a process with bounds of its own.

    Raises:
        UnreadableFile: the PDF cannot be read.
    """
    require_pdf(path, name)
    folder = Path(tempfile.mkdtemp(prefix="harnet-"))
    try:
        answer = folder / "answer.json"
        order = {"path": str(path), "name": name, "first": 1, "last": None, "images": True}
        said = work_apart(
            "harnet.media.pdf.checkwork",
            order | {"answer": str(answer)},
            name=name,
            seconds=_SECONDS,
            memory_bytes=_MEMORY_BYTES,
        )
        found = json.loads(answer.read_text())
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    pictures = [PaintedPicture(id=n, **row) for n, row in enumerate(found["pictures"], 1)]
    images = [PaintedPicture(id=n, **row) for n, row in enumerate(found["images"], 1)]
    with path.open("rb") as file:
        sha256 = file_digest(file, "sha256").hexdigest()
    whole = said["whole"] | {"loose_fonts": found["loose_fonts"]}
    report = pdf_report(name, sha256, target, whole, found["pages"], pictures)
    return PdfCheck(report, images)
