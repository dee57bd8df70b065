"""Findings in the unit of who reads them."""

import re

import pytest

from harnet.core.measure.units import Unit
from harnet.store.tables.preflight import FindingRow
from harnet.studio.jobs.jobs import job_with, page_of
from harnet.studio.layout.placing import place_picture
from harnet.studio.pictures.picture import picture_with
from harnet.studio.preflight.checking import findings_in
from harnet.studio.preflight.report import report_of
from harnet.studio.preflight.speaking import spoken_in


@pytest.fixture
def poor(studio, new_job, on_shelf, make_picture):
    """A session and a job in millimetres with a picture of 100 ppi."""
    job_id = new_job(title="Spoken")
    picture_id = on_shelf(make_picture(width=300, height=200, dpi=(100, 100)))
    with studio.session() as session:
        job = job_with(session, job_id)
        place_picture(session, job, page_of(job, 1), picture_with(session, picture_id))
    with studio.session() as session:
        yield session, job_with(session, job_id)


def short_of(found):
    return next(one for one in found if "short of" in one.row.headline)


def test_lengths_are_said_in_inches_and_kept_in_the_jobs_unit(poor):
    session, job = poor
    kept = short_of(findings_in(session, job))
    said = short_of(spoken_in(job, findings_in(session, job), Unit.INCH))
    # 300 × 200 px at 100 ppi: 76.2 × 50.8 mm, 3 × 2 in.
    assert re.search(r"100 ppi at 76(\.2)? × 5[01](\.8)? mm", kept.row.sentence)
    assert "100 ppi at 3 × 2 in." in said.row.sentence
    assert "mm" not in said.row.sentence
    assert said.row.headline == kept.row.headline and said.severity is kept.severity
    session.expire_all()
    again = session.get(FindingRow, kept.row.id)
    assert again.sentence == short_of(findings_in(session, job)).row.sentence
    assert " in." not in again.sentence


def test_the_report_speaks_one_unit_throughout(poor):
    session, job = poor
    report = report_of(session, job, unit=Unit.INCH)
    assert "at 3 × 2 in." in short_of(report.findings).row.sentence
    assert short_of(report_of(session, job).findings).row.sentence.count("mm") >= 1


def test_in_its_own_unit_nothing_is_said_again(poor):
    session, job = poor
    found = findings_in(session, job)
    assert [one.row for one in spoken_in(job, found, Unit.MM)] == [one.row for one in found]
