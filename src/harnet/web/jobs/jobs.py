"""The list of jobs, a job's target, undo and redo, and the unit that a person reads in."""

import json

from flask import Blueprint, Response, make_response, redirect, render_template, request, url_for

from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import (
    job_with,
    set_target,
    whole_job,
)
from harnet.studio.jobs.listing import (
    JobStatus,
    counts_by_status,
    duplicate_job,
    first_pictures,
    jobs_that_are,
    put,
)
from harnet.studio.ledger.stepping import take_step
from harnet.studio.samples.samples import has_samples
from harnet.web.common.shared import JobHeader, handed_to_worker, studio
from harnet.web.common.units import remember_unit
from harnet.web.common.values import (
    custom_density,
    row_number,
)

blueprint = Blueprint("jobs", __name__)
_PER_PAGE = 40


@blueprint.get("/")
def home() -> Response:
    """Jobs are where work begins."""
    return make_response(redirect(url_for("jobs.listing")))


@blueprint.get("/jobs")
def listing() -> str:
    """Every job with its verdicts: those that are open, or put away, or deleted."""
    wanted = request.args.get("status", "")
    status = next((one for one in JobStatus if one.value == wanted), JobStatus.OPEN)
    with studio().session() as session:
        counts = counts_by_status(session)
        last = max(1, -(-counts[status] // _PER_PAGE))
        page = min(row_number(request.args.get("page", "")) or 1, last)
        jobs = jobs_that_are(session, status, _PER_PAGE, _PER_PAGE * (page - 1))
        return render_template(
            "jobs/list.html",
            has_samples=has_samples(session),
            headers=JobHeader.of_each(session, jobs),
            thumbs=first_pictures(session, jobs),
            status=status.value,
            counts={one.value: count for one, count in counts.items()},
            page=page,
            last=last,
        )


@blueprint.post("/jobs/<int:job_id>/put/<status>")
def put_job(job_id: int, status: str) -> Response:
    """Opens, puts away or deletes a job."""
    wanted = next((one for one in JobStatus if one.value == status), None)
    if wanted is None:
        raise Refused(f"A job is open, archived or deleted, not “{status}”.")
    with studio().session() as session:
        put(job_with(session, job_id), wanted)
    return make_response(redirect(url_for("jobs.listing")))


@blueprint.post("/jobs/<int:job_id>/duplicate")
def duplicate(job_id: int) -> Response:
    """Makes a copy of a job and shows it."""
    with studio().session() as session:
        copy_id = duplicate_job(session, whole_job(session, job_id)).id
    return make_response(redirect(url_for("pages.show", job_id=copy_id)))


@blueprint.post("/unit")
def unit() -> Response:
    """Remembers the unit that this person reads and types lengths in."""
    response = Response("", 204, headers={"HX-Refresh": "true"})
    return remember_unit(response, request.form.get("unit", ""))


@blueprint.post("/jobs/<int:job_id>/target")
def target(job_id: int) -> Response:
    """Gives the job another target and shows the view it was asked from."""
    with studio().session() as session:
        job = job_with(session, job_id)
        set_target(session, job, request.form.get("target", ""), custom_density(request.form))
    return _back(job_id)


@blueprint.post("/jobs/<int:job_id>/undo")
def undo_last(job_id: int) -> Response:
    """Undoes the latest edit and shows the view it was asked from."""
    with studio().session() as session:
        job = job_with(session, job_id)
        known = row_number(request.form.get("edit", ""))
        stepped = take_step(session, job, known, is_redo=False)
        if stepped.long_batch is not None:
            session.commit()
            return handed_to_worker(job_id, stepped.long_batch.id)
    return _back(job_id)


def _back(job_id: int) -> Response:
    """Reloads the view that asked, which knows its selection."""
    path = request.form.get("back", "")
    pages = url_for("pages.show", job_id=job_id)
    place = path if path.startswith(f"{pages.rpartition('/')[0]}/") else pages
    if "HX-Request" not in request.headers:
        return make_response(redirect(place))
    if path.partition("?")[0] == pages:
        # The Pages view is drawn where it stands, and only what differs.
        place = json.dumps({"path": place, "target": "#desk"})
    return Response("", headers={"HX-Location": place})
