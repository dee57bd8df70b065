"""An output whose maker is killed at ten points: never half a file, and whole in the end."""

import os
import signal
import subprocess
import sys
import time

import pytest

from harnet.core.output.page_images import ImageSettings
from harnet.studio.jobs.jobs import job_with
from harnet.studio.layout.placing import place_picture
from harnet.studio.output.outputs import ask_for_images, output_with
from harnet.studio.pictures.picture import picture_with

_MAKE = """
import sys
from harnet.standins.studio import open_studio
from harnet.studio.common.settings import Settings
from harnet.studio.output.task import MAKE_OUTPUT
studio = open_studio(Settings.from_environment())
print("begins", flush=True)
MAKE_OUTPUT.run(studio, row_id=int(sys.argv[1]))
"""
PAGES = 4


@pytest.fixture
def order(studio, new_job, on_shelf, make_picture):
    """Asks for images of four pages again and again."""
    job_id = new_job(pages=PAGES)
    picture_id = on_shelf(make_picture(width=900, height=600))
    with studio.session() as session:
        job = job_with(session, job_id)
        for page in job.pages:
            place_picture(session, job, page, picture_with(session, picture_id))

    def ask():
        with studio.session() as session:
            job = job_with(session, job_id)
            return ask_for_images(session, job, ImageSettings(density_ppi=150)).id

    return ask


def maker(settings, output_id):
    """A process that makes an output, once it has begun."""
    named = {"HARNET_DATABASE": settings.database_url, "HARNET_DATA": str(settings.data_folder)}
    process = subprocess.Popen(
        [sys.executable, "-c", _MAKE, str(output_id)],
        env=os.environ | named,
        stdout=subprocess.PIPE,
        text=True,
        start_new_session=True,
    )
    assert process.stdout.readline() == "begins\n"
    return process


def stored(studio):
    """What lies in the store by its content, and what was begun there."""
    parts = list(studio.settings.data_folder.glob("blobs/**/*.part"))
    return {sha256 for sha256, _ in studio.blobs.older_than(time.time() + 60)}, parts


def test_killed_at_ten_points(settings, studio, order):
    first = order()
    process, begun = maker(settings, first), time.monotonic()
    assert process.wait(120) == 0
    whole_seconds = time.monotonic() - begun
    with studio.session() as session:
        output = output_with(session, first)
        assert output.state == "done" and output.receipt["is_kept"]
    deaths = 0
    for point in range(10):
        output_id = order()
        process = maker(settings, output_id)
        try:
            process.wait(whole_seconds * point / 10)
        except subprocess.TimeoutExpired:
            os.killpg(process.pid, signal.SIGKILL)
            process.wait()
        with studio.session() as session:
            output = output_with(session, output_id)
            if output.state != "done":
                deaths += 1
                assert (output.sha256, output.size_bytes, output.receipt) == (None, None, None)
                assert output.state in ("waiting", "working")
        # Whoever takes it up again makes it from the start.
        assert maker(settings, output_id).wait(120) == 0
        with studio.session() as session:
            output = output_with(session, output_id)
            assert output.state == "done" and output.receipt["is_kept"], point
            assert len(output.receipt["images"]) == PAGES
            with studio.blobs.open(output.sha256) as file:
                assert len(file.read()) == output.size_bytes
    assert deaths >= 5
    kept, parts = stored(studio)
    assert parts == []
    with studio.session() as session:
        named = {output_with(session, number).sha256 for number in range(first, first + 11)}
    assert named <= kept
