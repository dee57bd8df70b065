"""Findings on a document as its report shows them."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from harnet.core.preflight.finding import Accepted, Finding
from harnet.studio.documents.report import PdfReport
from harnet.studio.documents.samples import PageSample, spot_of

_MOST_SHOWN = 300


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownFinding:
    """A finding beside the sample of the page where it is; a whole PDF has none."""

    finding: Finding
    acceptance: Accepted | None
    """What was accepted: of one that may pass, or of one that got worse since."""
    spot: PageSample | None
    page_address: str
    points: str


@dataclass(frozen=True, slots=True)
class ShownFindings:
    """The worst findings of a report that are open, and those that were accepted."""

    still_open: Sequence[ShownFinding]
    accepted: Sequence[ShownFinding]


def shown_findings(report: PdfReport, page_address: Callable[[int], str]) -> ShownFindings:
    """The worst findings with their samples; `page_address` is where a page is drawn."""
    pictures = {picture.id: picture for picture in report.pictures}

    def shown(finding: Finding, acceptance: Accepted | None) -> ShownFinding:
        picture = pictures.get(finding.item_id)
        spot = spot_of(picture, report.read.pages[picture.page_number - 1]) if picture else None
        points = " ".join(f"{x:.2f},{y:.2f}" for x, y in spot.outline) if spot else ""
        address = page_address(spot.page_number) if spot else ""
        return ShownFinding(
            finding=finding, acceptance=acceptance, spot=spot, page_address=address, points=points
        )

    return ShownFindings(
        [
            shown(one, report.lapsed.get((one.item_id, one.rule_id)))
            for one in report.findings[:_MOST_SHOWN]
        ],
        [shown(one, acceptance) for one, acceptance in report.accepted[:_MOST_SHOWN]],
    )
