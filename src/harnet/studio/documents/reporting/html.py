"""The report of a checked document as one HTML file, with its pictures and its look inside."""

from base64 import b64encode

from harnet.core.documents.places import found_where
from harnet.core.preflight.finding import Finding
from harnet.studio.common.report_file import report_file
from harnet.studio.documents.drawing import Drawings
from harnet.studio.documents.reporting.report import DocumentReport
from harnet.studio.documents.reporting.samples import MOST_FINDINGS, MOST_ROWS, Spots, shown_rows


def document_report_as_html(report: DocumentReport, drawings: Drawings) -> str:
    """The report as a file that needs nothing beside it."""
    spots = Spots(report.pictures, report.read.pages, drawings)

    def with_spot(finding: Finding) -> tuple[Finding, str]:
        spot = spots.on(finding)
        return finding, b64encode(spot).decode() if spot else ""

    findings = [with_spot(finding) for finding in report.findings[:MOST_FINDINGS]]
    passed = [(*with_spot(one), acceptance) for one, acceptance in report.accepted[:MOST_FINDINGS]]
    return report_file(
        "document_report.html",
        report=report,
        about=lambda finding: found_where(report.read, finding.page_number, finding.name),
        findings=findings,
        passed=passed,
        more_findings=max(0, len(report.findings) - MOST_FINDINGS),
        rows=shown_rows(report.read, report.pictures, report.lines, report.unit),
        more_rows=max(0, len(report.pictures) - MOST_ROWS),
    )
