"""Presets of output settings: kept, used for a job, deleted, exported and read in."""

from flask import Blueprint, Response, render_template, request, url_for

from harnet.core.output.kind import PAGE_IMAGE, PDF
from harnet.core.output.page_images import ImageSettings
from harnet.core.output.pdf_settings import PdfSettings
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import job_with
from harnet.studio.presets.presets import (
    keep_preset,
    preset_with,
    presets_as_file,
    presets_of,
    read_presets,
    settings_in,
    use_for_job,
)
from harnet.web.common.image_form import image_settings_from
from harnet.web.common.preferences import own_name
from harnet.web.common.shared import studio
from harnet.web.output.pdf_form import pdf_settings_from

blueprint = Blueprint("presets", __name__, url_prefix="/jobs/<int:job_id>/output/presets")
_MOST_BYTES = 1_000_000


@blueprint.post("/keep")
def keep(job_id: int) -> Response:
    """Keeps what stands in the form under a name; it is the job's from now on."""
    kind = request.form.get("kind", "pdf")
    with studio().session() as session:
        job = job_with(session, job_id)
        settings: PdfSettings | ImageSettings = (
            image_settings_from(request.form)
            if kind == "image"
            else pdf_settings_from(job, request.form)
        )
        name = request.form.get("preset_name", "")
        keep_preset(session, name, settings, own_name())
        use_for_job(job, settings)
    return _back(job_id, kind)


@blueprint.post("/use")
def use(job_id: int) -> Response:
    """Takes a preset's settings for the job, which remembers them as its default."""
    chosen = request.form.get("preset", 0, int)
    with studio().session() as session:
        job = job_with(session, job_id)
        preset = preset_with(session, chosen)
        use_for_job(job, settings_in(preset))
        kind = "pdf" if preset.kind == PDF else "image"
    return _back(job_id, kind)


@blueprint.post("/<int:preset_id>/delete")
def delete(job_id: int, preset_id: int) -> Response:
    """Deletes a preset; jobs keep the settings they have from it."""
    with studio().session() as session:
        preset = preset_with(session, preset_id)
        kind = "pdf" if preset.kind == PDF else "image"
        session.delete(preset)
    return _back(job_id, kind)


@blueprint.get("/export")
def export(job_id: int) -> Response:
    """All presets as a JSON file."""
    with studio().session() as session:
        kept = presets_of(session, PDF) + presets_of(session, PAGE_IMAGE)
        text = presets_as_file(kept)
    response = Response(text, mimetype="application/json")
    response.headers.set("Content-Disposition", "attachment", filename="harnet presets.json")
    return response


@blueprint.post("/read")
def read(job_id: int) -> str:
    """Imports a file of presets."""
    file = request.files.get("presets_file")
    if file is None:
        raise Refused("Choose a file of presets.")
    try:
        text = file.stream.read(_MOST_BYTES + 1).decode("utf-8")
    except UnicodeDecodeError:
        raise Refused("Nothing was imported: this is not a JSON file in UTF-8.") from None
    with studio().session() as session:
        job_with(session, job_id)
        names = read_presets(session, text, own_name())
        kind = "image" if request.form.get("kind") == "image" else "pdf"
        return render_template(
            "output/_presets.html",
            job_id=job_id,
            kind=kind,
            presets=presets_of(session, PDF if kind == "pdf" else PAGE_IMAGE),
            chosen_preset=0,
            message=f"Imported: {', '.join(names)}.",
        )


def _back(job_id: int, kind: str) -> Response:
    # None leaves the kind out of the address: a PDF is what the view opens with.
    where = url_for("output.show", job_id=job_id, kind="image" if kind == "image" else None)
    return Response("", headers={"HX-Redirect": where})
