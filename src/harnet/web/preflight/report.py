"""The report of a job: a page, and the same as PDF, CSV and JSON."""

import csv
import io
import json

from flask import Blueprint, Response, render_template, request

from harnet.core.measure.table_text import cell_text
from harnet.studio.jobs.jobs import job_with
from harnet.studio.pictures.importing import safe_file_name
from harnet.studio.preflight.report import (
    COLUMNS,
    Report,
    report_as_json,
    report_as_rows,
    report_of,
    rules_asked,
)
from harnet.studio.preflight.report_html import report_as_html
from harnet.studio.preflight.report_pdf import report_as_pdf
from harnet.web.common.shared import JobHeader, studio
from harnet.web.common.units import paper_unit

blueprint = Blueprint("report", __name__, url_prefix="/jobs/<int:job_id>/report")


@blueprint.get("")
def page(job_id: int) -> str:
    """The report as a page."""
    with studio().session() as session:
        job = job_with(session, job_id)
        report = report_of(session, job, request.args.get("part", 1, int), paper_unit(job))
        return render_template(
            "preflight/report.html",
            header=JobHeader.of(job),
            job=job,
            report=report,
            rules=rules_asked(report.target),
        )


@blueprint.get("/report.json")
def as_json(job_id: int) -> Response:
    """The report in its published form."""
    with studio().session() as session:
        report = report_of(session, job_with(session, job_id))
        text = json.dumps(report_as_json(report), indent=2, ensure_ascii=False)
    return _file(report, text + "\n", "application/json", "json")


@blueprint.get("/report.csv")
def as_csv(job_id: int) -> Response:
    """A line for each placed picture, with what was found on it."""
    with studio().session() as session:
        report = report_of(session, job_with(session, job_id))
        text = io.StringIO()
        writer = csv.writer(text)
        writer.writerow(COLUMNS)
        for row in report_as_rows(report):
            writer.writerow(map(cell_text, row))
    return _file(report, text.getvalue(), "text/csv", "csv")


@blueprint.get("/report.html")
def as_html(job_id: int) -> Response:
    """The report as one file, to be sent and kept; it is never shown as a page of Harnet's."""
    with studio().session() as session:
        job = job_with(session, job_id)
        report = report_of(session, job, unit=paper_unit(job))
        text = report_as_html(studio(), report)
    return _file(report, text, "text/html", "html")


@blueprint.get("/report.pdf")
def as_pdf(job_id: int) -> Response:
    """The report on A4, with pictures of the poor samples."""
    with studio().session() as session:
        job = job_with(session, job_id)
        report = report_of(session, job, unit=paper_unit(job))
        data = report_as_pdf(studio(), report)
    return _file(report, data, "application/pdf", "pdf")


def _file(report: Report, data: str | bytes, kind: str, ending: str) -> Response:
    response = Response(data, mimetype=kind)
    name = safe_file_name(f"{report.title.replace(': ', ' ')} report.{ending}")
    response.headers.set("Content-Disposition", "attachment", filename=name)
    return response
