"""The report of a checked document as PDF: in words and tables, with poor samples as pictures."""

from harnet.core.documents.document import DocumentFacts
from harnet.core.documents.places import found_where
from harnet.core.measure.wording import counted, ppi_text, share_text
from harnet.core.preflight.finding import Accepted, Finding
from harnet.media.pagedrawing.report import Heading, Part, ReportEntry, ReportTable, write_report
from harnet.studio.documents.drawing import Drawings
from harnet.studio.documents.reporting.report import DocumentReport
from harnet.studio.documents.reporting.samples import MOST_FINDINGS, MOST_ROWS, Spots, shown_rows


def document_report_as_pdf(report: DocumentReport, drawings: Drawings) -> bytes:
    """The report as the bytes of a PDF."""
    target = report.target
    verdicts = ", ".join(
        f"{count} {verdict.value}" for verdict, count in report.counts.items() if count
    )
    hidden = f"; {counted(report.unseen, 'picture')} not visible" if report.unseen else ""
    parts: list[Part] = [
        Heading(
            report.read.name,
            f"{counted(report.read.count, report.read.format.part)}, judged by {target.spoken},"
            f" {ppi_text(target.density_ppi)} ppi ± {share_text(target.tolerance)}",
        ),
        ReportEntry(
            f"{counted(len(report.findings), 'finding')} on"
            f" {counted(len(report.pictures), 'picture')}",
            f"Images: {verdicts or 'none'}{hidden}.",
        ),
    ]
    if report.saving:
        parts.append(ReportEntry("Settings", " ".join(report.saving)))
    spots = Spots(report.pictures, report.read.pages, drawings)
    parts += _found(report, spots)
    parts += _passed(report, spots)
    if report.pictures:
        parts.append(Heading("All images", "in drawing order"))
        parts.append(_table(report))
        if len(report.pictures) > MOST_ROWS:
            more = counted(len(report.pictures) - MOST_ROWS, "image")
            parts.append(ReportEntry(f"and {more} more", "The CSV report lists them all."))
    return write_report(f"{report.read.name}: report", parts)


def _found(report: DocumentReport, spots: Spots) -> list[Part]:
    if not report.findings and report.accepted:
        return [ReportEntry("No open findings", "Every finding was accepted.")]
    if not report.findings:
        return [ReportEntry("No findings", "Every rule was checked.")]
    parts: list[Part] = [Heading("Found")]
    for finding in report.findings[:MOST_FINDINGS]:
        parts.append(
            ReportEntry(finding_text(report.read, finding), finding.sentence, spots.on(finding))
        )
    if len(report.findings) > MOST_FINDINGS:
        more = counted(len(report.findings) - MOST_FINDINGS, "finding")
        parts.append(ReportEntry(f"and {more} more", "The CSV report lists them all."))
    return parts


def _passed(report: DocumentReport, spots: Spots) -> list[Part]:
    if not report.accepted:
        return []
    parts: list[Part] = [Heading("Accepted")]
    for finding, accepted in report.accepted[:MOST_FINDINGS]:
        sentence = f"{finding.sentence} {accepted_text(accepted)}"
        parts.append(ReportEntry(finding_text(report.read, finding), sentence, spots.on(finding)))
    return parts


def accepted_text(accepted: Accepted) -> str:
    """Who let a finding pass, when and why."""
    return f"{accepted.name}, {accepted.accepted_at:%-d %B %Y}: {accepted.reason}"


def finding_text(read: DocumentFacts, finding: Finding) -> str:
    """Where something was found, what, and how much it matters."""
    where = found_where(read, finding.page_number, finding.name)
    return f"{where} · {finding.headline} ({finding.severity.value})"


def _table(report: DocumentReport) -> ReportTable:
    rows = [
        (row.page, row.pixels, row.size, row.ppi, row.verdict, row.colour)
        for row in shown_rows(report.read, report.pictures, report.lines, report.unit)
    ]
    heads = (
        "Where" if report.read.format.is_package else "Page",
        "Pixels",
        "Size on page",
        "Effective ppi",
        "Verdict",
        "Colour",
    )
    shares = (24, 14, 18, 12, 16, 12) if report.read.format.is_package else (6, 16, 20, 14, 16, 14)
    return ReportTable(heads, rows, shares)
