"""Comments on a job or a checked document, for everyone inside."""

from flask import Blueprint, Response, make_response, redirect, request, url_for

from harnet.studio.preflight.comments import add_comment, comments_on, settle_comment
from harnet.web.common.preferences import own_name, remember_name
from harnet.web.common.shared import studio
from harnet.web.common.subjects import page_about, subject_of

blueprint = Blueprint("comments", __name__, url_prefix="/comments/<kind>/<int:number>")


@blueprint.get("")
def show(kind: str, number: int) -> str:
    """The comments, open ones first, and the form for another."""
    with studio().session() as session:
        of = subject_of(session, kind, number)
        comments = comments_on(session, of)
        return page_about(
            "preflight/comments.html", kind, number, of, comments=comments, own_name=own_name()
        )


@blueprint.post("")
def add(kind: str, number: int) -> Response:
    """Adds a comment."""
    name = request.form.get("name", "")
    with studio().session() as session:
        of = subject_of(session, kind, number)
        add_comment(session, of, request.form.get("text", ""), name)
    remember_name(name)
    return _back(kind, number)


@blueprint.post("/<int:comment_id>/settle")
def settle(kind: str, number: int, comment_id: int) -> Response:
    """Marks a comment as dealt with, or opens it again."""
    with studio().session() as session:
        settle_comment(session, subject_of(session, kind, number), comment_id, own_name())
    return _back(kind, number)


def _back(kind: str, number: int) -> Response:
    return make_response(redirect(url_for("comments.show", kind=kind, number=number)))
