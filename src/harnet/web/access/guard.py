"""The guard: who the request is from, whether they may, and who acts from here on."""

from dataclasses import replace
from ipaddress import ip_address
from urllib.parse import urlsplit

from flask import Flask, Response, current_app, g, make_response, redirect, request, url_for
from flask_login import LoginManager, current_user

from harnet.store.acting import Actor, act
from harnet.store.database import Session
from harnet.store.tables.documents import Document
from harnet.store.tables.jobs import Job
from harnet.studio.common.errors import NotAllowed, NotSignedIn
from harnet.studio.people.access import sees
from harnet.studio.people.people import actor_of, asks_for_names
from harnet.studio.people.roles import Role
from harnet.studio.people.signing_in import signed_in
from harnet.studio.people.tokens import token_behind
from harnet.web.access.rules import Need, Rule, rule_of
from harnet.web.api.problems import is_api_request
from harnet.web.common.shared import studio
from harnet.web.common.signed_in import NOBODY, Anybody, Me, SignedIn

_FOR_ALL = ("static", "anystatic", "health", "files", "reading")
"""What of all that needs nothing is answered without looking who asks."""
_BEARER, _API = "Bearer ", "api_"
_HAS_PEOPLE = "harnet has people"
_OWN_PASSWORD = {"account.show", "account.choose_password", "account.leave", "static", "files.font"}
"""Where someone may go whose password somebody else chose."""
_WORDS = {
    Need.MACHINE: "Only a program on this machine, or an owner, may read this.",
    Need.OWNER: "Only an owner of this studio may do this. Ask one.",
    Need.DESIGNER: "Reviewers read and comment; ask a designer to make this change.",
    Need.ACCEPT: "Reviewers may not accept findings here. Ask a designer, or comment on it.",
}
_NOT_FROM_HERE = (
    "Harnet asks nobody to sign in yet, so it answers to this machine alone. Make the first owner"
    " with: harnet person add NAME --owner"
)
_NO_TOKEN = "This token is not valid. Make one under /tokens."
_NOBODYS_TOKEN = (
    "This token was made before people signed in and belongs to nobody. Make a new one under"
    " /tokens."
)


def add_guard(app: Flask) -> None:
    """Has every request pass the guard before its view is reached."""
    login = LoginManager(app)
    login.anonymous_user = Anybody
    login.user_loader(_loaded)
    app.before_request(_guard)
    app.teardown_request(_leave)


def _loaded(key: str) -> SignedIn | None:
    with studio().session() as session:
        row = signed_in(session, key, studio().settings.expiry)
        if row is None:
            return None
        return SignedIn(
            key=key,
            sign_in_id=row.id,
            role=Role(row.person.role),
            actor=actor_of(row.person),
            must_change_password=row.person.must_change_password,
        )


def _leave(_error: BaseException | None) -> None:
    """A thread serves others next; nobody acts in it any more."""
    act(Actor())


def _guard() -> Response | None:
    act(Actor())
    if request.endpoint is None:
        # There is nothing at this address, or not by this method; that is said in a moment.
        return None
    rule = rule_of(request.endpoint)
    if rule is None:
        raise RuntimeError(f"no rule says who may use {request.endpoint}")
    needs_nothing = rule.need is Need.NOTHING
    if needs_nothing and request.endpoint.startswith(_FOR_ALL):
        return None
    if rule.need is Need.MACHINE and is_from_here():
        return None
    if not _people_sign_in():
        _without_people(rule)
        return None
    if _comes_from_program(rule):
        _by_token(rule)
        return None
    return _by_sign_in(rule)


def _comes_from_program(rule: Rule) -> bool:
    """Whether a token says who asks, and not a browser's session."""
    takes_either = is_api_request() or rule.need is Need.MACHINE
    is_of_api = str(request.endpoint).startswith(_API)
    return is_of_api or (takes_either and "Authorization" in request.headers)


def _people_sign_in() -> bool:
    """Whether there are people; once there are, there always will be."""
    if not current_app.extensions.get(_HAS_PEOPLE):
        # Asked before each view of a studio without people: it is no matter for a session.
        with studio().engine.connect() as link:
            current_app.extensions[_HAS_PEOPLE] = asks_for_names(link)
    return bool(current_app.extensions[_HAS_PEOPLE])


