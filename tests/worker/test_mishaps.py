"""Long work and what may befall it: a worker killed, the database or the web gone for a while.

Workers here are processes of their own, as they are when Harnet runs.
"""

import os
import signal
import subprocess
import sys
import time
from contextlib import contextmanager

import pytest
from sqlalchemy import text

from harnet.core.output.page_images import ImageSettings
from harnet.studio.jobs.jobs import job_with
from harnet.studio.layout.placing import place_picture
from harnet.studio.output.outputs import ask_for_images, output_with
from harnet.studio.pictures.picture import picture_with
from harnet.worker.tasks import queue_on

PATIENCE_SECONDS = 120


@contextmanager
def worker(settings):
    """A worker; ended on leaving, however it stands."""
    environment = os.environ | {
        "HARNET_DATABASE": settings.database_url,
        "HARNET_DATA": str(settings.data_folder),
    }
    process = subprocess.Popen([sys.executable, "-m", "harnet.worker.main"], env=environment)
    try:
        yield process
    finally:
        if process.poll() is None:
            process.terminate()
            try:
                process.wait(20)
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait()


def until(settings_desk, output_id, is_reached):
    """The output once it is as wanted."""
    end = time.monotonic() + PATIENCE_SECONDS
    while time.monotonic() < end:
        with settings_desk.session() as session:
            output = output_with(session, output_id)
            if is_reached(output):
                return output
        time.sleep(0.05)
    raise AssertionError(f"the output is still {output.state}, {output.steps_done} pages")


@pytest.fixture
def order(settings, studio, new_job, on_shelf, make_picture):
    """An order of twelve page images, which takes some seconds."""
    job_id = new_job(pages=12)
    picture_id = on_shelf(make_picture(width=1500, height=1000))
    with studio.session() as session:
        job = job_with(session, job_id)
        for page in job.pages:
            place_picture(session, job, page, picture_with(session, picture_id))
        output_id = ask_for_images(session, job, ImageSettings()).id
    with queue_on(settings).open() as queue:
        queue.configure_task("make_output", queue="outputs").defer(row_id=output_id)
    return output_id


def is_whole(studio, output):
    with studio.blobs.open(output.sha256) as file:
        size = len(file.read())
    images = output.receipt["images"]
    return size == output.size_bytes and len(images) == 12 and output.receipt["is_kept"]


def test_a_worker_killed_in_the_middle_leaves_nothing_half_and_another_finishes(
    settings, studio, order
):
    with worker(settings) as first:
        until(studio, order, lambda output: output.steps_done >= 2)
        first.send_signal(signal.SIGKILL)
        first.wait()
    with studio.session() as session:
        output = output_with(session, order)
        assert (output.state, output.sha256, output.receipt) == ("working", None, None)
    with studio.engine.begin() as connection:
        # As if half a minute had gone by without a sign of life.
        connection.execute(
            text("update procrastinate_workers set last_heartbeat = now() - interval '1 minute'")
        )
    with worker(settings):
        output = until(studio, order, lambda output: output.state not in ("waiting", "working"))
    assert output.state == "done" and is_whole(studio, output)


def test_a_restart_of_the_database_in_the_middle_is_outlasted(settings, studio, order):
    with worker(settings) as process:
        until(studio, order, lambda output: output.steps_done >= 2)
        with studio.engine.connect() as connection:
            # What a restart does to its clients: every connection but this one ends at once.
            ended = connection.execute(
                text(
                    "select count(pg_terminate_backend(pid)) from pg_stat_activity"
                    " where datname = current_database() and pid <> pg_backend_pid()"
                )
            ).scalar_one()
        studio.engine.dispose()
        assert ended > 0
        output = until(studio, order, lambda output: output.state not in ("waiting", "working"))
        assert output.state == "done" and is_whole(studio, output)
        # The same worker goes on with what comes next.
        with studio.session() as session:
            job = job_with(session, output.job_id)
            other = ask_for_images(session, job, ImageSettings(pages="1", density_ppi=72)).id
        with queue_on(settings).open() as queue:
            queue.configure_task("make_output", queue="outputs").defer(row_id=other)
        assert until(studio, other, lambda one: one.state == "done").receipt["is_kept"]
        assert process.poll() is None


def test_work_goes_on_while_the_web_is_away(settings, studio, order):
    """The order was written by a process that is gone: nothing of it stood in its memory."""
    studio.engine.dispose()
    with worker(settings):
        output = until(studio, order, lambda output: output.state not in ("waiting", "working"))
    assert output.state == "done" and is_whole(studio, output)
