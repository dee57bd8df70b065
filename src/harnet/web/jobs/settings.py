"""A job's settings, to change later."""

from flask import Blueprint, Response, make_response, redirect, render_template, request, url_for

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.units import CSS_PX_PER_INCH, Unit
from harnet.core.measure.wording import exact_length_text
from harnet.store.database import Session
from harnet.store.tables.jobs import Job
from harnet.studio.common.errors import Refused, sentence_of
from harnet.studio.jobs.jobs import job_with
from harnet.studio.jobs.settings import JobSettings, change_settings
from harnet.studio.people.access import group_given, own_groups
from harnet.web.common.shared import JobHeader, studio
from harnet.web.common.units import UNIT_WORDS, paper_unit
from harnet.web.common.values import choice, figure, length, row_number

blueprint = Blueprint("jobsettings", __name__, url_prefix="/jobs/<int:job_id>/settings")


@blueprint.get("")
def show(job_id: int) -> str:
    """The settings as they are."""
    with studio().session() as session:
        job = job_with(session, job_id)
        unit = paper_unit(job)
        fields = {
            "title": job.title,
            "unit": job.unit,
            "px_per_inch": f"{job.px_per_inch or CSS_PX_PER_INCH:g}",
            "bleed": exact_length_text(job.bleed_pt, unit),
            "margin": exact_length_text(job.margin_pt, unit),
            "is_facing": "yes" if job.is_facing else "",
            "group": str(job.group_id or ""),
        }
        return _page(session, job, fields, unit)


@blueprint.post("")
def change(job_id: int) -> Response | tuple[str, int]:
    """Changes them as one edit, or says what is wrong."""
    form = request.form
    try:
        with studio().session() as session:
            job = job_with(session, job_id)
            change_settings(session, job, _settings(_typed_in(job)))
            if "group" in form:
                job.group_id = group_given(session, row_number(form["group"]))
    except (Refused, ValueOutOfRange) as error:
        failure = sentence_of(error)
        with studio().session() as session:
            job = job_with(session, job_id)
            return _page(session, job, form.to_dict(), _typed_in(job), failure), 422
    return make_response(redirect(url_for("pages.show", job_id=job_id)))


def _typed_in(job: Job) -> Unit:
    """The unit that the form's lengths are typed in."""
    return choice(Unit, request.form.get("typed_in", ""), paper_unit(job))


def _settings(typed_in: Unit) -> JobSettings:
    form = request.form
    unit = choice(Unit, form.get("unit", ""))
    return JobSettings(
        title=form.get("title", ""),
        unit=unit,
        px_per_inch=figure(form.get("px_per_inch", ""), "pixel density")
        if unit is Unit.PX
        else None,
        bleed_pt=length(form.get("bleed", ""), typed_in),
        margin_pt=length(form.get("margin", ""), typed_in),
        is_facing=form.get("is_facing") == "yes",
    )


def _page(session: Session, job: Job, fields: dict[str, str], unit: Unit, failure: str = "") -> str:
    return render_template(
        "jobs/settings.html",
        job=job,
        header=JobHeader.of(job),
        fields=fields,
        unit=unit.value,
        units={name: words for name, words in UNIT_WORDS.items() if name},
        failure=failure,
        groups=own_groups(session),
    )
