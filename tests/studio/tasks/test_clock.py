"""A clock set while the studio works: nothing new is cleared as old, nothing waits for ever."""

import os
import time
from datetime import timedelta
from types import SimpleNamespace

import pytest

from harnet.core.output.page_images import ImageSettings
from harnet.store import base
from harnet.studio.jobs.jobs import job_with
from harnet.studio.output.outputs import ask_for_images, output_with
from harnet.studio.output.task import MAKE_OUTPUT, make_output
from harnet.studio.running.figures import work_figures
from harnet.studio.tasks import clock, waiting
from harnet.studio.tasks.clock import Clock
from harnet.studio.tasks.waiting import without_task
from harnet.worker import rounds


@pytest.fixture
def set_clock(monkeypatch):
    """Sets the clock that the worker's hour goes by, so many seconds forward or back."""

    def to(seconds):
        own = SimpleNamespace(time=lambda: time.time() + seconds, monotonic=time.monotonic)
        monkeypatch.setattr(clock, "time", own)

    return to


def test_what_was_set_is_told_once(set_clock):
    own = Clock()
    assert not own.was_set()
    set_clock(30)
    assert not own.was_set(), "as a clock is put right now and then"
    set_clock(3 * 24 * 3600)
    assert own.was_set()
    assert not own.was_set()
    set_clock(0)
    assert own.was_set()


def test_bytes_on_their_way_outlive_a_clock_set_forward(studio, tmp_path, set_clock, monkeypatch):
    """Kept a moment before, named by a row a moment later: in between they look three days old."""
    monkeypatch.setattr(rounds, "_CLOCK", Clock())
    (tmp_path / "upload").write_bytes(b"a picture whose row is not yet written")
    sha256 = studio.blobs.put_file(tmp_path / "upload")
    place = next(studio.settings.data_folder.rglob(sha256))
    days_ago = time.time() - 3 * 24 * 3600
    os.utime(place, (days_ago, days_ago))
    set_clock(3 * 24 * 3600)
    rounds.clear(studio)
    studio.blobs.open(sha256).close()
    # An hour later no row has come: it is what it looks like.
    rounds.clear(studio)
    with pytest.raises(FileNotFoundError):
        studio.blobs.open(sha256)


@pytest.mark.parametrize("by", [timedelta(days=400), timedelta(days=-400)])
def test_work_is_done_whatever_the_clock_says(studio, laid_out, monkeypatch, by):
    with studio.session() as session:
        output_id = ask_for_images(session, job_with(session, laid_out), ImageSettings()).id
    # From now on it is another year.
    monkeypatch.setattr(waiting, "now_utc", lambda: base.now_utc() + by)
    with studio.session() as session:
        assert without_task(session, [MAKE_OUTPUT]) == [(MAKE_OUTPUT, output_id)]
    make_output(studio, output_id)
    with studio.session() as session:
        assert output_with(session, output_id).state == "done"


def test_nothing_waits_for_less_than_no_time(studio, laid_out, monkeypatch):
    with studio.session() as session:
        ask_for_images(session, job_with(session, laid_out), ImageSettings())
    monkeypatch.setattr(
        "harnet.studio.running.figures.now_utc", lambda: base.now_utc() - timedelta(hours=2)
    )
    with studio.session() as session:
        ages = [one.oldest_seconds for one in work_figures(session)]
    assert min(ages) >= 0
