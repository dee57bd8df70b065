"""A web process killed around a commit: the edit is there whole with its history, or not at all."""

import os
import subprocess
import sys

import pytest
from sqlalchemy import select

from harnet.store.history import undo
from harnet.store.tables.jobs import Edit, Item
from harnet.studio.jobs.jobs import job_with
from harnet.studio.layout.placing import place_picture
from harnet.studio.pictures.picture import picture_with

_SERVE = """
import os, signal, sys
from sqlalchemy import event
from sqlalchemy.orm import Session
from harnet.store.history import LABELS
from harnet.studio.common.settings import Settings
from harnet.web.app import create_app

@event.listens_for(Session, sys.argv[1])
def die(session):
    if session.info.get(LABELS):
        os.kill(os.getpid(), signal.SIGKILL)

app = create_app(Settings.from_environment())
app.config["WTF_CSRF_ENABLED"] = False
form = {"items": sys.argv[3] + ":1", "kind": "move", "dx": "9", "dy": "0", "page": "1"}
app.test_client().post(f"/jobs/{sys.argv[2]}/pages/gesture", data=form)
"""


@pytest.fixture
def placed(studio, new_job, on_shelf, make_picture):
    """A job with a picture: its number, the item's, and where the item is."""
    job_id, picture_id = new_job(), on_shelf(make_picture("gull.jpg"))
    with studio.session() as session:
        job = job_with(session, job_id)
        item = place_picture(session, job, job.pages[0], picture_with(session, picture_id))
        return job_id, item.id, item.x_pt


@pytest.mark.parametrize("moment", ["before_commit", "after_commit"])
def test_killed_just_before_and_just_after(settings, studio, open_client, placed, moment):
    job_id, item_id, was_pt = placed
    named = {"HARNET_DATABASE": settings.database_url, "HARNET_DATA": str(settings.data_folder)}
    words = [sys.executable, "-c", _SERVE, moment, str(job_id), str(item_id)]
    run = subprocess.run(words, env=os.environ | named, check=False, timeout=120)
    assert run.returncode == -9
    is_kept = moment == "after_commit"
    with studio.session() as session:
        item = session.get(Item, item_id)
        assert item.x_pt == pytest.approx(was_pt + (9 if is_kept else 0))
        edits = session.scalars(select(Edit).where(Edit.job_id == job_id)).all()
        assert len(edits) == (2 if is_kept else 1)
    # Whoever heard nothing sends it again: made once already it is a conflict, else it is made.
    form = {"items": f"{item_id}:1", "kind": "move", "dx": "9", "dy": "0", "page": "1"}
    again = open_client.post(f"/jobs/{job_id}/pages/gesture", data=form)
    assert again.status_code == (409 if is_kept else 200)
    with studio.session() as session:
        assert session.get(Item, item_id).x_pt == pytest.approx(was_pt + 9)
        undo(session, job_with(session, job_id))
        assert session.get(Item, item_id).x_pt == pytest.approx(was_pt)
