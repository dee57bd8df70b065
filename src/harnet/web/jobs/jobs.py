"""The list of jobs, the form for a new one, its target, undo and redo."""

from collections.abc import Callable

from flask import Blueprint, Response, make_response, redirect, render_template, request, url_for

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.units import CSS_PX_PER_INCH, Unit
from harnet.store.database import Session
from harnet.store.history import redo, undo
from harnet.store.tables.jobs import Edit, Job
from harnet.store.tables.long_batch import LongBatch
from harnet.studio.common.errors import Refused, sentence_of
from harnet.studio.jobs.jobs import FORMATS, NewJob, job_with, make_job, set_target, whole_job
from harnet.studio.jobs.listing import (
    JobStatus,
    duplicate_job,
    first_pictures,
    jobs_that_are,
    put,
)
from harnet.studio.ledger.long_batch import long_redo, long_undo
from harnet.studio.targets.targets import DEFAULT_KEY, target_asked
from harnet.web.common.shared import JobHeader, handed_to_worker, studio
from harnet.web.common.values import choice, custom_density, figure, length, whole_figure

blueprint = Blueprint("jobs", __name__)
_FIRST_FIELDS = {
    "title": "",
    "width": "148",
    "height": "210",
    "unit": "mm",
    "px_per_inch": "96",
    "bleed": "3",
    "margin": "10",
    "pages": "1",
    "is_facing": "",
    "target": DEFAULT_KEY,
    "own_ppi": "",
}
"""The fields of the form for a new job, with what stands in them at first."""


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


@blueprint.get("/jobs/new")
def new() -> str:
    """The form for a new job."""
    return render_template("jobs/new.html", fields=_FIRST_FIELDS, formats=FORMATS, failure="")


@blueprint.post("/jobs/new")
def make() -> Response | tuple[str, int]:
    """Creates the job, or shows the form again with what is wrong."""
    form = request.form
    fields = {name: form.get(name, "") for name in _FIRST_FIELDS}
    try:
        with studio().session() as session:
            job_id = make_job(session, _new_job(session, fields)).id
    except (Refused, ValueOutOfRange) as error:
        failure = str(error) if isinstance(error, Refused) else sentence_of(error)
        page = render_template("jobs/new.html", fields=fields, formats=FORMATS, failure=failure)
        return page, 422
    return make_response(redirect(url_for("pages.show", job_id=job_id)))


def _new_job(session: Session, fields: dict[str, str]) -> NewJob:
    unit = choice(Unit, fields["unit"])
    px_per_inch = figure(fields["px_per_inch"], "pixel density") if unit is Unit.PX else None
    # Before a length is measured in such pixels.
    per_inch = CSS_PX_PER_INCH if px_per_inch is None or px_per_inch <= 0 else px_per_inch
    return NewJob(
        title=fields["title"],
        width_pt=length(fields["width"], unit, per_inch),
        height_pt=length(fields["height"], unit, per_inch),
        unit=unit,
        px_per_inch=px_per_inch,
        bleed_pt=length(fields["bleed"], Unit.MM),
        margin_pt=length(fields["margin"], Unit.MM),
        pages=whole_figure(fields["pages"], "number of pages"),
        is_facing=fields["is_facing"] == "yes",
        target=target_asked(session, fields["target"], custom_density(fields)),
    )


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
    return _step(job_id, long_undo, undo, "There is nothing to undo.")


@blueprint.post("/jobs/<int:job_id>/redo")
def redo_next(job_id: int) -> Response:
    """Makes the edit undone last again."""
    return _step(job_id, long_redo, redo, "There is nothing to redo.")


def _step(
    job_id: int,
    long_step: Callable[[Session, Job], LongBatch | None],
    step: Callable[[Session, Job], Edit | None],
    nothing: str,
) -> Response:
    """One step through the history, by the worker where it changes very many placements."""
    with studio().session() as session:
        job = job_with(session, job_id)
        long = long_step(session, job)
        if long is not None:
            session.commit()
            return handed_to_worker(job_id, long.id)
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
    return make_response(redirect(place))
