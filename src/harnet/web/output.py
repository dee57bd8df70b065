"""The Output view: asking for a PDF or a page image, progress, receipts."""

from dataclasses import dataclass
from typing import Any

from flask import Blueprint, current_app, render_template, request

from harnet.core.preflight.subject import FileState
from harnet.core.resampling import page_px
from harnet.core.severity import Severity
from harnet.core.wording import density_text, grouped
from harnet.media.pageimage import MAX_IMAGE_PX
from harnet.store.models import Output
from harnet.studio.checking import findings_in
from harnet.studio.errors import NotThere, Refused
from harnet.studio.gate import passed_in
from harnet.studio.jobs import job_with, page_count, page_of
from harnet.studio.ledger import Wanted, lines_of_job, placed_for, wanted_lines
from harnet.studio.outputs import (
    USUAL_DENSITIES,
    ask_for_image,
    ask_for_pdf,
    cancel,
    output_with,
    outputs_of,
)
from harnet.studio.pictures import facts_of_picture
from harnet.studio.placed import Placed
from harnet.studio.progress import RUNNING
from harnet.web.marks import mark_of
from harnet.web.preferences import own_name, remember_name
from harnet.web.shared import JobHeader, desk, viewed_job

blueprint = Blueprint("output", __name__, url_prefix="/jobs/<int:job_id>/output")
_MOST_PLANS = 200


@dataclass(frozen=True, slots=True)
class Plan:
    """What will happen to a placed picture."""

    placed: Placed
    mark: str
    now: str
    how: str


@dataclass(frozen=True, slots=True)
class ImageSize:
    """The pixels that a page leaves with at a density."""

    density_ppi: int
    px: str
    is_possible: bool


@blueprint.get("")
def show(job_id: int) -> str:
    """Settings, what happens to each picture, and the outputs so far."""
    with desk().session() as session:
        job = viewed_job(session, job_id)
        number = request.args.get("page", 1, int)
        page = page_of(job, number)
        header = JobHeader.of(job)
        kind = "image" if request.args.get("kind") == "image" else "pdf"
        page_number = number if kind == "image" else 0
        lines = wanted_lines(
            lines_of_job(session, job), Wanted(page=page_number), header.target.density_ppi
        )
        placed = placed_for(session, lines[:_MOST_PLANS], header.target)
        return render_template(
            "output.html",
            header=header,
            job=job,
            kind=kind,
            page_count=page_count(job),
            number=number,
            plans=[_plan(one) for one in placed],
            hidden=len(lines) - len(placed),
            missing=sum(line.file_state == FileState.MISSING.value for line in lines),
            blocking=[
                one for one in findings_in(session, job) if one.severity is Severity.BLOCKING
            ],
            own_name=own_name(),
            passed_in=passed_in,
            sizes=[_size(page.width_pt, page.height_pt, ppi) for ppi in USUAL_DENSITIES],
            outputs=outputs_of(session, job),
            running=RUNNING,
        )


def _plan(placed: Placed) -> Plan:
    figures = placed.figures
    assert placed.item.picture is not None
    facts = facts_of_picture(placed.item.picture)
    if placed.file_state.value == "missing":
        how = "missing: a marked box stands in its place"
    elif facts.is_vector:
        how = "stays vector"
    elif facts.format == "jpeg" and facts.lossy and facts.bits == 8:
        how = "passes through, byte for byte"
    else:
        how = f"lossless, {facts.bits} bit kept"
    now = density_text(figures.density) if figures.density else "line art"
    return Plan(placed, mark_of(figures), now, how)


def _size(width_pt: float, height_pt: float, density_ppi: int) -> ImageSize:
    px_w, px_h = page_px(width_pt, height_pt, density_ppi)
    text = f"{grouped(px_w)} × {grouped(px_h)} px"
    return ImageSize(density_ppi, text, px_w * px_h <= MAX_IMAGE_PX)


@blueprint.post("/pdf")
def make_pdf(job_id: int) -> str:
    """Asks the worker for the PDF; while the gate is held, only with a reason and a name."""
    reason, name = request.form.get("reason", ""), request.form.get("name", "")
    with desk().session() as session:
        job = job_with(session, job_id)
        output_id = ask_for_pdf(session, job, reason, name).id
    if name.strip():
        remember_name(name)
    return _sent(job_id, output_id)


@blueprint.post("/image")
def make_image(job_id: int) -> str:
    """Asks the worker for one page as PNG."""
    text = request.form.get("density") or request.form.get("own_density", "")
    try:
        density = float(text.strip().replace(",", "."))
    except ValueError:
        raise Refused(f"“{text}” is not a density; write a figure such as 300.") from None
    with desk().session() as session:
        job = job_with(session, job_id)
        output_id = ask_for_image(session, job, request.form.get("page", 1, int), density).id
    return _sent(job_id, output_id)


def _sent(job_id: int, output_id: int) -> str:
    """Puts the task on the queue once the order is written, and shows the list."""
    current_app.extensions["queue"].configure_task("make_output", queue="outputs").defer(
        output_id=output_id
    )
    return listing(job_id)


@blueprint.get("/list")
def listing(job_id: int) -> str:
    """The outputs so far; the page asks again while one is being made."""
    with desk().session() as session:
        job = job_with(session, job_id)
        return render_template(
            "_outputs.html",
            job=job,
            outputs=outputs_of(session, job),
            running=RUNNING,
            passed_in=passed_in,
        )


@blueprint.post("/<int:output_id>/cancel")
def stop(job_id: int, output_id: int) -> str:
    """Cancels an output that is not finished."""
    with desk().session() as session:
        cancel(_own_output(session, job_id, output_id))
    return listing(job_id)


@blueprint.get("/<int:output_id>/receipt")
def receipt(job_id: int, output_id: int) -> str:
    """What was promised and what was found."""
    with desk().session() as session:
        job = job_with(session, job_id)
        output = _own_output(session, job_id, output_id)
        if output.receipt is None:
            raise NotThere("This output has no receipt: it was not finished.")
        return render_template(
            "receipt.html",
            header=JobHeader.of(job),
            job=job,
            output=output,
            receipt=output.receipt,
            rows=[_receipt_row(row) for row in output.receipt["rows"]],
            passed=passed_in(output),
        )


def _own_output(session: Any, job_id: int, output_id: int) -> Output:
    output = output_with(session, output_id)
    if output.job_id != job_id:
        raise NotThere("This output belongs to another job.")
    return output


def _receipt_row(row: dict[str, Any]) -> dict[str, Any]:
    return row | {"promised": _pair(row["promised"]), "found": _pair(row["found"])}


def _pair(densities: list[float] | None) -> str:
    if not densities:
        return "—"
    x, y = densities
    return f"{x:.1f}" if abs(x - y) < 0.05 else f"{x:.1f} / {y:.1f}"
