"""Who is let in, under which name, and what cannot be meant by a figure or a row."""

import re
from dataclasses import replace

import pytest

from harnet.studio.jobs.jobs import job_with
from harnet.studio.preflight.reviews import make_link
from harnet.web.app import create_app, create_review_app
from tests.support.clients import client_of


@pytest.fixture
def outside(settings):
    """A client of the port that shows review links alone."""
    with client_of(create_review_app(settings)) as client:
        yield client


def link_to(studio, job_id, with_reasons=False):
    with studio.session() as session:
        return make_link(session, job_with(session, job_id), "The client", 7, with_reasons).token


class TestNames:
    @pytest.mark.parametrize("host", ["localhost", "127.0.0.1:8000"])
    def test_of_this_machine(self, client, host):
        assert client.get("/jobs", headers={"Host": host}).status_code == 200

    @pytest.mark.parametrize("host", ["studio.example", "127.0.0.1.example", "localhost.example"])
    def test_of_others_open_nothing(self, client, host):
        for address in ("/jobs", "/api/v1/jobs", "/static/any/harnet.css"):
            answer = client.get(address, headers={"Host": host})
            assert answer.status_code == 400 and "HARNET_HOSTS" in answer.text

    def test_that_were_set(self, settings):
        named = replace(settings, hosts=("harnet.tarnholm.example",))
        with client_of(create_app(named)) as client:
            for host, status in (("harnet.tarnholm.example", 200), ("tarnholm.example", 400)):
                assert client.get("/jobs", headers={"Host": host}).status_code == status


class TestReviewsAlone:
    def test_a_link_is_read_under_any_name(self, outside, studio, new_job):
        token = link_to(studio, new_job(title="Regatta programme"))
        page = outside.get(f"/review/{token}", headers={"Host": "anything.example"})
        assert page.status_code == 200 and "Regatta programme" in page.text
        own = re.findall(r'href="(/[^"]*)"', page.text)
        assert all(address.startswith(("/static/", "/review/")) for address in own)

    @pytest.mark.parametrize(
        "address", ["/", "/jobs", "/pictures", "/api/v1/targets", "/links/job/1", "/review/no-such"]
    )
    def test_nothing_else_is_there(self, outside, new_job, address):
        new_job()
        page = outside.get(address)
        assert page.status_code == 404 and "/jobs" not in page.text

    def test_nothing_can_be_sent(self, outside, studio, new_job):
        token = link_to(studio, new_job())
        assert outside.post(f"/review/{token}", data={"a": "b"}).status_code == 405


def test_a_secret_is_made_once_and_is_nobody_elses(settings):
    with client_of(create_review_app(settings)):
        pass
    [secret] = [one for one in settings.data_folder.iterdir() if one.name.endswith("secret")]
    kept = secret.read_bytes()
    with client_of(create_app(settings)):
        pass
    assert secret.read_bytes() == kept and secret.stat().st_mode & 0o077 == 0


@pytest.mark.parametrize(
    "address",
    [
        "/jobs/{job}/pages?page=1e9&select=99999999999999999999",
        "/jobs/{job}/pages?page=²",
        "/jobs/{job}/pages?select=1,x,-4",
        "/jobs/{job}/ledger?try=nan",
        "/jobs/{job}/ledger?try=1e400",
        "/jobs/99999999999/pages",
        "/jobs/2147483648/pages",
        "/pictures/999999999",
        "/links/job/999999999",
    ],
)
def test_no_address_ends_in_an_error_of_ours(client, new_job, address):
    assert client.get(address.format(job=new_job())).status_code < 500


@pytest.mark.parametrize("text", ["nan", "inf", "1e400", "-1e12", "twelve", "", "1_0", "٣"])
@pytest.mark.parametrize("field", ["x", "width", "density"])
def test_no_figure_ends_in_an_error_of_ours(open_client, new_job, text, field):
    form = {"x": "1", "y": "1", "width": "50", "height": "50", field: text, "items": "1:1"}
    assert open_client.post(f"/jobs/{new_job()}/pages/figures", data=form).status_code in (404, 422)
