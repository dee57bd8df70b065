"""The report of a job as one HTML file, with pictures of the poor samples inside."""

from base64 import b64encode

from harnet.studio.common.report_file import report_file
from harnet.studio.common.studio import Studio
from harnet.studio.preflight.checking import Listed
from harnet.studio.preflight.report import Report, rules_asked
from harnet.studio.preflight.report_pdf import HEADS, MOST_SPOTS, row_of, spot_on

_MOST_FINDINGS, _MOST_ROWS = 1000, 5000
_FIGURES = (1, 2, 4, 5)
"""The columns that are aligned as figures."""


def report_as_html(studio: Studio, report: Report) -> str:
    """The report as a file that needs nothing beside it."""
    placed, left = report.placed_by_item, MOST_SPOTS

    def with_spot(one: Listed) -> tuple[Listed, str]:
        nonlocal left
        spot = spot_on(studio, placed.get(one.row.item_id)) if left > 0 else None
        left -= spot is not None
        return one, b64encode(spot).decode() if spot else ""

    return report_file(
        "job_report.html",
        report=report,
        findings=[with_spot(one) for one in report.findings[:_MOST_FINDINGS]],
        accepted=[with_spot(one) for one in report.accepted[:_MOST_FINDINGS]],
        more_findings=max(0, len(report.findings) - _MOST_FINDINGS),
        more_accepted=max(0, len(report.accepted) - _MOST_FINDINGS),
        heads=HEADS,
        figures=_FIGURES,
        rows=[row_of(one, report.unit) for one in report.placed[:_MOST_ROWS]],
        more_rows=max(0, len(report.placed) - _MOST_ROWS),
        rules=rules_asked(report.target),
    )
