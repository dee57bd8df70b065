"""Outputs of a job: asked for, made by the worker, fetched."""

from dataclasses import replace
from typing import Any

from flask import Response

from harnet.core.errors import ValueOutOfRange
from harnet.core.output.kind import PACK, PAGE_IMAGE
from harnet.core.output.pdf_settings import (
    TRIM_QUALITY,
    PdfSettings,
    PictureMode,
    checked_settings,
    settings_as_values,
    settings_for,
    settings_from_values,
)
from harnet.store.database import Session
from harnet.store.tables.jobs import Job
from harnet.store.tables.output import Output
from harnet.studio.common.errors import NotThere, Refused, sentence_of
from harnet.studio.jobs.jobs import job_with, target_of, whole_job
from harnet.studio.output.outputs import (
    ask_for_images,
    ask_for_pack,
    ask_for_pdf,
    image_settings_of,
    output_with,
    outputs_of,
    pdf_settings_of,
)
from harnet.studio.output.predicting import predicted_size
from harnet.studio.output.task import MAKE_OUTPUT, pages_to_draw
from harnet.studio.presets.presets import use_for_job
from harnet.studio.tasks.work import cancel_work
from harnet.web.api.door import file_answer, resource
from harnet.web.api.forms.outputs import (
    OutputIn,
    OutputOut,
    Outputs,
    PdfSettingsIn,
    PredictionOut,
    ReceiptOut,
)
from harnet.web.api.values.images import image_settings_meant
from harnet.web.common.files import output_file
from harnet.web.common.shared import in_background, studio

blueprint = resource("outputs", "Outputs")


def output_out(output: Output) -> OutputOut:
    """An output in the API's form."""
    return OutputOut(
        id=output.id,
        job=output.job_id,
        kind=output.kind,
        file=output.file_name,
        state=output.state,
        steps_done=output.steps_done,
        steps_total=output.steps_total,
        size_bytes=output.size_bytes,
        failure=output.failure,
        is_as_promised=output.receipt["is_kept"] if output.receipt else None,
        requested_at=output.requested_at,
        finished_at=output.finished_at,
    )


@blueprint.get("/jobs/<int:job_id>/outputs")
@blueprint.output(Outputs)
def outputs(job_id: int) -> Outputs:
    """The outputs of a job, the latest first."""
    with studio().session() as session:
        found = outputs_of(session, job_with(session, job_id))
        return Outputs(items=[output_out(one) for one in found])


@blueprint.post("/jobs/<int:job_id>/outputs")
@blueprint.input(OutputIn)
@blueprint.output(OutputOut, status_code=202)
def ask(job_id: int, json_data: OutputIn) -> OutputOut:
    """Asks for an output; the worker makes it and reads it back."""
    with studio().session() as session:
        answer = output_out(_asked(session, job_with(session, job_id), json_data))
    in_background(MAKE_OUTPUT, row_id=answer.id)
    return answer


def _asked(session: Session, job: Job, body: OutputIn) -> Output:
    if body.kind == PAGE_IMAGE:
        return ask_for_images(
            session, job, image_settings_meant(image_settings_of(job), body.images)
        )
    settings = _pdf_settings(job, body.pdf)
    if body.kind == PACK:
        use_for_job(job, settings)
        return ask_for_pack(session, job, body.reason, body.name)
    return ask_for_pdf(session, job, body.reason, body.name, settings)


def _pdf_settings(job: Job, body: PdfSettingsIn | None) -> PdfSettings:
    """The job's settings with what was asked for in their place."""
    kept = pdf_settings_of(job)
    given = body.model_dump(exclude_none=True) if body else {}
    if "mode" in given:
        kept = settings_for(PictureMode(given["mode"]), target_of(job).density_ppi, kept)
    is_lossless = given.pop("lossless", None)
    settings = settings_from_values(settings_as_values(kept) | given)
    if is_lossless:
        return replace(settings, quality=None)
    if is_lossless is False and settings.quality is None:
        return replace(settings, quality=TRIM_QUALITY)
    return settings


@blueprint.post("/jobs/<int:job_id>/prediction")
@blueprint.input(PdfSettingsIn)
@blueprint.output(PredictionOut)
def prediction(job_id: int, json_data: PdfSettingsIn) -> PredictionOut:
    """Predicts how large a PDF by these settings will be; nothing is made or remembered of it."""
    with studio().session() as session:
        job = whole_job(session, job_id)
        try:
            settings = checked_settings(_pdf_settings(job, json_data))
            found = predicted_size(studio(), session, pages_to_draw(studio(), job), settings)
        except ValueOutOfRange as error:
            raise Refused(sentence_of(error)) from None
        return PredictionOut(
            size_bytes=found.size_bytes,
            measured=found.measured,
            waiting=found.waiting,
            unreadable=list(found.unreadable),
        )


@blueprint.get("/outputs/<int:output_id>/receipt")
@blueprint.output(ReceiptOut)
def receipt(output_id: int) -> dict[str, Any]:
    """What was promised and what was read back; 404 until the output is made."""
    with studio().session() as session:
        found = output_with(session, output_id).receipt
        if found is None:
            raise NotThere("This output has no receipt: it is not made yet, or it failed.")
        return found


@blueprint.get("/outputs/<int:output_id>")
@blueprint.output(OutputOut)
def output(output_id: int) -> OutputOut:
    """One output, and how far it is."""
    with studio().session() as session:
        return output_out(output_with(session, output_id))


@blueprint.get("/outputs/<int:output_id>/file")
@blueprint.doc(responses=file_answer("The file."))
def file(output_id: int) -> Response:
    """The finished file, under its own media type; 404 while it is being made."""
    with studio().session() as session:
        return output_file(output_with(session, output_id))


@blueprint.post("/outputs/<int:output_id>/cancel")
@blueprint.output(OutputOut)
def stop(output_id: int) -> OutputOut:
    """Cancels an output that is not finished."""
    with studio().session() as session:
        found = output_with(session, output_id)
        cancel_work(found)
        return output_out(found)
