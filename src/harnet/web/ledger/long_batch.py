"""A batch, an undo or a redo over many placements: how far the worker is, and how to stop it."""

from flask import Blueprint, Response, make_response, redirect, render_template, request, url_for

from harnet.studio.jobs.jobs import job_with
from harnet.studio.ledger.long_batch import long_batch_with
from harnet.studio.tasks.states import DONE, RUNNING
from harnet.studio.tasks.work import cancel_work
from harnet.web.common.shared import studio

blueprint = Blueprint("longbatch", __name__, url_prefix="/jobs/<int:job_id>/batches")


@blueprint.get("/<int:batch_id>")
def show(job_id: int, batch_id: int) -> str | Response:
    """How far it is; once it is done, the ledger with what was done."""
    is_asked_again = "HX-Request" in request.headers
    with studio().session() as session:
        batch = long_batch_with(session, job_id, batch_id)
        if batch.state == DONE:
            where = url_for("ledger.show", job_id=job_id, done=batch_id)
            if is_asked_again:
                return Response("", headers={"HX-Redirect": where})
            return make_response(redirect(where))
        return render_template(
            "ledger/_long_batch.html" if is_asked_again else "ledger/long_batch.html",
            job=job_with(session, job_id),
            batch=batch,
            running=RUNNING,
        )


@blueprint.post("/<int:batch_id>/cancel")
def cancel(job_id: int, batch_id: int) -> Response:
    """Stops it; nothing of it is kept."""
    with studio().session() as session:
        cancel_work(long_batch_with(session, job_id, batch_id))
    where = url_for("longbatch.show", job_id=job_id, batch_id=batch_id)
    return Response("", headers={"HX-Redirect": where})
