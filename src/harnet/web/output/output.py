"""The Output view: asking for a PDF or a page image, progress, receipts."""

from dataclasses import replace
from typing import Any

from flask import Blueprint, render_template, request

from harnet.core.errors import ValueOutOfRange
from harnet.core.ledger.lines import LineFilter
from harnet.core.output.kind import PAGE_IMAGE, PDF
from harnet.core.output.pdf_settings import checked_settings
from harnet.core.preflight.subject import FileState
from harnet.core.targets.severity import Severity
from harnet.store.database import Session
from harnet.store.tables.jobs import Job
from harnet.store.tables.output import Output
from harnet.studio.common.errors import NotThere, sentence_of
from harnet.studio.jobs.jobs import job_with, page_count, page_of, whole_job
from harnet.studio.ledger.lines import LedgerLines, placed_for
from harnet.studio.output.outputs import (
    ask_again,
    ask_for_images,
    ask_for_pack,
    ask_for_pdf,
    image_settings_of,
    output_with,
    outputs_of,
)
from harnet.studio.output.predicting import predicted_size
from harnet.studio.output.print_houses import ASK_HOUSE, send
from harnet.studio.output.retention import KEEP_DAYS, KEEP_LATEST
from harnet.studio.output.task import MAKE_OUTPUT, pages_to_draw
from harnet.studio.pictures.profiles import all_profiles
from harnet.studio.preflight.checking import findings_in
from harnet.studio.preflight.gate import passed_in
from harnet.studio.preflight.speaking import spoken_in
from harnet.studio.presets.presets import chosen_preset, presets_of
from harnet.studio.tasks.states import RUNNING
from harnet.studio.tasks.work import cancel_work
from harnet.web.common.image_form import image_settings_from, pixel_page_sentence, usual_sizes
from harnet.web.common.preferences import own_name, remember_name
from harnet.web.common.shared import JobHeader, in_background, studio, viewed_job
from harnet.web.common.units import paper_unit
from harnet.web.output.lines import answer_words, line_of, pdf_words
from harnet.web.output.pdf_form import COLOURS, MODES, STANDARDS, pdf_settings_from, plans_of

blueprint = Blueprint("output", __name__, url_prefix="/jobs/<int:job_id>/output")
_MOST_PLANS = 200
_MOST_BLOCKING = 4
KINDS = {"pdf": "PDF", "image": "Page images", "pack": "Handoff pack"}


@blueprint.get("")
def show(job_id: int) -> str:
    """Settings, what happens to each picture, and the outputs so far."""
    with studio().session() as session:
        job = viewed_job(session, job_id)
        number = request.args.get("page", 1, int)
        page = page_of(job, number)
        header = JobHeader.of(job)
        kind = request.args.get("kind", "pdf")
        if kind not in KINDS:
            kind = "pdf"
        settings = pdf_settings_from(job, request.args)
        images = image_settings_of(job)
        presets = presets_of(session, PAGE_IMAGE if kind == "image" else PDF)
        page_number = number if kind == "image" else 0
        lines, wanted = LedgerLines(session, job), LineFilter(page=page_number)
        placed = placed_for(session, lines.shown(wanted, most=_MOST_PLANS), header.target)
        missing = replace(wanted, file_state=FileState.MISSING.value)
        return render_template(
            "output/page.html",
            header=header,
            job=job,
            kind=kind,
            kinds=KINDS,
            settings_text=pdf_words(settings),
            page_count=page_count(job),
            number=number,
            plans=plans_of(placed, settings),
            settings=settings,
            modes=MODES,
            standards=STANDARDS,
            colours=COLOURS,
            profiles=all_profiles(session),
            presets=presets,
            chosen_preset=chosen_preset(presets, images if kind == "image" else settings),
            hidden=lines.count(wanted) - len(placed),
            missing=lines.count(missing),
            blocking=spoken_in(
                job,
                findings_in(session, job, most=_MOST_BLOCKING, severity=Severity.BLOCKING),
                paper_unit(job),
            ),
            own_name=own_name(),
            images=images,
            sizes=usual_sizes(
                *images.size_of(page.width_pt, page.height_pt, job.bleed_pt),
                images,
                job.px_per_inch,
            ),
            why_pixels=pixel_page_sentence(job, page),
            **_list_values(session, job),
        )