def _without_people(rule: Rule) -> None:
    if rule.need is not Need.NOTHING and not is_from_here():
        raise NotAllowed(_NOT_FROM_HERE)
    g.me = Me(Role.OWNER)
    act(_for_this_request(Actor(), rule))


def is_from_here() -> bool:
    """Whether the request is from this machine, and nobody passed it on."""
    if not studio().settings.proxies and "X-Forwarded-For" in request.headers:
        return False
    try:
        return ip_address(request.remote_addr or "").is_loopback
    except ValueError:
        return False


def _by_token(rule: Rule) -> None:
    """A program acts for the person whose token it has.

    What the API answers without a good one is said by its own door, which no request passes.
    """
    header = request.headers.get("Authorization", "")
    with studio().session() as session:
        is_bearer = header.startswith(_BEARER)
        row = token_behind(session, header.removeprefix(_BEARER).strip()) if is_bearer else None
        if row is None:
            if str(request.endpoint).startswith(_API):
                return
            raise NotSignedIn(_NO_TOKEN)
        if row.person is None:
            raise NotAllowed(_NOBODYS_TOKEN)
        found = Me(Role(row.person.role), row.person.name, row.person.id)
        who = actor_of(row.person)
    _enter(found, replace(who, name=f"{who.name}, by {row.label}"[:120]), rule)


def _by_sign_in(rule: Rule) -> Response | None:
    user: SignedIn | Anybody = current_user._get_current_object()
    if not isinstance(user, SignedIn):
        g.me = NOBODY
        return None if rule.need is Need.NOTHING else _to_sign_in()
    if user.must_change_password and request.endpoint not in _OWN_PASSWORD:
        return make_response(redirect(url_for("account.show")))
    found = Me(user.role, user.actor.name, user.actor.person_id, user.sign_in_id)
    _enter(found, user.actor, rule)
    return None


def _enter(found: Me, who: Actor, rule: Rule) -> None:
    g.me = found
    act(_for_this_request(who, rule))
    if not _may(found.role, rule.need):
        raise NotAllowed(_WORDS[rule.need])


def _for_this_request(who: Actor, rule: Rule) -> Actor:
    return replace(
        who, doing=rule.doing, job_id=_number("job_id"), document_id=_number("document_id")
    )


def _may(role: Role, need: Need) -> bool:
    if need is Need.NOTHING:
        return True
    if need is Need.ACCEPT:
        return role.includes(Role.DESIGNER) or _lets_reviewers_accept()
    return role.includes(Role.OWNER if need is Need.MACHINE else need.value)


def _lets_reviewers_accept() -> bool:
    with studio().session() as session:
        found = _subject(session)
        return found is not None and found.reviewers_accept


def _subject(session: Session) -> Job | Document | None:
    job_id, document_id = _number("job_id"), _number("document_id")
    if job_id is not None:
        job = session.get(Job, job_id)
        return job if job is not None and sees(job.group_id) else None
    return session.get(Document, document_id) if document_id is not None else None


def _number(name: str) -> int | None:
    """The number of a job or a document in the address, as links and comments have it, too."""
    values = request.view_args or {}
    is_of_kind = f"{values.get('kind')}_id" == name
    found = values.get("number") if is_of_kind else values.get(name)
    return found if isinstance(found, int) else None


def _to_sign_in() -> Response:
    """To the page where one signs in, and back to where one wanted to go."""
    asks_for_page = request.method == "GET" and "HX-Request" not in request.headers
    came_from = request.headers.get("HX-Current-URL", "")
    wanted = request.full_path.rstrip("?") if asks_for_page else _path_of(came_from)
    where = url_for("signing.show", next=wanted or None)
    if "HX-Request" in request.headers:
        return Response("", 401, headers={"HX-Redirect": where})
    takes_pages = request.accept_mimetypes.accept_html or not request.accept_mimetypes
    if asks_for_page and takes_pages:
        return make_response(redirect(where))
    raise NotSignedIn("Sign in first: your sign-in has ended. Nothing was changed.")


def _path_of(address: str) -> str:
    parts = urlsplit(address)
    return f"{parts.path}?{parts.query}" if parts.query else parts.path
