"""One's own account: password, where one is signed in, signing out."""

from flask import Blueprint, Response, make_response, redirect, render_template, request, url_for
from flask import session as browser
from flask_login import logout_user

from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.people.passwords import is_right
from harnet.studio.people.people import person_with, set_password
from harnet.studio.people.roles import Role
from harnet.studio.people.signing_in import revoke_all, revoke_sign_in, sign_ins_of
from harnet.web.common.shared import studio
from harnet.web.common.signed_in import me

blueprint = Blueprint("account", __name__, url_prefix="/account")


@blueprint.get("")
def show() -> str:
    """What one's role allows, and where one is signed in."""
    return _page()


@blueprint.post("/password")
def choose_password() -> Response | tuple[str, int]:
    """Gives oneself another password; every other browser is signed out."""
    form = request.form
    try:
        with studio().session() as session:
            person = person_with(session, _own_id())
            if not is_right(form.get("current", ""), person.password_hash):
                raise Refused("The current password is another one.")
            if form.get("new", "") != form.get("again", ""):
                raise Refused("The new password was typed differently the second time.")
            set_password(session, person, form.get("new", ""), is_own=True)
            revoke_all(session, person, but=me().sign_in_id)
    except Refused as error:
        return _page(str(error)), 422
    return make_response(redirect(url_for("account.show", changed="yes")))


@blueprint.post("/end/<int:sign_in_id>")
def end(sign_in_id: int) -> Response:
    """Signs one browser out."""
    with studio().session() as session:
        revoke_sign_in(session, person_with(session, _own_id()), sign_in_id)
    return make_response(redirect(url_for("account.show")))


@blueprint.post("/end-others")
def end_others() -> Response:
    """Signs every other browser out."""
    with studio().session() as session:
        revoke_all(session, person_with(session, _own_id()), but=me().sign_in_id)
    return make_response(redirect(url_for("account.show")))


@blueprint.post("/leave")
def leave() -> Response:
    """Signs out."""
    own, number = _own_id(), me().sign_in_id
    with studio().session() as session:
        if number is not None:
            revoke_sign_in(session, person_with(session, own), number)
    logout_user()
    browser.clear()
    return make_response(redirect(url_for("signing.show")))


def _own_id() -> int:
    number = me().person_id
    if number is None:
        raise NotThere("Nobody signs in to this studio yet, so there is no account.")
    return number


def _page(failure: str = "") -> str:
    with studio().session() as session:
        person = person_with(session, _own_id())
        return render_template(
            "people/account.html",
            person=person,
            meaning=Role(person.role).meaning,
            sign_ins=sign_ins_of(session, person, studio().settings.expiry),
            failure=failure,
            is_changed=request.args.get("changed") == "yes",
        )