def _list_values(session: Session, job: Job) -> dict[str, Any]:
    """What the list of outputs shows."""
    return {
        "lines": [line_of(output) for output in outputs_of(session, job)],
        "running": RUNNING,
        "houses": studio().print_houses,
        "answer_words": answer_words,
        "keep_days": KEEP_DAYS,
        "keep_latest": KEEP_LATEST,
    }


@blueprint.get("/predicted")
def predicted(job_id: int) -> str:
    """How large the PDF will be; the page asks again while pictures are being measured."""
    with studio().session() as session:
        job = whole_job(session, job_id)
        settings = pdf_settings_from(job, request.args)
        try:
            found = predicted_size(
                studio(), session, pages_to_draw(studio(), job), checked_settings(settings)
            )
        except ValueOutOfRange as error:
            return render_template("output/_predicted.html", failure=sentence_of(error))
        return render_template("output/_predicted.html", job=job, found=found, failure="")


@blueprint.post("/pdf")
def make_pdf(job_id: int) -> str:
    """Asks the worker for the PDF; while the gate is held, only with a reason and a name."""
    reason, name = request.form.get("reason", ""), request.form.get("name", "")
    with studio().session() as session:
        job = job_with(session, job_id)
        settings = pdf_settings_from(job, request.form)
        output_id = ask_for_pdf(session, job, reason, name, settings).id
    if name.strip():
        remember_name(name)
    return _sent(job_id, output_id)


@blueprint.post("/pack")
def make_pack(job_id: int) -> str:
    """Asks the worker for a handoff pack; the gate holds it as it holds the PDF inside."""
    reason, name = request.form.get("reason", ""), request.form.get("name", "")
    with studio().session() as session:
        output_id = ask_for_pack(session, job_with(session, job_id), reason, name).id
    if name.strip():
        remember_name(name)
    return _sent(job_id, output_id)


@blueprint.post("/image")
def make_images(job_id: int) -> str:
    """Asks the worker for pages as images."""
    with studio().session() as session:
        job = job_with(session, job_id)
        output_id = ask_for_images(session, job, image_settings_from(request.form)).id
    return _sent(job_id, output_id)


@blueprint.post("/<int:output_id>/again")
def once_more(job_id: int, output_id: int) -> str:
    """Asks for an output again, by the same settings; the gate is asked again as well."""
    reason, name = request.form.get("reason", ""), request.form.get("name", "")
    with studio().session() as session:
        job = job_with(session, job_id)
        again_id = ask_again(session, job, _own_output(session, job_id, output_id), reason, name).id
    return _sent(job_id, again_id)


def _sent(job_id: int, output_id: int) -> str:
    """Puts the task on the queue once the order is written, and shows the list."""
    in_background(MAKE_OUTPUT, row_id=output_id)
    return listing(job_id)


@blueprint.get("/list")
def listing(job_id: int) -> str:
    """The outputs so far; the page asks again while one is being made."""
    with studio().session() as session:
        job = job_with(session, job_id)
        return render_template("output/_list.html", job=job, **_list_values(session, job))


@blueprint.post("/<int:output_id>/send")
def send_to_house(job_id: int, output_id: int) -> str:
    """Sends a finished PDF to a print house; its answer comes into the list."""
    house = request.form.get("house", "")
    with studio().session() as session:
        send(studio(), session, _own_output(session, job_id, output_id), house)
    in_background(ASK_HOUSE, output_id=output_id, key=house)
    return listing(job_id)


@blueprint.post("/<int:output_id>/cancel")
def stop(job_id: int, output_id: int) -> str:
    """Cancels an output that is not finished."""
    with studio().session() as session:
        cancel_work(_own_output(session, job_id, output_id))
    return listing(job_id)


@blueprint.get("/<int:output_id>/receipt")
def receipt(job_id: int, output_id: int) -> str:
    """What was promised and what was found."""
    with studio().session() as session:
        job = job_with(session, job_id)
        output = _own_output(session, job_id, output_id)
        if output.receipt is None:
            raise NotThere("This output has no receipt: it was not finished.")
        return render_template(
            "output/receipt.html",
            header=JobHeader.of(job),
            job=job,
            output=output,
            receipt=output.receipt,
            rows=[_receipt_row(row) for row in output.receipt["rows"]],
            broken=_broken(output.receipt),
            passed=passed_in(output),
        )


def _broken(receipt: dict[str, Any]) -> int:
    """How many promises of a receipt were not kept."""
    parts = ("rows", "pages", "fonts", "whole", "images")
    return sum(not row["is_kept"] for part in parts for row in receipt.get(part, []))


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
