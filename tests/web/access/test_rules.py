"""Every address of the application and its API, walked by everyone; one without a rule fails."""

import re

import pytest

from harnet.store.acting import acting
from harnet.studio.jobs.jobs import job_with
from harnet.studio.people.people import actor_of, person_named
from harnet.studio.people.roles import Role
from harnet.studio.people.tokens import make_token
from harnet.web.access.rules import RULES, Need
from harnet.web.app import create_app
from tests.support.clients import client_of
from tests.support.people import let_in, people_of

_NOWHERE = 999_999


@pytest.fixture
def app(settings, studio):
    names = people_of(studio)
    app = create_app(settings)
    with client_of(app, needs_token=False):
        app.extensions["names"] = names
        yield app


def addresses(app):
    """Each address with a method and made-up values: endpoint, method, address."""
    for rule in app.url_map.iter_rules():
        path = re.sub(r"<int:\w+>", str(_NOWHERE), rule.rule)
        path = re.sub(r"<(?:\w+:)?\w+>", "nothing", path)
        for method in sorted(rule.methods - {"HEAD", "OPTIONS"}):
            yield rule.endpoint, method, path


def is_refused(answer):
    """Whether someone was sent away before the view was reached."""
    # Whoever signs out is led to the plain page.
    is_led_off = answer.status_code == 302 and "/sign-in?next" in answer.headers["Location"]
    return answer.status_code in (401, 403) or is_led_off


def test_the_table_is_complete_and_names_nothing_else(app):
    assert {endpoint for endpoint, _, _ in addresses(app)} == set(RULES)


def test_whatever_changes_something_says_so(app):
    silent = {
        # These only look, or try something out, are about the browser alone, or say it themselves.
        "api_improving.pixels", "api_improving.plan", "api_outputs.prediction", "jobs.unit",
        "ledgerbatch.preview", "pages.prefer", "rows.preview", "shelf.look_again",
        "signing.enter", "targets.density_fields",
    }  # fmt: skip
    changing = {one for one, method, _ in addresses(app) if method != "GET"}
    assert {one for one in changing if not RULES[one].doing} == silent
    assert {one for one in RULES if RULES[one].doing} <= changing


@pytest.mark.parametrize("role", [None, *Role], ids=lambda role: role.value if role else "nobody")
def test_each_role_reaches_what_it_may_and_nothing_else(app, studio, role):
    client = app.test_client()
    for endpoint, method, path in addresses(app):
        if endpoint.startswith("api_"):
            continue
        if role is not None:
            let_in(studio, client, app.extensions["names"][role])
        # Someone from another machine: what only this machine may read is refused.
        answer = client.open(path, method=method, environ_base={"REMOTE_ADDR": "203.0.113.7"})
        assert answer.status_code < 500, (endpoint, method)
        assert is_refused(answer) is not expected(endpoint, role), (endpoint, method)


def expected(endpoint, role):
    """Whether a role may use an address that is about nothing that exists."""
    need = RULES[endpoint].need
    if endpoint == "signing.enter":
        # Without a name it refuses by itself; tried elsewhere.
        return False
    if need is Need.NOTHING:
        return True
    if role is None:
        return False
    least = {Need.MACHINE: Role.OWNER, Need.ACCEPT: Role.DESIGNER}.get(need, need.value)
    return role.includes(Role(least))


@pytest.mark.parametrize("role", list(Role), ids=lambda role: role.value)
def test_a_program_may_what_its_person_may(app, studio, role):

    with studio.session() as session:
        who = actor_of(person_named(session, app.extensions["names"][role]))
    with acting(who), studio.session() as session:
        _, token = make_token(session, "nightly check")
    client = app.test_client()
    for endpoint, method, path in addresses(app):
        if not endpoint.startswith("api_"):
            continue
        given = {"headers": {"Authorization": f"Bearer {token}"}, "method": method}
        answer = client.open(path, environ_base={"REMOTE_ADDR": "203.0.113.7"}, **given)
        assert answer.status_code < 500, (endpoint, method)
        assert is_refused(answer) is not expected(endpoint, role), (endpoint, method)
        nobody = client.open(path, method=method, environ_base={"REMOTE_ADDR": "203.0.113.7"})
        assert nobody.status_code == 401, (endpoint, method)


@pytest.mark.parametrize("header", ["Bearer made-up", "Bearer ", "Basic YTpi", "nothing"])
def test_a_token_that_is_none_opens_nothing(app, header):
    client = app.test_client()
    for endpoint, method, path in addresses(app):
        if RULES[endpoint].need is Need.NOTHING:
            continue
        answer = client.open(
            path,
            method=method,
            headers={"Authorization": header},
            environ_base={"REMOTE_ADDR": "203.0.113.7"},
        )
        assert is_refused(answer), (endpoint, method)


def test_reviewers_accept_where_it_is_allowed(app, studio, new_job):

    job_id = new_job()
    client = let_in(studio, app.test_client(), "Cleo Marsh")
    address = f"/jobs/{job_id}/preflight/accept/{_NOWHERE}/density"
    assert client.post(address).status_code == 403
    with studio.session() as session:
        job_with(session, job_id).reviewers_accept = True
    # Now it is only that no reason is given.
    answer = client.post(address)
    assert answer.status_code == 422 and "reason" in answer.text
