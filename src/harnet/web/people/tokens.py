"""API tokens: made and revoked, with what the API is."""

from flask import Blueprint, Response, make_response, redirect, render_template, request, url_for

from harnet.studio.people.tokens import make_token, revoke_token, shown_tokens
from harnet.web.common.shared import studio

blueprint = Blueprint("tokens", __name__, url_prefix="/tokens")


@blueprint.get("")
def listing() -> str:
    """The tokens, and the form for a new one."""
    with studio().session() as session:
        return render_template(
            "people/tokens.html", tokens=shown_tokens(session), made=None, token=""
        )


@blueprint.post("")
def make() -> Response:
    """Makes a token and tells it, this once."""
    with studio().session() as session:
        made, token = make_token(session, request.form.get("label", ""))
        page = render_template(
            "people/tokens.html", tokens=shown_tokens(session), made=made, token=token
        )
    return Response(page, 201)


@blueprint.post("/<int:token_id>/withdraw")
def revoke(token_id: int) -> Response:
    """Revokes a token."""
    with studio().session() as session:
        revoke_token(session, token_id)
    return make_response(redirect(url_for("tokens.listing")))
