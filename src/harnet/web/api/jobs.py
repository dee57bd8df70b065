"""Jobs: made, listed, judged by another target; their findings and their report."""

from typing import Any

from harnet.core.measure.units import Unit
from harnet.store.database import Session
from harnet.store.tables.jobs import Job
from harnet.studio.jobs.jobs import NewJob, job_with, make_job, page_count, set_target, target_of
from harnet.studio.jobs.listing import JobStatus, jobs_that_are, put
from harnet.studio.judging.judging import catch_up, settle
from harnet.studio.preflight.checking import Listed, accept, counts_of, findings_in, withdraw
from harnet.studio.preflight.report import report_as_json, report_of
from harnet.web.api.door import EDIT, resource
from harnet.web.api.forms.base import ListRange
from harnet.web.api.forms.checks import JobReportOut
from harnet.web.api.forms.findings import AcceptIn, FindingOut, Findings
from harnet.web.api.forms.jobs import JobIn, JobOut, Jobs
from harnet.web.api.forms.targets import TargetIn as TargetGiven
from harnet.web.api.values.targets import target_meant, target_out
from harnet.web.common.shared import studio

blueprint = resource("jobs", "Jobs")


def job_out(session: Session, job: Job) -> JobOut:
    """A job in the API's form, as it stands after what was done to it."""
    settle(session)
    counts = counts_of(job)
    return JobOut(
        id=job.id,
        title=job.title,
        width_pt=job.width_pt,
        height_pt=job.height_pt,
        bleed_pt=job.bleed_pt,
        pages=page_count(job),
        is_facing=job.is_facing,
        target=target_out(target_of(job)),
        verdicts={verdict.value: count for verdict, count in counts.verdicts.items()},
        findings=counts.open_findings,
        blocking=counts.blocking,
        gate="held" if counts.blocking else "open",
        created_at=job.created_at,
        edited_at=job.edited_at,
    )


@blueprint.get("/jobs")
@blueprint.input(ListRange, location="query")
@blueprint.output(Jobs)
def jobs(query_data: ListRange) -> Jobs:
    """The open jobs, the one edited last first."""
    with studio().session() as session:
        found = jobs_that_are(session, JobStatus.OPEN)
        some = found[query_data.offset : query_data.offset + query_data.limit]
        return Jobs(total=len(found), items=[job_out(session, job) for job in some])


@blueprint.post("/jobs")
@blueprint.input(JobIn)
@blueprint.output(JobOut, status_code=201)
def make(json_data: JobIn) -> JobOut:
    """Creates a job with its empty pages."""
    with studio().session() as session:
        new = NewJob.measured(
            json_data.title,
            json_data.width,
            json_data.height,
            Unit(json_data.unit),
            json_data.px_per_inch,
            json_data.bleed_mm,
            pages=json_data.pages,
            is_facing=json_data.is_facing,
            target=target_meant(session, json_data.target),
        )
        return job_out(session, make_job(session, new))


@blueprint.get("/jobs/<int:job_id>")
@blueprint.output(JobOut)
def job(job_id: int) -> JobOut:
    """One job, up to date with its files."""
    with studio().session() as session:
        found = job_with(session, job_id)
        catch_up(session, found)
        return job_out(session, found)


@blueprint.delete("/jobs/<int:job_id>")
@blueprint.output({}, status_code=204)
def delete(job_id: int) -> str:
    """Deletes a job; people can bring it back."""
    with studio().session() as session:
        put(job_with(session, job_id), JobStatus.DELETED)
    return ""


@blueprint.put("/jobs/<int:job_id>/target")
@blueprint.input(TargetGiven)
@blueprint.output(JobOut)
@blueprint.doc(extensions=EDIT)
def judge_by(job_id: int, json_data: TargetGiven) -> JobOut:
    """Judges the job by another target, as one edit."""
    with studio().session() as session:
        found = job_with(session, job_id)
        target = target_meant(session, json_data, target_of(found))
        set_target(session, found, target.key, target.density_ppi, target)
        return job_out(session, found)


def finding_out(one: Listed) -> FindingOut:
    """A finding in the API's form."""
    acceptance = one.acceptance if one.is_accepted else None
    return FindingOut(
        rule=one.row.rule_id,
        severity=one.severity.value,
        page=one.page_number,
        item=one.row.item_id,
        name=one.row.name,
        headline=one.row.headline,
        sentence=one.row.sentence,
        accepted_by=acceptance.name if acceptance else None,
        reason=acceptance.reason if acceptance else None,
    )


@blueprint.get("/jobs/<int:job_id>/findings")
@blueprint.output(Findings)
def findings(job_id: int) -> Findings:
    """The findings of a job, worst first, and whether they hold the gate."""
    with studio().session() as session:
        found = job_with(session, job_id)
        catch_up(session, found)
        return _findings(session, found)


def _findings(session: Session, job: Job) -> Findings:
    settle(session)
    return Findings(
        gate="held" if counts_of(job).blocking else "open",
        items=[finding_out(one) for one in findings_in(session, job)],
        accepted=[finding_out(one) for one in findings_in(session, job, are_accepted=True)],
    )


@blueprint.put("/jobs/<int:job_id>/findings/<int:item_id>/<rule_id>/acceptance")
@blueprint.input(AcceptIn)
@blueprint.output(Findings)
@blueprint.doc(extensions=EDIT)
def accept_finding(job_id: int, item_id: int, rule_id: str, json_data: AcceptIn) -> Findings:
    """Lets a finding pass with a reason, as one edit; it comes back when its figures get worse."""
    with studio().session() as session:
        job = job_with(session, job_id)
        catch_up(session, job)
        rule = rule_id.replace("\0", "")
        accept(session, job, item_id, rule, json_data.reason, json_data.name)
        return _findings(session, job)


@blueprint.delete("/jobs/<int:job_id>/findings/<int:item_id>/<rule_id>/acceptance")
@blueprint.output(Findings)
@blueprint.doc(extensions=EDIT)
def withdraw_acceptance(job_id: int, item_id: int, rule_id: str) -> Findings:
    """Takes an acceptance back, as one edit."""
    with studio().session() as session:
        job = job_with(session, job_id)
        withdraw(session, job, item_id, rule_id.replace("\0", ""))
        return _findings(session, job)


@blueprint.get("/jobs/<int:job_id>/report")
@blueprint.output(JobReportOut)
def report(job_id: int) -> dict[str, Any]:
    """The report in its published form, docs/schemas/job-report.schema.json."""
    with studio().session() as session:
        return report_as_json(report_of(session, job_with(session, job_id)))
