"""The list of jobs, page by page."""

import pytest

from harnet.studio.jobs.jobs import job_with
from harnet.studio.jobs.listing import JobStatus, counts_by_status, jobs_that_are, put, status_of


@pytest.fixture
def many(new_job):
    """95 jobs."""
    return [new_job(f"Flyer {number:02}") for number in range(95)]


def test_forty_at_a_time_the_one_edited_last_first(open_client, many):
    first = open_client.get("/jobs").text
    assert first.count("job-title") == 40 and "Flyer 94" in first and "Flyer 55" in first
    assert "1 of 3" in first and "Earlier" in first and "Later" not in first
    last = open_client.get("/jobs?page=3").text
    assert last.count("job-title") == 15 and "Flyer 00" in last and "Earlier" not in last
    # A page that there is not is the last one.
    assert "3 of 3" in open_client.get("/jobs?page=99").text
    assert "1 of 3" in open_client.get("/jobs?page=x").text


def test_counts_and_lists_agree_with_how_each_stands(studio, many):
    with studio.session() as session:
        put(job_with(session, many[0]), JobStatus.ARCHIVED)
        put(job_with(session, many[1]), JobStatus.DELETED)
    with studio.session() as session:
        counts = counts_by_status(session)
        assert counts == {JobStatus.OPEN: 93, JobStatus.ARCHIVED: 1, JobStatus.DELETED: 1}
        for status in JobStatus:
            jobs = jobs_that_are(session, status)
            assert len(jobs) == counts[status] and {status_of(job) for job in jobs} == {status}
