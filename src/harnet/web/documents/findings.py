"""Findings on a document as its report shows them."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from harnet.core.preflight.finding import Accepted, Finding
from harnet.studio.documents.reporting.report import DocumentReport
from harnet.studio.documents.reporting.samples import PageSample, spot_of

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
    look_address: str
    """Where an image that stands on no page is drawn."""


@dataclass(frozen=True, slots=True)
class ShownFindings:
    """The worst findings of a report that are open, and those that were accepted."""

    still_open: Sequence[ShownFinding]
    accepted: Sequence[ShownFinding]


def shown_findings(
    report: DocumentReport,
    page_address: Callable[[int], str],
    image_address: Callable[[int], str],
) -> ShownFindings:
    """The worst findings with their samples.

    `page_address` is where a page is drawn, `image_address` where an image is by itself.
    """
    pictures = {picture.id: picture for picture in report.pictures}

    def shown(finding: Finding, acceptance: Accepted | None) -> ShownFinding:
        picture = pictures.get(finding.item_id)
        page = report.read.pages[picture.page_number - 1] if picture else None
        spot = spot_of(picture, page) if picture and page and page.is_drawn else None
        points = " ".join(f"{x:.2f},{y:.2f}" for x, y in spot.outline) if spot else ""
        address = page_address(spot.page_number) if spot else ""
        return ShownFinding(
            finding=finding,
            acceptance=acceptance,
            spot=spot,
            page_address=address,
            points=points,
            look_address=image_address(picture.id) if picture and spot is None else "",
        )

    return ShownFindings(
        [
            shown(one, report.lapsed.get((one.item_id, one.rule_id)))
            for one in report.findings[:_MOST_SHOWN]
        ],
        [shown(one, acceptance) for one, acceptance in report.accepted[:_MOST_SHOWN]],
    )
