"""A whole group of findings: the plan of its surest fixes, accepting all, rights once per file."""

from flask import Blueprint, Response, make_response, redirect, render_template, request, url_for

from harnet.core.measure.wording import counted
from harnet.core.pictures.rights import COMMON_LICENCES, Rights
from harnet.studio.common.errors import NotThere
from harnet.studio.preflight.bulk import (
    accept_all,
    findings_of_group,
    fix_all,
    key_of,
    pictures_without_rights,
    planned_fixes,
    state_rights,
)
from harnet.web.common.preferences import own_name, remember_name
from harnet.web.common.shared import JobHeader, studio, viewed_job

blueprint = Blueprint("bulk", __name__, url_prefix="/jobs/<int:job_id>/preflight/group")
_MOST_LISTED = 200


@blueprint.get("")
def show(job_id: int) -> str:
    """The plan for a group; nothing is changed."""
    return _view(job_id, request.args.get("name", ""))


def _view(job_id: int, group: str, sentences: tuple[str, ...] = ()) -> str:
    with studio().session() as session:
        job = viewed_job(session, job_id)
        findings = findings_of_group(session, job, group)
        if not findings and not sentences:
            raise NotThere("This group has no open finding any more.")
        plan = planned_fixes(session, job, findings[:_MOST_LISTED])
        return render_template(
            "preflight/bulk.html",
            header=JobHeader.of(job),
            job=job,
            group=group,
            plan=[(key_of(one.listed), one) for one in plan],
            hidden=max(0, len(findings) - _MOST_LISTED),
            fixable=sum(one.fix is not None for one in plan),
            total=len(findings),
            unstated=pictures_without_rights(session, findings[:_MOST_LISTED]),
            licences=COMMON_LICENCES,
            own_name=own_name(),
            sentences=sentences,
        )


@blueprint.post("/fix")
def fix(job_id: int) -> str | Response:
    """Does the surest fix of the chosen findings, as one edit."""
    group = request.form.get("name", "")
    with studio().session() as session:
        job = viewed_job(session, job_id)
        done, failures = fix_all(studio(), session, job, group, request.form.getlist("finding"))
    if failures:
        return _view(job_id, group, (f"{counted(done, 'finding')} fixed.", *failures))
    return _back(job_id)


@blueprint.post("/accept")
def accept(job_id: int) -> Response:
    """Accepts all of them with one reason and a name, as one edit."""
    who = request.form.get("who", "")
    with studio().session() as session:
        job = viewed_job(session, job_id)
        group = request.form.get("name", "")
        accept_all(session, job, group, request.form.get("reason", ""), who)
    remember_name(who)
    return _back(job_id)


@blueprint.post("/rights")
def rights(job_id: int) -> Response:
    """Writes down the rights of each file once, wherever it is placed."""
    form = request.form
    stated = {
        number: Rights(form.get(f"licence_{number}", ""), form.get(f"credit_{number}", ""), "")
        for number in form.getlist("picture", int)
    }
    with studio().session() as session:
        state_rights(session, stated)
    return _back(job_id)


def _back(job_id: int) -> Response:
    return make_response(redirect(url_for("preflight.show", job_id=job_id)))
