"""The report of a checked document as values; page, PDF, CSV and JSON are made of these."""

import csv
import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from types import MappingProxyType
from typing import Any

from harnet.core.documents.document import DocumentFacts
from harnet.core.documents.images import ImageKind, ImageOnPage, line_of
from harnet.core.documents.places import place_text
from harnet.core.documents.saving import saving_sentences
from harnet.core.ledger.lines import Line, seen_counts
from harnet.core.measure.table_text import cell_text
from harnet.core.measure.units import Unit
from harnet.core.measure.verdict import Verdict
from harnet.core.preflight.document_images import all_findings
from harnet.core.preflight.finding import Accepted, Finding
from harnet.core.targets.target import Target
from harnet.core.targets.values import target_as_values
from harnet.studio.documents.document_values import document_values

Acceptances = Mapping[tuple[int, str], Accepted]
"""What was accepted, by the number of a picture, 0 for the whole PDF, and by rule."""
COLUMNS = (
    "page",
    "place",
    "px_w",
    "px_h",
    "visible_share",
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
    "effects",
    "findings",
)
"""The columns of the report as CSV: a row for each picture."""


@dataclass(frozen=True, slots=True, kw_only=True)
class DocumentReport:
    """Everything that a report of a PDF says.

    `findings` are open, `accepted` may pass; where a finding is worse than what was accepted of it,
    it is open, and `lapsed` says what was accepted.
    """

    read: DocumentFacts
    sha256: str
    target: Target
    pictures: Sequence[ImageOnPage]
    lines: Sequence[Line]
    findings: Sequence[Finding]
    accepted: Sequence[tuple[Finding, Accepted]] = ()
    lapsed: Acceptances = field(default_factory=dict)
    unit: Unit = Unit.MM
    """What its lengths are said in."""

    @property
    def counts(self) -> dict[Verdict, int]:
        """How many pictures that are seen have each verdict, worst first."""
        return seen_counts(self.lines)

    @property
    def saving(self) -> list[str]:
        """What its settings say about pictures when it is saved, in plain words."""
        return saving_sentences(self.read.saving)

    @property
    def unseen(self) -> int:
        """How many pictures not visible."""
        return sum(line.judged_ppi is None for line in self.lines)


def document_report(
    read: DocumentFacts,
    sha256: str,
    target: Target,
    pictures: Sequence[ImageOnPage],
    acceptances: Acceptances = MappingProxyType({}),
    unit: Unit = Unit.MM,
    on_pictures: Sequence[Finding] | None = None,
) -> DocumentReport:
    """The report on what was read of a PDF; pictures in painting order, each with its number.

    `on_pictures` is what was found on the pictures, where they were looked at before.
    """
    lines = [line_of(picture, target) for picture in pictures]
    found = all_findings(pictures, read, target, unit, on_pictures)
    findings, accepted = split_by(found, acceptances)
    lapsed = {
        key: acceptances[key]
        for key in ((one.item_id, one.rule_id) for one in findings)
        if key in acceptances
    }
    return DocumentReport(
        read=read,
        sha256=sha256,
        target=target,
        pictures=pictures,
        lines=lines,
        findings=findings,
        accepted=accepted,
        lapsed=lapsed,
        unit=unit,
    )


def split_by(
    findings: Sequence[Finding], acceptances: Acceptances
) -> tuple[list[Finding], list[tuple[Finding, Accepted]]]:
    """The findings that are open, and those that may pass, in their order."""
    still_open: list[Finding] = []
    passed: list[tuple[Finding, Accepted]] = []
    for finding in findings:
        accepted = acceptances.get((finding.item_id, finding.rule_id))
        if accepted is not None and accepted.holds_for(finding):
            passed.append((finding, accepted))
        else:
            still_open.append(finding)
    return still_open, passed


def report_as_json(report: DocumentReport) -> dict[str, Any]:
    """The report in its published form, docs/schemas/document-report.schema.json.

    Densities in ppi to a thousandth, lengths in points; pictures in painting order, to which
    findings point by number from 1, or by null where they are on the document as a whole. Those
    that were accepted follow those that are open.
    """
    order = {picture.id: number for number, (picture, _) in enumerate(_rasters(report), 1)}
    findings = [*((one, None) for one in report.findings), *report.accepted]
    return {
        "format": "harnet document report",
        "version": 3,
        "file": report.read.name,
        "sha256": report.sha256,
        "document": document_values(report.read, report.pictures),
        "pages": report.read.count if report.read.format.has_pages else None,
        "pdf_version": report.read.version,
        "output_intent": report.read.intent or None,
        "fonts_not_embedded": list(report.read.unembedded_fonts),
        "target": target_as_values(report.target),
        "images": [report_row(picture, line, report.read) for picture, line in _rasters(report)],
        "findings": [
            finding_as_values(one, report.read)
            | {
                "image": order.get(one.item_id),
                "accepted": accepted and _accepted_json(accepted),
            }
            for one, accepted in findings
        ],
        "summary": {verdict.value: count for verdict, count in report.counts.items()},
    }


def finding_as_values(finding: Finding, read: DocumentFacts) -> dict[str, Any]:
    """What a finding says, in its published form."""
    return {
        "rule": finding.rule_id,
        "severity": finding.severity.value,
        "page": read.number_of(finding.page_number),
        "headline": finding.headline,
        "sentence": finding.sentence,
    }


def _accepted_json(accepted: Accepted) -> dict[str, str]:
    return {
        "reason": accepted.reason,
        "name": accepted.name,
        "at": accepted.accepted_at.isoformat(),
    }


def report_as_rows(report: DocumentReport) -> list[dict[str, Any]]:
    """The lines below `COLUMNS`; what was found on a picture stands in the last."""
    found: dict[int, list[str]] = {}
    for one in report.findings:
        found.setdefault(one.item_id, []).append(f"{one.severity.value}: {one.headline}")
    for one, accepted in report.accepted:
        found.setdefault(one.item_id, []).append(f"accepted by {accepted.name}: {one.headline}")
    return [
        report_row(picture, line, report.read) | {"findings": "; ".join(found.get(picture.id, ()))}
        for picture, line in _rasters(report)
    ]


def _rasters(report: DocumentReport) -> list[tuple[ImageOnPage, Line]]:
    """The images that are made of pixels, with their lines."""
    both = zip(report.pictures, report.lines, strict=True)
    return [(picture, line) for picture, line in both if picture.kind is ImageKind.RASTER]


def report_as_csv(report: DocumentReport) -> str:
    """A line for each picture under the names of `COLUMNS`."""
    text = io.StringIO()
    writer = csv.DictWriter(text, COLUMNS)
    writer.writeheader()
    rows = report_as_rows(report)
    writer.writerows({key: cell_text(one) for key, one in row.items()} for row in rows)
    return text.getvalue()


def report_row(picture: ImageOnPage, line: Line, read: DocumentFacts) -> dict[str, Any]:
    """A picture of the published form: densities in ppi to a thousandth, lengths in points."""
    density, matrix = picture.density, picture.shown_matrix
    return {
        "page": read.number_of(picture.page_number),
        "place": place_text(picture, read.page_of(picture.page_number)),
        "px_w": picture.px_w,
        "px_h": picture.px_h,
        "visible_share": round(picture.visible_share, 6),
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
        "effects": ", ".join(picture.effects),
    }
