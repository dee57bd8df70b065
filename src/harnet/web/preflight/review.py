"""Review links: made and withdrawn inside, read outside by whoever has one."""

from flask import Blueprint, Response, make_response, redirect, render_template, request, url_for

from harnet.store.database import Session
from harnet.store.tables.documents import Document
from harnet.store.tables.jobs import Job
from harnet.studio.common.errors import NotThere
from harnet.studio.documents.pages import page_picture
from harnet.studio.documents.stored_report import report_of_pdf
from harnet.studio.documents.uploads import document_with
from harnet.studio.jobs.jobs import job_with
from harnet.studio.preflight.report import report_of, rules_asked
from harnet.studio.preflight.reviews import is_open, link_behind, links_to, make_link, withdraw
from harnet.web.common.shared import studio
from harnet.web.documents.findings import shown_findings

blueprint = Blueprint("review", __name__)
readers = Blueprint("reading", __name__)
"""What someone outside sees; it leads nowhere else, and can be served by itself."""
_KINDS = ("job", "pdf")
_USUAL_DAYS = (7, 14, 30, 90)


@blueprint.get("/links/<kind>/<int:number>")
def links(kind: str, number: int) -> str:
    """The links to a job or a checked PDF, and the form for a new one."""
    with studio().session() as session:
        of = _of(session, kind, number)
        return render_template(
            "preflight/review_links.html",
            kind=kind,
            number=number,
            title=of.title if isinstance(of, Job) else of.file_name,
            links=[(link, is_open(link)) for link in links_to(session, of)],
            days=_USUAL_DAYS,
        )


@blueprint.post("/links/<kind>/<int:number>")
def make(kind: str, number: int) -> Response:
    """Makes a link."""
    form = request.form
    with studio().session() as session:
        of = _of(session, kind, number)
        days = form.get("days", 14, int)
        make_link(session, of, form.get("label", ""), days, "with_reasons" in form)
    return make_response(redirect(url_for("review.links", kind=kind, number=number)))


@blueprint.post("/links/<kind>/<int:number>/<int:link_id>/withdraw")
def revoke(kind: str, number: int, link_id: int) -> Response:
    """Withdraws a link."""
    with studio().session() as session:
        withdraw(session, _of(session, kind, number), link_id)
    return make_response(redirect(url_for("review.links", kind=kind, number=number)))


def _of(session: Session, kind: str, number: int) -> Job | Document:
    if kind not in _KINDS:
        raise NotThere("There is nothing at this address.")
    return job_with(session, number) if kind == "job" else document_with(session, number)


@readers.get("/review/<token>")
def read(token: str) -> Response:
    """What a link shows: findings and figures, and no way to change anything."""
    with studio().session() as session:
        link = link_behind(session, token)
        if link.job_id is not None:
            part = request.args.get("part", 1, int)
            report = report_of(session, job_with(session, link.job_id), part)
            page = render_template(
                "preflight/review.html",
                report=report,
                rules=rules_asked(report.target),
                link=link,
                is_review=True,
                hides_reasons=not link.with_reasons,
            )
        else:
            assert link.document_id is not None
            found = report_of_pdf(session, document_with(session, link.document_id))
            shown = shown_findings(
                found, lambda number: url_for("reading.pdf_page", token=token, number=number)
            )
            page = render_template(
                "documents/review.html",
                report=found,
                shown=shown,
                link=link,
                hides_reasons=not link.with_reasons,
            )
    return _unlisted(make_response(page))


@readers.get("/review/<token>/<int:number>.png")
def pdf_page(token: str, number: int) -> Response:
    """A page of the PDF behind a link, as a picture."""
    with studio().session() as session:
        link = link_behind(session, token)
        if link.document_id is None:
            raise NotThere("There is nothing at this address.")
        pdf = document_with(session, link.document_id)
        data = page_picture(studio(), pdf.sha256, pdf.file_name, number)
    return _unlisted(Response(data, mimetype="image/png"))


def _unlisted(response: Response) -> Response:
    response.headers["X-Robots-Tag"] = "noindex"
    response.headers["Referrer-Policy"] = "no-referrer"
    return response
