"""The list of jobs, a job's target, undo and redo, and the unit that a person reads in."""

import json
from collections.abc import Callable
from urllib.parse import parse_qsl, urlencode, urlsplit, urlunsplit

from flask import Blueprint, Response, make_response, redirect, render_template, request, url_for

from harnet.store.database import Session
from harnet.store.history import redo, undo
from harnet.store.tables.jobs import Edit, Job
from harnet.store.tables.long_batch import LongBatch
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import (
    job_with,
    page_count,
    set_target,
    whole_job,
)
from harnet.studio.jobs.listing import (
    JobStatus,
    duplicate_job,
    first_pictures,
    jobs_that_are,
    put,
)
from harnet.studio.jobs.steps import page_changed_by, step_known
from harnet.studio.ledger.long_batch import long_redo, long_undo
from harnet.studio.samples.samples import has_samples
from harnet.web.common.shared import JobHeader, handed_to_worker, studio
from harnet.web.common.units import remember_unit
from harnet.web.common.values import (
    custom_density,
    row_number,
)

blueprint = Blueprint("jobs", __name__)


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
        jobs = {one: jobs_that_are(session, one) for one in JobStatus}
        headers = [JobHeader.of(job) for job in jobs[status]]
        return render_template(
            "jobs/list.html",
            has_samples=has_samples(session),
            headers=headers,
            thumbs={job.id: first_pictures(session, job) for job in jobs[status]},
            status=status.value,
            counts={one.value: len(found) for one, found in jobs.items()},
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
    """Undoes the latest edit."""
    return _step(job_id, long_undo, undo)


@blueprint.post("/jobs/<int:job_id>/redo")
def redo_next(job_id: int) -> Response:
    """Makes the edit undone last again."""
    return _step(job_id, long_redo, redo)


def _step(
    job_id: int,
    long_step: Callable[[Session, Job], LongBatch | None],
    step: Callable[[Session, Job], Edit | None],
) -> Response:
    """One step through the history, by the worker where it changes very many placements.

    The page shown afterwards is the one where it happened.
    """
    with studio().session() as session:
        job = job_with(session, job_id)
        known = row_number(request.form.get("edit", ""))
        edit = step_known(session, job, known, is_redo=step is redo)
        long = long_step(session, job)
        if long is not None:
            session.commit()
            return handed_to_worker(job_id, long.id)
        before = page_changed_by(session, job, edit)
        step(session, job)
        changed = page_changed_by(session, job, edit) or before
        return _back(job_id, min(changed or 1, page_count(job)) if changed else None)


def _back(job_id: int, number: int | None = None) -> Response:
    """Reloads the view that asked, which knows its selection; the Pages view at page `number`."""
    path = request.form.get("back", "")
    pages = url_for("pages.show", job_id=job_id)
    place = path if path.startswith(f"{pages.rpartition('/')[0]}/") else pages
    if number is not None and place.partition("?")[0] == pages:
        place = _at_page(place, number)
    if "HX-Request" not in request.headers:
        return make_response(redirect(place))
    if path.partition("?")[0] == pages:
        # The Pages view is drawn where it stands, and only what differs.
        place = json.dumps({"path": place, "target": "#desk"})
    return Response("", headers={"HX-Location": place})


def _at_page(place: str, number: int) -> str:
    """The address of the Pages view at another page, unless that is in view already."""
    address = urlsplit(place)
    query = dict(parse_qsl(address.query))
    if query.get("page", "1") != str(number):
        query = {"page": str(number)}
    return urlunsplit(address._replace(query=urlencode(query)))
