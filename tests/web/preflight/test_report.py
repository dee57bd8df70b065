"""The report of a job as it is served: as files, and a long one part by part."""

import re

import pytest

from harnet.studio.jobs.jobs import job_with
from harnet.studio.layout.placing import place_picture
from harnet.studio.pictures.picture import picture_with
from harnet.studio.preflight import report
from harnet.studio.preflight.reviews import make_link


@pytest.fixture
def flyer(studio, new_job, on_shelf, make_picture):
    """A job with five findings and more."""
    job_id, picture_id = new_job(pages=2), on_shelf(make_picture("gull.png", 300, 200))
    with studio.session() as session:
        job = job_with(session, job_id)
        for _ in range(3):
            place_picture(session, job, job.pages[0], picture_with(session, picture_id))
    return job_id


@pytest.mark.parametrize(
    "form, kind, start",
    [
        ("html", "text/html", b"<!doctype html>"),
        ("pdf", "application/pdf", b"%PDF-"),
        ("csv", "text/csv", b"page,"),
        ("json", "application/json", b"{"),
    ],
)
def test_every_form_leaves_as_a_file(client, flyer, form, kind, start):
    answer = client.get(f"/jobs/{flyer}/report/report.{form}")
    assert answer.status_code == 200 and answer.mimetype == kind
    assert answer.data.startswith(start)
    assert answer.headers["Content-Disposition"].startswith("attachment")
    assert f"/report/report.{form}" in client.get(f"/jobs/{flyer}/report").text


def test_parts_follow_each_other_inside_and_behind_a_link(client, studio, flyer, monkeypatch):
    whole = client.get(f"/jobs/{flyer}/report").text
    assert "Parts of the report" not in whole
    count = int(re.search(r"Gate \w+: (\d+) finding", whole).group(1))
    monkeypatch.setattr(report, "A_PART", count - 1)
    with studio.session() as session:
        token = make_link(session, job_with(session, flyer), "Print house", 7).token
    for address in (f"/jobs/{flyer}/report", f"/review/{token}"):
        first, second = client.get(address).text, client.get(f"{address}?part=2").text
        assert "Part 1 of 2" in first and 'rel="next" href="?part=2"' in first
        assert "Part 2 of 2" in second and 'rel="prev" href="?part=1"' in second
        found = [page.count('class="finding report-finding"') for page in (first, second)]
        assert found == [count - 1, 1]
        assert client.get(f"{address}?part=3").status_code == 404
        assert client.get(f"{address}?part=0").status_code == 404
        assert client.get(f"{address}?part=nine").status_code == 200
