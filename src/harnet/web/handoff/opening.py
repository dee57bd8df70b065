"""Opening handoff packs: uploaded on the list of jobs, opened by the worker, watched here."""

from flask import Blueprint, Response, make_response, redirect, render_template, request, url_for

from harnet.studio.common.errors import Refused
from harnet.studio.handoff.opening import OPEN_PACK, keep_pack, opening_with
from harnet.studio.tasks.states import RUNNING
from harnet.studio.tasks.work import cancel_work
from harnet.web.common.shared import in_background, studio

blueprint = Blueprint("opening", __name__, url_prefix="/packs")


@blueprint.post("")
def upload() -> Response:
    """Takes a pack and has the worker open it."""
    file = request.files.get("pack")
    if file is None or not file.filename:
        raise Refused("Choose a handoff pack, a ZIP that Harnet made.")
    with studio().session() as session:
        opening_id = keep_pack(studio(), session, file.filename, file.stream).id
    in_background(OPEN_PACK, row_id=opening_id)
    return make_response(redirect(url_for("opening.show", opening_id=opening_id)))


@blueprint.get("/<int:opening_id>")
def show(opening_id: int) -> str | Response:
    """How far the opening is; when it is done, the job."""
    is_asked_again = "HX-Request" in request.headers
    with studio().session() as session:
        opening = opening_with(session, opening_id)
        if opening.job_id is not None:
            where = url_for("pages.show", job_id=opening.job_id)
            if is_asked_again:
                return Response("", headers={"HX-Redirect": where})
            return make_response(redirect(where))
        template = "handoff/_opening.html" if is_asked_again else "handoff/opening.html"
        return render_template(template, opening=opening, running=RUNNING)


@blueprint.post("/<int:opening_id>/cancel")
def cancel(opening_id: int) -> Response:
    """Stops an opening; pictures that came onto the shelf by then stay there."""
    with studio().session() as session:
        cancel_work(opening_with(session, opening_id))
    return Response("", headers={"HX-Redirect": url_for("jobs.listing")})
