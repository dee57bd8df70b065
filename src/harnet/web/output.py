"""The Output view: asking for a PDF or a page image, progress, receipts."""

from dataclasses import dataclass
from typing import Any

from flask import Blueprint, current_app, render_template, request
from werkzeug.datastructures import MultiDict

from harnet.core.fate import Action, fate_of
from harnet.core.pdfmode import (
    DEFAULT_THRESHOLD,
    LIGHT_PPI,
    LIGHT_QUALITY,
    TRIM_QUALITY,
    PdfSettings,
    PictureMode,
)
from harnet.core.preflight.subject import FileState
from harnet.core.severity import Severity
from harnet.core.wording import density_text, ppi_text
from harnet.media.pdf.streams import how_of
from harnet.media.pdf.write import MISSING
from harnet.store.models import Job
from harnet.store.outputmodels import Output
from harnet.studio.checking import findings_in
from harnet.studio.errors import NotThere, Refused
from harnet.studio.gate import passed_in
from harnet.studio.jobs import job_with, page_count, page_of, target_of
from harnet.studio.ledger import Wanted, lines_of_job, placed_for, wanted_lines
from harnet.studio.outputs import (
    ask_again,
    ask_for_images,
    ask_for_pdf,
    cancel,
    image_settings_of,
    output_with,
    outputs_of,
    pdf_settings_of,
)
from harnet.studio.pictures import facts_of_picture
from harnet.studio.placed import Placed
from harnet.studio.progress import RUNNING
from harnet.web.imageform import image_settings_from, pixel_page_sentence, sizes_of
from harnet.web.marks import mark_of
from harnet.web.pages import one_of
from harnet.web.preferences import own_name, remember_name
from harnet.web.shared import JobHeader, desk, viewed_job

blueprint = Blueprint("output", __name__, url_prefix="/jobs/<int:job_id>/output")
_MOST_PLANS = 200
_FIELDS = ("to_ppi", "threshold", "quality")
_MODES = (
    (
        PictureMode.KEEP,
        "Keep every pixel",
        "nothing is downsampled or recompressed; JPEG data passes through byte for byte",
    ),
    (
        PictureMode.TRIM,
        "Trim the excess",
        "only pictures above the threshold are downsampled; the rest is kept as it is",
    ),
    (
        PictureMode.LIGHT,
        "Light to send",
        f"for a look, not for print: {LIGHT_PPI:g} ppi at most, JPEG of quality {LIGHT_QUALITY}",
    ),
)


@dataclass(frozen=True, slots=True)
class Plan:
    """What will happen to a placed picture: its ppi now and in the PDF, and in words how."""

    placed: Placed
    mark: str
    now: str
    then: str
    how: str


@blueprint.get("")
def show(job_id: int) -> str:
    """Settings, what happens to each picture, and the outputs so far."""
    with desk().session() as session:
        job = viewed_job(session, job_id)
        number = request.args.get("page", 1, int)
        page = page_of(job, number)
        header = JobHeader.of(job)
        kind = "image" if request.args.get("kind") == "image" else "pdf"
        settings = _settings(job, request.args)
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
            plans=_plans(placed, settings),
            settings=settings,
            modes=_MODES,
            hidden=len(lines) - len(placed),
            missing=sum(line.file_state == FileState.MISSING.value for line in lines),
            blocking=[
                one for one in findings_in(session, job) if one.severity is Severity.BLOCKING
            ],
            own_name=own_name(),
            passed_in=passed_in,
            images=image_settings_of(job),
            sizes=sizes_of(job, page, image_settings_of(job)),
            why_pixels=pixel_page_sentence(job, page),
            outputs=outputs_of(session, job),
            running=RUNNING,
        )


def _plans(placed: list[Placed], settings: PdfSettings) -> list[Plan]:
    """What happens to each picture; those whose density changes come first."""
    plans = [_plan(one, settings) for one in placed]
    return sorted(plans, key=lambda plan: plan.then in ("", plan.now))


def _plan(placed: Placed, settings: PdfSettings) -> Plan:
    figures = placed.figures
    assert placed.item.picture is not None
    facts = facts_of_picture(placed.item.picture)
    now = density_text(figures.density) if figures.density else "line art"
    if placed.file_state is FileState.MISSING:
        return Plan(placed, mark_of(figures), now, "", MISSING)
    fate = fate_of(facts, placed.placement, settings)
    how = how_of(fate, facts)
    if fate.action is Action.PASSES:
        how += ", byte for byte"
    elif fate.action is Action.LOSSLESS:
        how += f", {facts.bits} bit kept"
    then = ppi_text(settings.to_ppi) if fate.action is Action.DOWNSAMPLED else now
    return Plan(placed, mark_of(figures), now, then, how)


def _settings(job: Job, values: MultiDict[str, str]) -> PdfSettings:
    """The settings that a form asks for; without, those that the job's PDF was made by last.

    Raises:
        Refused: no such mode, or something that is no figure.
    """
    kept = pdf_settings_of(job)
    if "mode" not in values:
        return kept
    mode = one_of(PictureMode, values["mode"])
    if mode is PictureMode.LIGHT:
        return PdfSettings(mode, LIGHT_PPI, quality=LIGHT_QUALITY)
    target_ppi = target_of(job).density_ppi
    if mode is PictureMode.KEEP:
        return PdfSettings(mode, target_ppi)
    texts = {name: values.get(name, "").strip().replace(",", ".") for name in _FIELDS}
    was_trimmed = kept.mode is PictureMode.TRIM
    try:
        return PdfSettings(
            mode,
            float(texts["to_ppi"] or (kept.to_ppi if was_trimmed else target_ppi)),
            float(texts["threshold"] or (kept.threshold if was_trimmed else DEFAULT_THRESHOLD)),
            None if texts["quality"] == "lossless" else int(texts["quality"] or TRIM_QUALITY),
        )
    except ValueError:
        raise Refused("Density, threshold and quality must be figures.") from None


@blueprint.post("/pdf")
def make_pdf(job_id: int) -> str:
    """Asks the worker for the PDF; while the gate is held, only with a reason and a name."""
    reason, name = request.form.get("reason", ""), request.form.get("name", "")
    with desk().session() as session:
        job = job_with(session, job_id)
        settings = _settings(job, request.form)
        output_id = ask_for_pdf(session, job, reason, name, settings).id
    if name.strip():
        remember_name(name)
    return _sent(job_id, output_id)


@blueprint.post("/image")
def make_images(job_id: int) -> str:
    """Asks the worker for pages as images."""
    with desk().session() as session:
        job = job_with(session, job_id)
        output_id = ask_for_images(session, job, image_settings_from(request.form)).id
    return _sent(job_id, output_id)


@blueprint.post("/<int:output_id>/again")
def once_more(job_id: int, output_id: int) -> str:
    """Asks for an output anew, by the same settings; the gate is asked anew as well."""
    reason, name = request.form.get("reason", ""), request.form.get("name", "")
    with desk().session() as session:
        job = job_with(session, job_id)
        again_id = ask_again(session, job, _own_output(session, job_id, output_id), reason, name).id
    return _sent(job_id, again_id)


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
