"""Findings with another target: what would be is what is, once the job has that target."""

import pytest

from harnet.store.history import history_of
from harnet.studio.jobs.jobs import job_with, set_target
from harnet.studio.judging.judging import settle
from harnet.studio.layout.placing import place_picture
from harnet.studio.pictures.picture import picture_with
from harnet.studio.preflight.checking import accept, counts_of, findings_in
from harnet.studio.preflight.trying import FindingsUnder, findings_under
from harnet.studio.targets.targets import target_with


@pytest.fixture
def job(studio, new_job, on_shelf, make_picture):
    """A job of three pictures at 60, 160 and 260 ppi."""
    ids = [on_shelf(make_picture(f"{ppi}.jpg", seed=ppi, dpi=(ppi, ppi))) for ppi in (60, 160, 260)]
    job_id = new_job(pages=3, width=400, height=400)
    with studio.session() as session:
        job = job_with(session, job_id)
        for page, number in zip(job.pages, ids, strict=True):
            place_picture(session, job, page, picture_with(session, number))
        settle(session)
        yield session, job


@pytest.mark.parametrize("key", ["coated", "newsprint", "office", "slides", "screen"])
def test_what_would_be_is_what_comes(job, key):
    session, job = job
    steps = len(history_of(session, job))
    would = findings_under(session, job, target_with(session, key))
    assert len(history_of(session, job)) == steps
    set_target(session, job, key)
    settle(session)
    counts = counts_of(job)
    assert would == FindingsUnder(counts.open_findings, counts.blocking)


def test_what_was_accepted_counts_no_more(job):
    session, job = job
    coated = target_with(session, "coated")
    before = findings_under(session, job, coated)
    first = findings_in(session, job)[0].row
    accept(session, job, first.item_id, first.rule_id, "A dummy", "I. Varga")
    after = findings_under(session, job, coated)
    assert after.open_count == before.open_count - 1
