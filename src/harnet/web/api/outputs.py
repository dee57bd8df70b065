"""Outputs of a job: asked for, made by the worker, fetched."""

from dataclasses import replace

from flask import Response, current_app
from sqlalchemy.orm import Session

from harnet.core.pageimages import ImageFormat, SizeBy
from harnet.core.pdfmode import PictureMode, settings_for
from harnet.store.models import Job
from harnet.store.outputmodels import Output
from harnet.studio.jobs import job_with, target_of
from harnet.studio.outputs import (
    ask_for_images,
    ask_for_pack,
    ask_for_pdf,
    cancel,
    image_settings_of,
    output_with,
    outputs_of,
    pdf_settings_of,
)
from harnet.web.api.door import file_answer, resource
from harnet.web.api.schemas import OutputIn, OutputOut, Outputs
from harnet.web.files import output_file
from harnet.web.shared import desk

blueprint = resource("outputs", "Outputs")


def output_out(output: Output) -> OutputOut:
    """An output in the API's form."""
    return OutputOut(
        id=output.id,
        job=output.job_id,
        kind=output.kind,
        file=output.file_name,
        state=output.state,
        done_steps=output.done_steps,
        all_steps=output.all_steps,
        size_bytes=output.size_bytes,
        trouble=output.trouble,
        is_as_promised=output.receipt["is_kept"] if output.receipt else None,
        asked_at=output.asked_at,
        finished_at=output.finished_at,
    )


@blueprint.get("/jobs/<int:job_id>/outputs")
@blueprint.output(Outputs)
def outputs(job_id: int) -> Outputs:
    """The outputs of a job, the latest first."""
    with desk().session() as session:
        found = outputs_of(session, job_with(session, job_id))
        return Outputs(items=[output_out(one) for one in found])


@blueprint.post("/jobs/<int:job_id>/outputs")
@blueprint.input(OutputIn)
@blueprint.output(OutputOut, status_code=202)
def ask(job_id: int, json_data: OutputIn) -> OutputOut:
    """Asks for an output; the worker makes it and reads it back."""
    with desk().session() as session:
        answer = output_out(_asked(session, job_with(session, job_id), json_data))
    queue = current_app.extensions["queue"]
    queue.configure_task("make_output", queue="outputs").defer(output_id=answer.id)
    return answer


def _asked(session: Session, job: Job, asked: OutputIn) -> Output:
    if asked.kind == "pack":
        return ask_for_pack(session, job, asked.reason, asked.name)
    if asked.kind == "pdf":
        pdf = pdf_settings_of(job)
        if asked.mode:
            pdf = settings_for(PictureMode(asked.mode), target_of(job).density_ppi, pdf)
        pdf = replace(pdf, pages=asked.pages or pdf.pages)
        return ask_for_pdf(session, job, asked.reason, asked.name, pdf)
    images = image_settings_of(job)
    images = replace(
        images,
        format=ImageFormat(asked.format) if asked.format else images.format,
        pages=asked.pages or images.pages,
    )
    if asked.dpi is not None:
        images = replace(images, size_by=SizeBy.DENSITY, density_ppi=asked.dpi)
    return ask_for_images(session, job, images)


@blueprint.get("/outputs/<int:output_id>")
@blueprint.output(OutputOut)
def output(output_id: int) -> OutputOut:
    """One output, and how far it is."""
    with desk().session() as session:
        return output_out(output_with(session, output_id))


@blueprint.get("/outputs/<int:output_id>/file")
@blueprint.doc(responses=file_answer("The file."))
def file(output_id: int) -> Response:
    """The finished file, under its own media type; 404 while it is being made."""
    with desk().session() as session:
        return output_file(output_with(session, output_id))


@blueprint.post("/outputs/<int:output_id>/cancel")
@blueprint.output(OutputOut)
def stop(output_id: int) -> OutputOut:
    """Cancels an output that is not finished."""
    with desk().session() as session:
        found = output_with(session, output_id)
        cancel(found)
        return output_out(found)
