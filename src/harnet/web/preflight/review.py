"""Review links: made and revoked inside, read outside by whoever has one."""

from flask import Blueprint, Response, make_response, redirect, render_template, request, url_for

from harnet.store.database import Session
from harnet.store.tables.documents import Document
from harnet.studio.common.errors import NotThere
from harnet.studio.documents.pages import document_page, image_look
from harnet.studio.documents.reporting.stored import stored_report_of
from harnet.studio.documents.uploads import document_with, picture_in
from harnet.studio.jobs.jobs import job_with
from harnet.studio.preflight.report import report_of, rules_asked
from harnet.studio.preflight.reviews import is_open, link_behind, links_to, make_link, withdraw
from harnet.web.common.shared import studio
from harnet.web.common.subjects import page_about, subject_of
from harnet.web.documents.findings import shown_findings

blueprint = Blueprint("review", __name__)
readers = Blueprint("reading", __name__)
"""What someone outside sees; it leads nowhere else, and can be served by itself."""
_USUAL_DAYS = (7, 14, 30, 90)


@blueprint.get("/links/<kind>/<int:number>")
def links(kind: str, number: int) -> str:
    """The links to a job or a checked PDF, and the form for a new one."""
    with studio().session() as session:
        of = subject_of(session, kind, number)
        return page_about(
            "preflight/review_links.html",
            kind,
            number,
            of,
            reviewers_accept=of.reviewers_accept,
            links=[(link, is_open(link)) for link in links_to(session, of)],
            days=_USUAL_DAYS,
        )


@blueprint.post("/links/<kind>/<int:number>")
def make(kind: str, number: int) -> Response:
    """Makes a link."""
    form = request.form
    with studio().session() as session:
        of = subject_of(session, kind, number)
        days = form.get("days", 14, int)
        make_link(session, of, form.get("label", ""), days, "with_reasons" in form)
    return make_response(redirect(url_for("review.links", kind=kind, number=number)))


@blueprint.post("/links/<kind>/<int:number>/<int:link_id>/withdraw")
def revoke(kind: str, number: int, link_id: int) -> Response:
    """Withdraws a link."""
    with studio().session() as session:
        withdraw(session, subject_of(session, kind, number), link_id)
    return make_response(redirect(url_for("review.links", kind=kind, number=number)))


@blueprint.post("/links/<kind>/<int:number>/accept")
def let_accept(kind: str, number: int) -> Response:
    """Lets reviewers accept findings here, or no longer."""
    with studio().session() as session:
        subject_of(session, kind, number).reviewers_accept = "reviewers_accept" in request.form
    return make_response(redirect(url_for("review.links", kind=kind, number=number)))


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
            found = stored_report_of(session, document_with(session, link.document_id))
            shown = shown_findings(
                found,
                lambda number: url_for("reading.document_page_png", token=token, number=number),
                lambda picture: url_for("reading.image_png", token=token, picture_id=picture),
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
def document_page_png(token: str, number: int) -> Response:
    """A page of the document behind a link, as a picture."""
    with studio().session() as session:
        document = _document_behind(session, token)
        data = document_page(studio(), document, number)
    return _unlisted(Response(data, mimetype="image/png"))


@readers.get("/review/<token>/images/<int:picture_id>.png")
def image_png(token: str, picture_id: int) -> Response:
    """An image of the document behind a link that stands on no page."""
    with studio().session() as session:
        document = _document_behind(session, token)
        data = image_look(studio(), document, picture_in(session, document, picture_id))
    return _unlisted(Response(data, mimetype="image/png"))


def _document_behind(session: Session, token: str) -> Document:
    link = link_behind(session, token)
    if link.document_id is None:
        raise NotThere("There is nothing at this address.")
    return document_with(session, link.document_id)


def _unlisted(response: Response) -> Response:
    response.headers["X-Robots-Tag"] = "noindex"
    response.headers["Referrer-Policy"] = "no-referrer"
    return response
