"""The Ledger: every placement of a job, worst first, with batch scaling and CSV."""

import csv
import io
import math
from dataclasses import dataclass

from flask import Blueprint, Response, render_template, request
from sqlalchemy.orm import Session

from harnet.core.wording import (
    density_text,
    length_text,
    ppi_text,
    px_text,
    share_text,
    size_text,
)
from harnet.store.models import Job
from harnet.studio.errors import Refused
from harnet.studio.jobs import job_with
from harnet.studio.pictures import facts_of_picture
from harnet.studio.placed import Placed, by_shortfall, has_own_target, unit_of
from harnet.studio.placing import item_in
from harnet.web.marks import mark_of
from harnet.web.pages import scale_items
from harnet.web.shared import JobHeader, desk

blueprint = Blueprint("ledger", __name__, url_prefix="/jobs/<int:job_id>/ledger")
_BAR_PX, _BAR_LOW, _BAR_HIGH = 250.0, 0.12, 4.7
"""The bar runs from 12 % to 470 % of the target on a log scale."""
_COLUMNS = ["page", "picture", "px_w", "px_h", "width_{unit}", "height_{unit}"]
_COLUMNS += ["ppi_x", "ppi_y", "ppi_min", "verdict", "headroom", "evenness", "file"]


@dataclass(frozen=True, slots=True)
class Row:
    """A placement as the ledger shows it."""

    placed: Placed
    pixels: str
    size: str
    ppi: str
    bar_px: float
    headroom: str
    evenness: str
    file: str

    @property
    def mark(self) -> str:
        """The name of its grain mark."""
        return mark_of(self.placed.figures)


def bar_px(density_share: float) -> float:
    """Length of the bar for a density over its target."""

    share = math.log(max(density_share, _BAR_LOW) / _BAR_LOW) / math.log(_BAR_HIGH / _BAR_LOW)
    return min(1.0, share) * _BAR_PX


def row_of(job: Job, placed: Placed) -> Row:
    """One line of the ledger."""
    assert placed.item.picture is not None
    unit, per_inch = unit_of(job)
    facts, figures = facts_of_picture(placed.item.picture), placed.figures
    frame, density = placed.placement.frame, figures.density
    return Row(
        placed,
        px_text(facts.px_w, facts.px_h),
        size_text(frame.width, frame.height, unit, per_inch, 0 if unit.value != "in" else 1),
        density_text(density) if density else "",
        bar_px(1 + figures.headroom) if figures.headroom is not None else 0.0,
        "any" if figures.headroom is None else share_text(figures.headroom, signed=True),
        f"{share_text(figures.evenness)} uneven" if figures.is_uneven else "even",
        " · ".join(_file_parts(placed, facts.colour.value)),
    )


@blueprint.get("")
def show(job_id: int) -> str:
    """The ledger, of one verdict if asked."""
    with desk().session() as session:
        return _view(session, job_with(session, job_id), request.args.get("verdict", ""))


@blueprint.post("/scale")
def scale(job_id: int) -> str:
    """Scales the chosen placements, as one edit."""
    with desk().session() as session:
        job = job_with(session, job_id)
        chosen = [item_in(job, item_id) for item_id in request.form.getlist("item", int)]
        if not chosen:
            raise Refused("Choose at least one picture in the ledger first.")
        scale_items(session, job, chosen, request.form)
        ids = {item.id for item in chosen}
        return _view(session, job, request.form.get("verdict", ""), ids)


def _view(session: Session, job: Job, verdict: str, chosen: set[int] | None = None) -> str:
    header = JobHeader.of(job)
    shown = [
        placed
        for placed in by_shortfall(header.placed)
        if not verdict or placed.figures.verdict.value == verdict
    ]
    target_ppi = header.target.density_ppi
    return render_template(
        "ledger.html",
        header=header,
        job=job,
        rows=[row_of(job, placed) for placed in shown],
        verdict=verdict,
        counts=header.counts,
        chosen=chosen or set(),
        target_px=bar_px(1.0),
        near_px=bar_px(1 - header.target.tolerance),
        target_ppi=target_ppi,
    )


@blueprint.get("/ledger.csv")
def as_csv(job_id: int) -> Response:
    """Every placement as CSV; lengths in the job's unit, densities in ppi."""
    with desk().session() as session:
        job = job_with(session, job_id)
        header = JobHeader.of(job)
        text = io.StringIO()
        writer = csv.writer(text)
        unit, _ = unit_of(job)
        writer.writerow([name.format(unit=unit.value) for name in _COLUMNS])
        writer.writerows(_csv_row(job, placed) for placed in by_shortfall(header.placed))
    name = f"ledger-{job_id}.csv"
    return Response(
        text.getvalue(),
        mimetype="text/csv",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )


def _file_parts(placed: Placed, colour: str) -> list[str]:
    parts = [placed.file_state.value, colour]
    if has_own_target(placed.item):
        parts.append(f"target {ppi_text(placed.figures.target.density_ppi)}")
    return parts


def _csv_row(job: Job, placed: Placed) -> list[object]:
    assert placed.item.picture is not None
    unit, per_inch = unit_of(job)
    facts, figures = facts_of_picture(placed.item.picture), placed.figures
    frame, density = placed.placement.frame, figures.density
    densities = (density.x, density.y, density.worst) if density else ("", "", "")
    return [
        placed.page_number,
        _plain(placed.name),
        facts.px_w,
        facts.px_h,
        *(length_text(side, unit, per_inch, 3) for side in (frame.width, frame.height)),
        *(round(one, 3) if isinstance(one, float) else one for one in densities),
        figures.verdict.value,
        "" if figures.headroom is None else round(figures.headroom, 4),
        round(figures.evenness, 4),
        placed.file_state.value,
    ]


def _plain(name: str) -> str:
    """A name that no spreadsheet takes for a formula."""
    return f"'{name}" if name[:1] in "=+-@" else name
