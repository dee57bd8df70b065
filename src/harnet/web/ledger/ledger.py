"""The Ledger: every placement of a job, filtered, sorted, tried on other targets; CSV, print."""

import csv
import io
import math

from flask import Blueprint, Response, render_template, request

from harnet.core.measure.table_text import cell_text
from harnet.core.measure.wording import (
    length_text,
)
from harnet.store.database import Session
from harnet.store.tables.jobs import Job
from harnet.studio.jobs.jobs import job_with, target_of
from harnet.studio.layout.placed import Placed
from harnet.studio.ledger.long_batch import long_batch_with
from harnet.studio.pictures.picture import facts_of_picture
from harnet.web.common.shared import JobHeader, studio, viewed_job
from harnet.web.common.units import shown_unit
from harnet.web.common.values import row_number
from harnet.web.ledger.query import asked_of, brushed, dragged
from harnet.web.ledger.view import Bars, LedgerPage, ledger_view, shown_of

blueprint = Blueprint("ledger", __name__, url_prefix="/jobs/<int:job_id>/ledger")
_COLUMNS = ["page", "picture", "px_w", "px_h", "width_{unit}", "height_{unit}"]
_COLUMNS += ["ppi_x", "ppi_y", "ppi_min", "target_ppi", "verdict", "headroom", "evenness", "file"]
_COLUMNS += ["colour", "format"]


@blueprint.get("")
def show(job_id: int) -> str:
    """The ledger; more rows of it, or only what changes while the flag is dragged."""
    with studio().session() as session:
        target = request.headers.get("HX-Target", "")
        # While the flag is dragged or rows are scrolled, files are not looked at again.
        job = (job_with if target else viewed_job)(session, job_id)
        query = asked_of(session, request.args, target_of(job))
        x = request.args.get("x", None, float)
        if x is not None and math.isfinite(x):
            query = dragged(session, job, query, x)
        query = brushed(session, job, query)
        start = max(0, request.args.get("start", 0, int))
        if start:
            shown = shown_of(session, job, query, start)
            return render_template(
                "ledger/_rows.html",
                job=job,
                shown=shown,
                chosen=set(),
                bars=Bars.of(shown.target),
            )
        selected = query.parts["select"]
        one = row_number(selected)
        chosen = {one} if one is not None else set()
        done = request.args.get("done", 0, int)
        message = long_batch_with(session, job_id, done).said if done else ""
        return ledger_view(session, job, query, chosen, target == "ledger", message)


@blueprint.get("/ledger.csv")
def as_csv(job_id: int) -> Response:
    """The placements that are shown as CSV; lengths in the job's unit, densities in ppi."""
    with studio().session() as session:
        job = viewed_job(session, job_id)
        shown = _whole(session, job)
        text = io.StringIO()
        writer = csv.writer(text)
        unit, _ = shown_unit(job)
        writer.writerow([name.format(unit=unit.value) for name in _COLUMNS])
        writer.writerows(_csv_row(job, row.placed) for row in shown.rows)
    name = f"ledger-{job_id}.csv"
    return Response(
        text.getvalue(),
        mimetype="text/csv",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )


@blueprint.get("/print")
def printed(job_id: int) -> str:
    """The placements that are shown, on paper."""
    with studio().session() as session:
        job = viewed_job(session, job_id)
        shown = _whole(session, job)
        return render_template(
            "ledger/print.html", header=JobHeader.of(job), job=job, shown=shown, query=shown.query
        )


def _whole(session: Session, job: Job) -> LedgerPage:
    return shown_of(session, job, asked_of(session, request.args, target_of(job)), most=None)


def _csv_row(job: Job, placed: Placed) -> list[object]:
    assert placed.item.picture is not None
    unit, per_inch = shown_unit(job)
    facts, figures = facts_of_picture(placed.item.picture), placed.figures
    frame, density = placed.placement.frame, figures.density
    densities = (density.x, density.y, density.worst) if density else ("", "", "")
    return [
        placed.page_number,
        cell_text(placed.name),
        facts.px_w,
        facts.px_h,
        *(length_text(side, unit, per_inch, 3) for side in (frame.width, frame.height)),
        *(round(one, 3) if isinstance(one, float) else one for one in densities),
        round(figures.target.density_ppi, 3),
        figures.verdict.value,
        "" if figures.headroom is None else round(figures.headroom, 4),
        round(figures.evenness, 4),
        placed.file_state.value,
        facts.colour.value,
        facts.format,
    ]
