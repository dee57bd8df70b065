"""Two at once, stale steps of the history, lost tasks, leftovers: nothing is lost or doubled."""

import os
import threading
import time

import pytest
from sqlalchemy import select, text

from harnet.core.output.page_images import ImageSettings
from harnet.store.history import EntryGone, go_to, history_of, recorded
from harnet.store.tables.jobs import Job, Page
from harnet.store.tables.pictures import Picture
from harnet.studio.common.errors import Conflict
from harnet.studio.common.settings import Settings, secret_of
from harnet.studio.jobs.jobs import job_with, set_target
from harnet.studio.output.outputs import ask_for_images, output_with
from harnet.studio.output.task import MAKE_OUTPUT
from harnet.studio.pictures.importing import import_picture
from harnet.studio.pictures.shelves import look_at_shelves, shelf_named
from harnet.studio.tasks.sweeping import sweep
from harnet.studio.tasks.waiting import is_anybody_at_work, without_task
from harnet.studio.tasks.work import cancel_work
from harnet.web.app import create_app
from tests.support.clients import client_of


def at_once(*works):
    """Runs works side by side; what each raised."""
    raised = [None] * len(works)

    def run(place, work):
        try:
            work()
        except Exception as error:
            raised[place] = error

    threads = [threading.Thread(target=run, args=pair) for pair in enumerate(works)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(30)
    return raised


def add_page(studio, job_id):
    def work():
        with studio.session() as session:
            job = job_with(session, job_id)
            with recorded(session, job, "Add a page"):
                # As the Pages view counts: what is there, and one more.
                places = session.scalars(select(Page.position).where(Page.job_id == job.id)).all()
                time.sleep(0.2)
                session.add(Page(job_id=job.id, position=len(places), width_pt=100, height_pt=100))

    return work


def test_two_pages_added_at_once_have_two_numbers(studio, new_job):
    job_id = new_job()
    raised = at_once(*[add_page(studio, job_id)] * 3)
    assert raised == [None] * 3
    with studio.session() as session:
        assert [page.position for page in job_with(session, job_id).pages] == [0, 1, 2, 3]


def test_two_pages_with_one_number_are_a_conflict_and_not_a_fault(studio, new_job):
    job_id = new_job()
    with pytest.raises(Conflict, match="in the meantime"), studio.session() as session:
        session.add(Page(job_id=job_id, position=0, width_pt=100, height_pt=100))
    with studio.session() as session:
        assert len(job_with(session, job_id).pages) == 1


def test_an_upload_and_a_look_at_the_same_folder_make_one_picture(studio, make_picture):
    path = make_picture("quay.jpg")
    with studio.session() as session:
        shelf_named(studio, session, "Tarnholm shelf")

    def upload():
        with studio.session() as session, path.open("rb") as file:
            import_picture(
                studio, session, shelf_named(studio, session, "Tarnholm shelf"), "quay.jpg", file
            )
            time.sleep(0.3)

    assert at_once(upload, lambda: look_at_shelves(studio)) == [None, None]
    with studio.session() as session:
        names = [one.file_name for one in session.scalars(select(Picture))]
    assert names == ["quay.jpg"]


class TestHistory:
    def test_a_step_that_is_not_there_is_told_and_nothing_is_undone(self, studio, new_job):
        job_id, other_id = new_job(), new_job()
        with studio.session() as session:
            set_target(session, job_with(session, other_id), "office")
            [theirs] = history_of(session, job_with(session, other_id))
            job = job_with(session, job_id)
            set_target(session, job, "office")
            for number in (theirs.id, 10**6):
                with pytest.raises(EntryGone):
                    go_to(session, job, number)
            assert job.target["key"] == "office"

    def test_the_page_says_so_instead_of_waiting_for_ever(self, studio, new_job, open_client):
        job_id = new_job()
        answer = open_client.post(f"/jobs/{job_id}/pages/history/99999", data={"page": "1"})
        assert answer.status_code == 409 and "no longer in the history" in answer.text

    def test_it_goes_back_and_forward_in_one_way(self, studio, new_job):
        job_id = new_job()
        with studio.session() as session:
            job = job_with(session, job_id)
            for key in ("office", "screen", "slides"):
                set_target(session, job, key)
            third, second, first = (edit.id for edit in history_of(session, job))
            for number, key in (
                (first, "office"),
                (third, "slides"),
                (0, "coated"),
                (second, "screen"),
            ):
                go_to(session, job, number)
                assert session.get(Job, job_id).target["key"] == key


@pytest.fixture
def open_client(settings):
    with client_of(create_app(settings), needs_token=False) as client:
        yield client


class TestWaiting:
    def test_a_row_without_a_task_is_found(self, studio, laid_out):
        with studio.session() as session:
            output_id = ask_for_images(session, job_with(session, laid_out), ImageSettings()).id
        with studio.session() as session:
            assert without_task(session, [MAKE_OUTPUT]) == [], "its task may be on its way"
            waiting = without_task(session, [MAKE_OUTPUT], settled_seconds=0)
            assert waiting == [(MAKE_OUTPUT, output_id)]
            session.execute(
                text(
                    "insert into procrastinate_jobs (queue_name, task_name, args, status)"
                    " values ('outputs', 'make_output', jsonb_build_object('row_id',"
                    " cast(:id as int)), 'todo')"
                ),
                {"id": output_id},
            )
            assert without_task(session, [MAKE_OUTPUT], settled_seconds=0) == []

    def test_a_cancelled_one_waits_for_nobody(self, studio, laid_out):
        with studio.session() as session:
            output = ask_for_images(session, job_with(session, laid_out), ImageSettings())
            cancel_work(output)
            assert without_task(session, [MAKE_OUTPUT], settled_seconds=0) == []
            assert output_with(session, output.id).state == "cancelled"

    def test_that_nobody_works_is_known(self, studio, laid_out, open_client):
        with studio.session() as session:
            session.execute(text("delete from procrastinate_workers"))
            ask_for_images(session, job_with(session, laid_out), ImageSettings())
        with studio.session() as session:
            assert not is_anybody_at_work(session)
        page = open_client.get(f"/jobs/{laid_out}/output/list").text
        assert "No worker is running" in page


class TestLeftovers:
    def test_bytes_that_nothing_names_go_after_the_grace(
        self, studio, tmp_path, on_shelf, make_picture
    ):
        (tmp_path / "orphan").write_bytes(b"left by a crash")
        sha256 = studio.blobs.put_file(tmp_path / "orphan")
        assert sweep(studio).blobs == 0
        studio.blobs.open(sha256).close()
        assert sweep(studio, grace_seconds=-1).blobs == 1
        with pytest.raises(FileNotFoundError):
            studio.blobs.open(sha256)

    def test_bytes_that_come_in_again_are_young_again(self, studio, tmp_path):
        (tmp_path / "orphan").write_bytes(b"left by a crash")
        sha256 = studio.blobs.put_file(tmp_path / "orphan")
        place = next(studio.settings.data_folder.rglob(sha256))
        os.utime(place, (1, 1))
        studio.blobs.put_file(tmp_path / "orphan")
        assert sweep(studio).blobs == 0

    def test_scratch_of_crashed_work_goes_too(self, studio):
        left = studio.settings.scratch_folder / "left"
        left.mkdir()
        (left / "half").write_bytes(b"x")
        os.utime(left, (1, 1))
        sweep(studio)
        assert not left.exists()


def test_one_secret_for_all_processes_and_nobody_else(tmp_path):
    settings = Settings("postgresql+psycopg://nowhere", tmp_path / "data")
    found = []
    at_once(*[lambda: found.append(secret_of(settings))] * 8)
    assert len(found) == 8 and len(set(found)) == 1 and len(found[0]) == 64
    assert (tmp_path / "data" / "secret").stat().st_mode & 0o777 == 0o600
