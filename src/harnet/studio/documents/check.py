"""The check of a document without a database: read apart, judged, reported."""

import tempfile
from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from hashlib import file_digest
from pathlib import Path
from typing import Any

from harnet.core.documents.document import DocumentFacts, DocumentPage, read_from
from harnet.core.documents.images import ImageKind, ImageOnPage, line_of, painted_from
from harnet.core.ledger.lines import Line, seen_counts
from harnet.core.measure.units import Unit
from harnet.core.preflight.document_images import findings_on
from harnet.core.preflight.finding import Finding
from harnet.core.targets.target import Target
from harnet.core.targets.values import target_as_values
from harnet.media.beginning import require_file
from harnet.studio.documents.document_values import document_values
from harnet.studio.documents.making.unlocking import Locked
from harnet.studio.documents.reading import PageRun, read_apart
from harnet.studio.documents.reporting.report import (
    DocumentReport,
    document_report,
    finding_as_values,
    report_row,
)


@dataclass(frozen=True, slots=True)
class DocumentCheck:
    """What a check of a document found: the report on its pictures, and each image as painted.

    A picture that a producer cut is one picture in the report, and several images.
    """

    report: DocumentReport
    images: Sequence[ImageOnPage]
    lines: Sequence[Line]
    """The images as they are judged, in the same order."""

    @property
    def file(self) -> str:
        """The file's name as it was given."""
        return self.report.read.name

    @property
    def pages(self) -> int | None:
        """How many pages, slides or sections it has; None for a text or a spreadsheet."""
        read = self.report.read
        return read.count if read.format.has_pages else None

    @property
    def summary(self) -> dict[str, int]:
        """How many images that are seen have each verdict, worst first, zeros included."""
        return {verdict.value: count for verdict, count in seen_counts(self.lines).items()}

    @property
    def falls_short(self) -> bool:
        """Whether some image that is seen is coarse or thin."""
        return any(
            count for verdict, count in seen_counts(self.lines).items() if verdict.falls_short
        )

    def as_json(self) -> dict[str, object]:
        """The check in its published form, docs/schemas/document-check.schema.json.

        Densities in ppi to a thousandth, lengths in points; images in painting order.
        """
        report = self.report
        return {
            "file": self.file,
            "pages": self.pages,
            "document": document_values(report.read, report.pictures),
            "target": target_as_values(report.target),
            "images": self.rows(),
            "findings": [finding_as_values(one, report.read) for one in report.findings],
            "summary": self.summary,
        }

    def rows(self) -> list[dict[str, Any]]:
        """The images that are made of pixels, in their published form."""
        read = self.report.read
        whole = (
            report_row(image, line, read)
            for image, line in zip(self.images, self.lines, strict=True)
            if image.kind is ImageKind.RASTER
        )
        return [{column: row[column] for column in COLUMNS} for row in whole]


COLUMNS = (
    *("page", "place", "px_w", "px_h", "visible_share", "ppi_x", "ppi_y", "ppi_min", "verdict"),
    *("colour", "bits", "width_pt", "height_pt", "source", "unseen"),
)
"""The names of an image's figures, in order."""


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
    judged = _Judged(name, target, unit)
    with (
        ThreadPoolExecutor(1) as pool,
        tempfile.TemporaryDirectory(prefix="harnet-") as folder,
    ):
        hashing = pool.submit(_sha256_of, locked.path if locked is not None else path)
        read_apart(
            *(path, name, Path(folder), judged.take),
            with_images=True,
            patience=patience,
            beside=beside,
        )
    return judged.check(hashing.result())


@dataclass(slots=True)
class _Judged:
    """What was read of a document so far, judged as it comes, while the next pages are read."""

    name: str
    target: Target
    unit: Unit
    pages: list[DocumentPage] = field(default_factory=list)
    pictures: list[ImageOnPage] = field(default_factory=list)
    images: list[ImageOnPage] = field(default_factory=list)
    found: list[Finding] = field(default_factory=list)
    fonts: set[str] = field(default_factory=set)
    whole: Mapping[str, Any] = field(default_factory=dict)
    is_damaged: bool = False
    is_cut: bool = False
    """Whether some picture is several images."""

    def take(self, stretch: PageRun) -> None:
        """Judges some pages."""
        pictures = _painted(stretch.pictures, len(self.pictures))
        self.is_cut = self.is_cut or stretch.images is not stretch.pictures
        self.images += _painted(stretch.images, len(self.images)) if self.is_cut else pictures
        self.pictures += pictures
        self.pages += stretch.pages
        self.fonts.update(stretch.unembedded_fonts)
        self.whole, self.is_damaged = stretch.whole, self.is_damaged or stretch.whole["is_damaged"]
        self.found += findings_on(pictures, self.read, self.target, self.unit)

    @property
    def read(self) -> DocumentFacts:
        """The document as far as it was read."""
        known = {"unembedded_fonts": sorted(self.fonts), "is_damaged": self.is_damaged}
        return read_from(self.name, {**self.whole, **known}, self.pages)

    def check(self, sha256: str) -> DocumentCheck:
        """The check, once everything was read."""
        report = document_report(
            *(self.read, sha256, self.target, self.pictures), unit=self.unit, on_pictures=self.found
        )
        lines = [line_of(one, self.target) for one in self.images] if self.is_cut else report.lines
        return DocumentCheck(report, self.images, lines)


def _painted(rows: Sequence[dict[str, Any]], after: int) -> list[ImageOnPage]:
    """The images of a stretch, numbered after those before it."""
    return [painted_from(number, row) for number, row in enumerate(rows, after + 1)]


def _sha256_of(path: Path) -> str:
    with path.open("rb") as file:
        return file_digest(file, "sha256").hexdigest()
