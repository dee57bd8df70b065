"""The Preflight view: findings worst first, their fixes, and the way to each placement."""

from dataclasses import dataclass

from flask import Blueprint, render_template, request

from harnet.core.preflight.finding import Finding, Fix
from harnet.core.wording import size_text
from harnet.studio.jobs import job_with
from harnet.studio.placed import Placed, checked_from
from harnet.studio.placing import item_in
from harnet.web.marks import mark_of
from harnet.web.pages import scale_items
from harnet.web.shared import JobHeader, desk

blueprint = Blueprint("preflight", __name__, url_prefix="/jobs/<int:job_id>/preflight")


@dataclass(frozen=True, slots=True)
class FindingRow:
    """A finding in the list."""

    index: int
    finding: Finding
    placed: Placed
    mark: str
    remedy: str
    is_chosen: bool

    def offers(self, name: str) -> bool:
        """Whether the finding offers this fix."""
        return Fix(name) in self.finding.fixes


@blueprint.get("")
def show(job_id: int) -> str:
    """All findings; `finding` chooses the one whose details are shown."""
    with desk().session() as session:
        return _view(JobHeader.of(job_with(session, job_id)), request.args.get("finding", 0, int))


@blueprint.post("/fix/<int:item_id>")
def fix(job_id: int, item_id: int) -> str:
    """Does the fix that a finding offers, then checks again."""
    with desk().session() as session:
        job = job_with(session, job_id)
        item = item_in(job, item_id, request.form.get("version", None, int))
        scale_items(session, job, [item], request.form)
        session.flush()
        return _view(JobHeader.of(job), request.form.get("finding", 0, int))


def _view(header: JobHeader, chosen_index: int) -> str:
    by_item = {placed.item.id: placed for placed in header.placed}
    total = len(header.preflight.findings)
    index = max(0, min(chosen_index, total - 1))
    groups: list[tuple[str, list[FindingRow]]] = []
    rows: list[FindingRow] = []
    for name, findings in header.preflight.groups():
        shown: list[FindingRow] = []
        for finding in findings:
            placed = by_item[finding.item_id]
            shown.append(_row(header, len(rows) + len(shown), finding, placed, index))
        groups.append((name, shown))
        rows += shown
    return render_template(
        "preflight.html",
        header=header,
        job=header.job,
        groups=groups,
        chosen=rows[index] if rows else None,
        total=total,
    )


def _row(
    header: JobHeader, index: int, finding: Finding, placed: Placed, chosen_index: int
) -> FindingRow:
    figures = placed.figures
    remedy = ""
    if Fix.REACH in finding.fixes and figures.crop_reach_w_pt and figures.crop_reach_h_pt:
        unit = checked_from(header.job, placed).unit
        size = size_text(figures.crop_reach_w_pt, figures.crop_reach_h_pt, unit, digits=0)
        remedy = f"{size} at most"
    elif Fix.EVEN in finding.fixes:
        remedy = "even out"
    elif Fix.RELINK in finding.fixes:
        remedy = "relink"
    return FindingRow(index, finding, placed, mark_of(figures), remedy, index == chosen_index)
