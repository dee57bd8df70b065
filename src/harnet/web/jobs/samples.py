"""Samples to try Harnet with: made by one button, thrown away by another."""

from flask import Blueprint, Response, abort, make_response, redirect, url_for

from harnet.studio.documents.keeping import READ_PDF
from harnet.studio.samples.samples import (
    SAMPLE_SHELF,
    sample_document,
    sample_job,
    sample_pictures,
    throw_samples_away,
)
from harnet.web.common.shared import in_background, send_look, studio

blueprint = Blueprint("samples", __name__, url_prefix="/samples")


@blueprint.post("/<kind>")
def make(kind: str) -> Response:
    """Makes a sample PDF, sample pictures or a sample job, and leads there."""
    with studio().session() as session:
        if kind == "document":
            document_id = sample_document(studio(), session).id
        elif kind == "pictures":
            sample_pictures(studio(), session)
        elif kind == "job":
            job_id = sample_job(studio(), session).id
        else:
            abort(404)
    if kind == "document":
        in_background(READ_PDF, row_id=document_id)
        return make_response(redirect(url_for("documents.show", document_id=document_id)))
    send_look()
    if kind == "pictures":
        return make_response(redirect(url_for("shelf.wall", words=SAMPLE_SHELF.lower()[:-1])))
    return make_response(redirect(url_for("pages.show", job_id=job_id)))


@blueprint.post("/remove")
def remove() -> Response:
    """Throws all samples away; jobs and pictures can be brought back where those lie."""
    with studio().session() as session:
        throw_samples_away(studio(), session)
    return make_response(redirect(url_for("jobs.listing")))
