"""Samples: what they show, and that nothing of them stays."""

from sqlalchemy import select

from harnet.core.measure.verdict import Verdict
from harnet.core.targets.values import target_from_values
from harnet.store.tables.documents import Document
from harnet.studio.documents.check import check_document
from harnet.studio.jobs.jobs import target_of
from harnet.studio.jobs.listing import JobStatus, jobs_that_are
from harnet.studio.layout.placed import placed_from
from harnet.studio.samples.samples import (
    has_samples,
    sample_document,
    sample_job,
    sample_pictures,
    throw_samples_away,
)


def test_the_job_has_a_good_a_bad_and_a_near_picture(studio):
    with studio.session() as session:
        job = sample_job(studio, session)
        placed = [placed_from(item, 1, target_of(job)) for item in job.pages[0].items]
        assert [one.figures.verdict for one in placed] == [
            Verdict.FULL,
            Verdict.COARSE,
            Verdict.NEAR,
        ]


def test_the_pictures_are_there_once(studio):
    with studio.session() as session:
        first = [one.id for one in sample_pictures(studio, session)]
        assert [one.id for one in sample_pictures(studio, session)] == first
        assert len(set(first)) == 3


def test_the_pdf_has_three_images_of_which_one_is_coarse(studio, tmp_path):
    with studio.session() as session:
        document = sample_document(studio, session)
        path = tmp_path / "sample.pdf"
        studio.blobs.copy_to(document.sha256, path)
        target = document.target
    assert target["key"] == "coated"
    found = check_document(path, "sample.pdf", target_from_values(target))
    assert found.summary["coarse"] == 1 and sum(found.summary.values()) == 3


def test_nothing_of_them_stays(studio):
    with studio.session() as session:
        assert not has_samples(session)
        sample_job(studio, session)
        sample_document(studio, session)
        assert has_samples(session)
    with studio.session() as session:
        throw_samples_away(studio, session)
    with studio.session() as session:
        assert not has_samples(session)
        assert jobs_that_are(session, JobStatus.OPEN) == []
        assert session.scalars(select(Document)).all() == []
        [deleted] = jobs_that_are(session, JobStatus.DELETED)
        assert deleted.title == "Sample flyer"
