"""What Harnet needs goes away and comes back: each request says so, and nothing is lost."""

import io
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import replace
from threading import Event

import psycopg
import pytest
from PIL import Image

from harnet.store.database import migrate
from harnet.studio.common.settings import Settings
from harnet.studio.jobs.jobs import job_with
from harnet.web.app import create_app
from tests.support.buckets import bucket_server, new_bucket
from tests.support.clients import client_of
from tests.support.databases import new_database


@contextmanager
def superuser(url):
    with psycopg.connect(url.replace("+psycopg", ""), autocommit=True) as link:
        yield link


@pytest.fixture
def read_only(settings):
    """Makes the database take no changes, as one does that is being moved."""
    name = settings.database_url.rpartition("/")[2]

    def make(is_on):
        with superuser(settings.database_url) as link:
            link.execute("set default_transaction_read_only = off")
            link.execute(f"alter database {name} set default_transaction_read_only = {is_on}")
            link.execute(
                "select pg_terminate_backend(pid) from pg_stat_activity"
                " where datname = %s and pid <> pg_backend_pid()",
                (name,),
            )

    yield make
    with superuser(settings.database_url) as link:
        link.execute("set default_transaction_read_only = off")
        link.execute(f"alter database {name} reset default_transaction_read_only")


def title_of(studio, job_id):
    with studio.session() as session:
        return job_with(session, job_id).title


def test_every_connection_is_cut_and_nobody_notices(open_client, settings, new_job):
    job_id = new_job()
    assert open_client.get(f"/jobs/{job_id}/pages").status_code == 200
    with superuser(settings.database_url) as link:
        link.execute(
            "select pg_terminate_backend(pid) from pg_stat_activity"
            " where datname = current_database() and pid <> pg_backend_pid()"
        )
    assert open_client.get(f"/jobs/{job_id}/pages").status_code == 200


def test_a_database_that_takes_no_changes_is_told_and_loses_nothing(
    open_client, studio, new_job, read_only
):
    job_id = new_job("Quay flyer")
    form = {"title": "Another", "unit": "mm", "bleed": "0", "margin": "0"}
    read_only("on")
    answer = open_client.post(f"/jobs/{job_id}/settings", data=form)
    assert answer.status_code == 503 and "takes no changes" in answer.text
    assert answer.headers["Retry-After"] == "5"
    read_only("off")
    assert title_of(studio, job_id) == "Quay flyer"
    assert open_client.post(f"/jobs/{job_id}/settings", data=form).status_code == 302
    assert title_of(studio, job_id) == "Another"


def test_no_connection_to_spare_is_told(open_client, studio):
    engine = open_client.application.extensions["studio"].engine
    engine.pool._timeout = 0.2
    most = engine.pool.size() + engine.pool._max_overflow
    taken = [engine.connect() for _ in range(most)]
    try:
        answer = open_client.get("/jobs")
        assert answer.status_code == 503 and "does not answer" in answer.text
        part = open_client.get("/jobs", headers={"HX-Request": "true"})
        assert part.status_code == 503 and part.headers["HX-Retarget"] == "#notice"
        program = open_client.get("/api/v1/jobs")
        assert (program.status_code, program.json["type"]) == (
            503,
            "urn:harnet:problem:unavailable",
        )
    finally:
        for link in taken:
            link.close()
    assert open_client.get("/jobs").status_code == 200


class TestTheStore:
    @pytest.fixture
    def bucketed(self, tmp_path):
        """A client of a studio in a bucket, and what stops the bucket's server."""
        with new_database("away") as url:
            migrate(url)
            with bucket_server() as address:
                bucket = f"{new_bucket(address)}/harnet"
                settings = Settings(url, tmp_path / "data")
                settings = replace(
                    settings, store_url=bucket, store_endpoint=address, shelves="store"
                )
                with client_of(create_app(settings), needs_token=False) as client:
                    yield client

    def hands_in(self, client, seed):
        data = io.BytesIO()
        Image.new("RGB", (60, 40), (seed, 0, 0)).save(data, "JPEG")
        data.seek(0)
        form = {"file": (data, f"quay {seed}.jpg")}
        return client.post("/pictures/upload", data=form, headers={"Accept": "application/json"})

    def test_away_it_is_told_and_what_was_there_is_there_again(self, bucketed, monkeypatch):
        assert self.hands_in(bucketed, 1).status_code == 200
        files = bucketed.application.extensions["studio"].blobs._files

        def refuses(*_words, **_more):
            raise PermissionError("Slow down")

        for name in ("put_file", "exists", "info", "open"):
            monkeypatch.setattr(files, name, refuses)
        answer = self.hands_in(bucketed, 2)
        assert answer.status_code == 503 and "does not answer" in answer.json["failure"]
        # What is known of the pictures is in the database.
        assert "quay 1.jpg" in bucketed.get("/pictures").text
        monkeypatch.undo()
        page = bucketed.get("/pictures").text
        assert "quay 1.jpg" in page and "quay 2.jpg" not in page
        assert self.hands_in(bucketed, 2).status_code == 200

    def test_what_it_forgets_at_once_is_not_taken_for_kept(self, bucketed, monkeypatch):
        files = bucketed.application.extensions["studio"].blobs._files
        monkeypatch.setattr(files, "put_file", lambda *_words, **_more: None)
        assert self.hands_in(bucketed, 1).status_code == 503
        monkeypatch.undo()
        assert "quay 1.jpg" not in bucketed.get("/pictures").text

    def test_slow_it_keeps_nobody_else_waiting(self, bucketed, monkeypatch):
        """The store answers only once a page has been read meanwhile."""
        files = bucketed.application.extensions["studio"].blobs._files
        put, was_read = files.put_file, Event()

        def slowly(*words, **more):
            assert was_read.wait(60)
            return put(*words, **more)

        monkeypatch.setattr(files, "put_file", slowly)
        other = bucketed.application.test_client()
        with ThreadPoolExecutor(1) as thread:
            upload = thread.submit(self.hands_in, bucketed, 1)
            assert other.get("/pictures").status_code == 200
            was_read.set()
            assert upload.result(60).status_code == 200
        assert "quay 1.jpg" in bucketed.get("/pictures").text
