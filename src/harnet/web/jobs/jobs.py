"""The list of jobs, the form for a new one, its target, undo and redo."""

from collections.abc import Callable

from flask import Blueprint, Response, redirect, render_template, request, url_for
from sqlalchemy.orm import Session

from harnet.store.history import redo, undo
from harnet.store.tables.jobs import Edit, Job
from harnet.store.tables.long_batch import LongBatch
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import FORMATS, JobOrder, job_with, make_job, set_target, whole_job
from harnet.studio.jobs.listing import (
    Standing,
    duplicate_job,
    first_pictures,
    jobs_that_are,
    put,
)
from harnet.studio.ledger.long_batch import long_redo, long_undo
from harnet.web.common.shared import JobHeader, desk, sent_to_worker

blueprint = Blueprint("jobs", __name__)


@blueprint.get("/")
def home() -> Response:
    """Jobs are where work begins."""
    return redirect(url_for("jobs.listing"))  # type: ignore[return-value]


@blueprint.get("/jobs")
def listing() -> str:
    """Every job with its verdicts: those that are open, or put away, or deleted."""
    asked = request.args.get("standing", "")
    standing = next((one for one in Standing if one.value == asked), Standing.OPEN)
    with desk().session() as session:
        jobs = {one: jobs_that_are(session, one) for one in Standing}
        headers = [JobHeader.of(job) for job in jobs[standing]]
        return render_template(
            "jobs/list.html",
            headers=headers,
            thumbs={job.id: first_pictures(session, job) for job in jobs[standing]},
            standing=standing.value,
            counts={one.value: len(found) for one, found in jobs.items()},
        )


@blueprint.post("/jobs/<int:job_id>/put/<standing>")
def put_job(job_id: int, standing: str) -> Response:
    """Opens, puts away or deletes a job."""
    wanted = next((one for one in Standing if one.value == standing), None)
    if wanted is None:
        raise Refused(f"A job is open, archived or deleted, not “{standing}”.")
    with desk().session() as session:
        put(job_with(session, job_id), wanted)
    return redirect(url_for("jobs.listing"))  # type: ignore[return-value]


@blueprint.post("/jobs/<int:job_id>/duplicate")
def duplicate(job_id: int) -> Response:
    """Makes a copy of a job and shows it."""
    with desk().session() as session:
        copy_id = duplicate_job(session, whole_job(session, job_id)).id
    return redirect(url_for("pages.show", job_id=copy_id))  # type: ignore[return-value]


@blueprint.get("/jobs/new")
def new() -> str:
    """The form for a new job."""
    order = JobOrder("", "148", "210", "mm", px_per_inch="96", bleed="3")
    return render_template("jobs/new.html", order=order, formats=FORMATS, trouble="")


@blueprint.post("/jobs/new")
def make() -> Response | tuple[str, int]:
    """Makes the job, or shows the form again with what is wrong."""
    form = request.form
    asked = ("title", "width", "height", "unit", "px_per_inch", "bleed", "pages", "margin")
    texts = {name: form.get(name, "") for name in (*asked, "target", "own_ppi")}
    order = JobOrder(**texts, is_facing=form.get("is_facing") == "yes")
    try:
        with desk().session() as session:
            job_id = make_job(session, order).id
    except Refused as error:
        page = render_template("jobs/new.html", order=order, formats=FORMATS, trouble=str(error))
        return page, 422
    return redirect(url_for("pages.show", job_id=job_id))  # type: ignore[return-value]


@blueprint.post("/jobs/<int:job_id>/target")
def target(job_id: int) -> Response:
    """Gives the job another target and shows the view it was asked from."""
    with desk().session() as session:
        job = job_with(session, job_id)
        set_target(session, job, request.form.get("target", ""), request.form.get("own_ppi", ""))
    return _back(job_id)


@blueprint.post("/jobs/<int:job_id>/undo")
def take_back(job_id: int) -> Response:
    """Undoes the latest edit."""
    return _step(job_id, long_undo, undo, "There is nothing to undo.")


@blueprint.post("/jobs/<int:job_id>/redo")
def make_again(job_id: int) -> Response:
    """Makes the edit undone last again."""
    return _step(job_id, long_redo, redo, "There is nothing to redo.")


def _step(
    job_id: int,
    long_step: Callable[[Session, Job], LongBatch | None],
    step: Callable[[Session, Job], Edit | None],
    nothing: str,
) -> Response:
    """One step through the history, by the worker where it changes very many placements."""
    with desk().session() as session:
        job = job_with(session, job_id)
        long = long_step(session, job)
        if long is not None:
            session.commit()
            return sent_to_worker(job_id, long.id)
        if step(session, job) is None:
            raise Refused(nothing)
    return _back(job_id)


def _back(job_id: int) -> Response:
    """Reloads the view that asked, which knows its page and its selection."""
    path = request.form.get("back", "")
    prefix = url_for("pages.show", job_id=job_id).rpartition("/")[0]
    place = path if path.startswith(f"{prefix}/") else url_for("pages.show", job_id=job_id)
    if "HX-Request" in request.headers:
        return Response("", headers={"HX-Location": place})
    return redirect(place)  # type: ignore[return-value]
