"""The check of a document without a database: read apart, judged, reported."""

import tempfile
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from hashlib import file_digest
from pathlib import Path
from typing import Any

from harnet.core.documents.document import read_from
from harnet.core.documents.images import ImageKind, ImageOnPage, line_of, painted_from
from harnet.core.measure.units import Unit
from harnet.core.measure.verdict import Verdict
from harnet.core.targets.target import Target
from harnet.media.facts.bounded_reading import require_file
from harnet.studio.documents.making.unlocking import Locked
from harnet.studio.documents.reading import PageRun, read_apart
from harnet.studio.documents.report import (
    DocumentReport,
    document_report,
    report_as_json,
    report_row,
)


@dataclass(frozen=True, slots=True)
class DocumentCheck:
    """What a check of a document found: the report on its pictures, and each image as painted.

    A picture that a producer cut is one picture in the report, and several images.
    """

    report: DocumentReport
    images: Sequence[ImageOnPage]

    @property
    def file(self) -> str:
        """The file's name as it was given."""
        return self.report.read.name

    @property
    def pages(self) -> int | None:
        """How many pages, slides or sections it has; None for a text or a spreadsheet."""
        read = self.report.read
        return read.count if read.format.has_pages else None

    def verdict_of(self, image: ImageOnPage) -> Verdict:
        """The verdict of one image."""
        return line_of(image, self.report.target).verdict

    @property
    def summary(self) -> dict[str, int]:
        """How many images that are seen have each verdict, worst first, zeros included."""
        counts = dict.fromkeys((verdict.value for verdict in Verdict), 0)
        for image in self.images:
            if image.is_judged:
                counts[self.verdict_of(image).value] += 1
        return counts

    @property
    def falls_short(self) -> bool:
        """Whether some image that is seen is coarse or thin."""
        return any(self.verdict_of(one).falls_short for one in self.images if one.is_judged)

    def as_json(self) -> dict[str, object]:
        """The check in its published form, docs/schemas/document-check.schema.json.

        Densities in ppi to a thousandth, lengths in points; images in painting order.
        """
        report = report_as_json(self.report)
        return {
            "file": self.file,
            "pages": self.pages,
            "document": report["document"],
            "target": report["target"],
            "images": [self.row(image) for image in self.rasters],
            "findings": [{key: one[key] for key in _OF_FINDING} for one in report["findings"]],
            "summary": self.summary,
        }

    @property
    def rasters(self) -> list[ImageOnPage]:
        """The images that are made of pixels."""
        return [one for one in self.images if one.kind is ImageKind.RASTER]

    def row(self, image: ImageOnPage) -> dict[str, Any]:
        """One image of the published form."""
        line = line_of(image, self.report.target)
        whole = report_row(image, line, self.report.read)
        return {column: whole[column] for column in COLUMNS}


COLUMNS = (
    *("page", "place", "px_w", "px_h", "visible_share", "ppi_x", "ppi_y", "ppi_min", "verdict"),
    *("colour", "bits", "width_pt", "height_pt", "source", "unseen"),
)
"""The names of an image's figures, in order."""
_OF_FINDING = ("rule", "severity", "page", "headline", "sentence")


def check_document(
    path: Path,
    name: str,
    target: Target,
    patience: float | None = None,
    unit: Unit = Unit.MM,
    locked: Locked | None = None,
    beside: Path | None = None,
) -> DocumentCheck:
    """Every image that a document paints, judged; it is read in a process with bounds of its own.

    `patience` is how many times the quick bounds it may take; None gives the wide ones of work in
    the background. What lies beyond them is a finding. Findings speak of lengths in `unit`.
    `locked` is a PDF as it is encrypted, where `path` is the same without its password; `beside`
    the folder of pictures that an SVG refers to.

    Raises:
        UnreadableFile: the document cannot be read.
    """
    require_file(path, name)
    stretches: list[PageRun] = []
    with (
        ThreadPoolExecutor(1) as pool,
        tempfile.TemporaryDirectory(prefix="harnet-") as folder,
    ):
        hashing = pool.submit(_sha256_of, locked.path if locked is not None else path)
        read_apart(
            *(path, name, Path(folder), stretches.append),
            with_images=True,
            patience=patience,
            beside=beside,
        )
    pages = [page for one in stretches for page in one.pages]
    rows = (row for one in stretches for row in one.pictures)
    pictures = [painted_from(number, row) for number, row in enumerate(rows, 1)]
    rows = (row for one in stretches for row in one.images)
    images = [painted_from(number, row) for number, row in enumerate(rows, 1)]
    fonts = sorted({font for one in stretches for font in one.unembedded_fonts})
    is_damaged = any(stretch.whole["is_damaged"] for stretch in stretches)
    about = {**stretches[-1].whole, "unembedded_fonts": fonts, "is_damaged": is_damaged}
    read = read_from(name, about, pages)
    return DocumentCheck(
        document_report(read, hashing.result(), target, pictures, unit=unit), images
    )


def _sha256_of(path: Path) -> str:
    with path.open("rb") as file:
        return file_digest(file, "sha256").hexdigest()
