"""Signing in and out."""

from dataclasses import replace
from urllib.parse import urlsplit

from flask import Blueprint, Response, make_response, redirect, render_template, request, url_for
from flask import session as browser
from flask_login import login_user

from harnet.store.acting import act
from harnet.studio.common.activity import add_detail
from harnet.studio.people.people import actor_of, asks_for_names
from harnet.studio.people.roles import Role
from harnet.studio.people.signing_in import WrongSignIn, sign_in
from harnet.web.common.limits import FAILED, address, by_address, by_address_and_name, by_name
from harnet.web.common.shared import studio
from harnet.web.common.signed_in import SignedIn, me

blueprint = Blueprint("signing", __name__, url_prefix="/sign-in")
_OWN_MACHINE = {"localhost", "127.0.0.1", "[::1]"}
_NEEDS_TLS = (
    "Harnet lets nobody in over a connection that others can read. Open it by https; whoever runs"
    " it sets that up as docs/install.md says."
)


@blueprint.get("")
def show() -> Response:
    """The form; whoever is in already, or where nobody is asked, goes on."""
    with studio().session() as session:
        is_asked = asks_for_names(session)
    if me().person_id is not None or not is_asked:
        return make_response(redirect(_onward()))
    return _page("", "" if is_private() else _NEEDS_TLS)


@blueprint.post("")
@by_name
@by_address
@by_address_and_name
def enter() -> Response:
    """Signs in, with a session of its own, and goes on to where one wanted to go."""
    name = request.form.get("name", "")
    if not is_private():
        return _page(name, _NEEDS_TLS, 403)
    try:
        with studio().session() as session:
            row, key = sign_in(
                session,
                name,
                request.form.get("password", ""),
                address=address(),
                browser=request.headers.get("User-Agent", ""),
            )
            person = row.person
            act(replace(actor_of(person), doing="signed in"))
            add_detail(session, f"from {address()}")
            user = SignedIn(
                key=key,
                sign_in_id=row.id,
                role=Role(person.role),
                actor=actor_of(person),
                must_change_password=person.must_change_password,
            )
    except WrongSignIn as error:
        return _page(name, str(error), FAILED)
    # Whatever the browser had before is not carried over: the session begins anew.
    browser.clear()
    browser.permanent = True
    login_user(user)
    return make_response(redirect(_onward()))


def is_private() -> bool:
    """Whether nobody between can read what is sent: TLS, or the same machine."""
    host = urlsplit(f"//{request.host}").hostname or ""
    return request.is_secure or host in _OWN_MACHINE


def _onward() -> str:
    """Where one wanted to go, if that is a page of Harnet's own."""
    wanted = request.values.get("next", "")
    parts = urlsplit(wanted)
    is_own = wanted.startswith("/") and not wanted.startswith(("//", "/\\"))
    return wanted if is_own and not (parts.scheme or parts.netloc) else url_for("jobs.listing")


def _page(name: str, failure: str, status: int = 200) -> Response:
    return make_response(
        render_template(
            "people/sign_in.html",
            name=name,
            failure=failure,
            onward=request.values.get("next", ""),
            is_private=is_private(),
        ),
        status,
    )
