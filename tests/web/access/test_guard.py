"""Who is let in: this machine before there are people, then people by sign-in."""

import re
from dataclasses import replace

import pytest

from harnet.store.acting import actor
from harnet.store.tables.people import Person
from harnet.studio.people.people import add_person, disable, person_named
from harnet.studio.people.roles import Role
from harnet.studio.people.tokens import make_token
from harnet.web.app import create_app
from tests.support.clients import client_of
from tests.support.people import PASSWORD, let_in, people_of

ELSEWHERE = {"REMOTE_ADDR": "203.0.113.7"}


class TestBeforeThereArePeople:
    def test_this_machine_is_asked_nothing(self, client):
        assert client.get("/jobs").status_code == 200
        assert "People" in client.get("/jobs").text

    def test_no_other_machine_is_answered(self, client):
        answer = client.get("/jobs", environ_base=ELSEWHERE)
        assert answer.status_code == 403
        assert "harnet person add NAME --owner" in answer.text

    def test_nor_one_that_a_proxy_passes_on(self, client):
        answer = client.get("/jobs", headers={"X-Forwarded-For": "203.0.113.7"})
        assert answer.status_code == 403

    def test_but_whether_it_is_alive(self, client):
        assert client.get("/health/live", environ_base=ELSEWHERE).status_code == 200

    def test_its_figures_are_for_this_machine(self, client):
        answer = client.get("/metrics")
        assert answer.status_code == 200 and "harnet_requests_total" in answer.text
        assert client.get("/metrics", environ_base=ELSEWHERE).status_code == 403


@pytest.fixture
def names(studio):
    return people_of(studio)


class TestOnceThereArePeople:
    def test_a_page_leads_to_the_sign_in_and_back(self, client, names):
        answer = client.get("/jobs?status=archived")
        assert answer.status_code == 302
        assert answer.headers["Location"] == "/sign-in?next=/jobs?status%3Darchived"

    def test_a_part_of_a_page_has_the_whole_page_led_there(self, open_client, names):
        answer = open_client.post(
            "/jobs/1/pages/gesture",
            headers={
                "HX-Request": "true",
                "HX-Current-URL": "http://localhost/jobs/1/pages?page=2",
            },
        )
        assert answer.status_code == 401
        assert answer.headers["HX-Redirect"] == "/sign-in?next=/jobs/1/pages?page%3D2"

    def test_what_reviewers_may_not_is_said(self, open_client, studio, names):
        let_in(studio, open_client, names[Role.REVIEWER])
        answer = open_client.post("/jobs/new", headers={"HX-Request": "true"})
        assert answer.status_code == 403 and "ask a designer" in answer.text

    def test_somebody_disabled_is_out_at_once(self, client, studio, names):
        let_in(studio, client, names[Role.DESIGNER])
        assert client.get("/jobs").status_code == 200
        with studio.session() as session:
            disable(session, person_named(session, names[Role.DESIGNER]))
        assert client.get("/jobs").status_code == 302

    def test_a_password_by_somebody_else_is_changed_first(self, client, studio, names):
        with studio.session() as session:
            add_person(session, "Dag Holm", Role.DESIGNER, PASSWORD)
        let_in(studio, client, "Dag Holm")
        assert client.get("/jobs").headers["Location"] == "/account"
        assert "Choose your own password" in client.get("/account").text

    def test_a_token_from_before_belongs_to_nobody(self, client, studio, names):
        with studio.session() as session:
            _, token = make_token(session, "old")
        answer = client.get("/api/v1/jobs", headers={"Authorization": f"Bearer {token}"})
        assert answer.status_code == 403 and "belongs to nobody" in answer.json["detail"]

    def test_a_review_link_is_read_without_an_account_and_leads_nowhere_else(
        self, open_client, studio, names, new_job
    ):
        job_id = new_job("Quay flyer")
        let_in(studio, open_client, names[Role.DESIGNER])
        open_client.post(f"/links/job/{job_id}", data={"label": "the trust", "days": 7})
        address = re.search(r"/review/[\w-]+", open_client.get(f"/links/job/{job_id}").text)[0]
        outside = open_client.application.test_client()
        page = outside.get(address, environ_base=ELSEWHERE)
        assert page.status_code == 200 and "Quay flyer" in page.text
        for href in re.findall(r'href="(/[^"]*)"', page.text):
            answer = outside.get(href, environ_base=ELSEWHERE)
            assert answer.status_code == 200, href
            assert href.startswith(("/static/", "/review/")), href
        assert outside.get(f"/jobs/{job_id}/pages", environ_base=ELSEWHERE).status_code == 302

    def test_nobody_acts_once_a_request_is_over(self, client, studio, names):
        let_in(studio, client, names[Role.OWNER])
        client.get("/jobs")
        assert actor().name == ""


def test_behind_a_proxy_its_word_is_taken_and_cookies_need_tls(settings, studio):
    people_of(studio)
    with client_of(create_app(replace(settings, proxies=1)), needs_token=False) as client:
        passed = {"X-Forwarded-For": "203.0.113.7", "X-Forwarded-Proto": "https"}
        form = {"name": "ada lind", "password": PASSWORD}
        answer = client.post("/sign-in", data=form, headers=passed)
        assert answer.status_code == 302
        cookie = answer.headers["Set-Cookie"]
        assert "; Secure" in cookie and "; HttpOnly" in cookie and "; SameSite=Lax" in cookie
    with studio.session() as session:
        found = session.get(Person, person_named(session, "Ada Lind").id)
        assert found is not None


def test_nobody_signs_in_over_a_connection_that_others_can_read(settings, studio):
    people_of(studio)
    hosts = (*settings.hosts, "studio.example")
    with client_of(create_app(replace(settings, hosts=hosts)), needs_token=False) as client:
        form = {"name": "Ada Lind", "password": PASSWORD}
        answer = client.post("/sign-in", data=form, base_url="http://studio.example")
        assert answer.status_code == 403 and "https" in answer.text
