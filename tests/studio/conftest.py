"""What tests of the studio share."""

import pytest

from harnet.studio.jobs.jobs import job_with
from harnet.studio.layout.placing import place_picture
from harnet.studio.pictures.picture import picture_with


@pytest.fixture
def laid_out(studio, new_job, on_shelf, make_picture):
    """A job with a tagged JPEG on its first page and an untagged PNG on its second."""
    job_id = new_job(pages=2, bleed_mm=3)
    ids = [
        on_shelf(make_picture("slipway.jpg", dpi=(200, 200))),
        on_shelf(make_picture("gull.png")),
    ]
    with studio.session() as session:
        job = job_with(session, job_id)
        for page, picture_id in zip(job.pages, ids, strict=True):
            place_picture(session, job, page, picture_with(session, picture_id))
    return job_id
