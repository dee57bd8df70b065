"""A small disk that is full: at an upload, a preview, an output and a backup."""

import os
import subprocess
from dataclasses import replace

import pytest
from sqlalchemy import func, select

from harnet.core.output.page_images import ImageSettings
from harnet.media.errors import UnreadableFile
from harnet.standins.studio import open_studio
from harnet.store.tables.pictures import Picture
from harnet.studio.jobs.jobs import NewJob, job_with, make_job
from harnet.studio.layout.placing import place_picture
from harnet.studio.output.outputs import ask_for_images, output_with
from harnet.studio.output.task import make_output
from harnet.studio.pictures.importing import import_picture
from harnet.studio.pictures.picture import picture_with
from harnet.studio.pictures.shelves import shelf_named
from harnet.studio.running.backup import BackupRefused, back_up

_SIZE_BYTES = 150_000_000


@pytest.fixture
def small_disk(tmp_path):
    """A file system of its own with little room; a folder in it."""
    folder = tmp_path / "small"
    folder.mkdir()
    words = ["mount", "-t", "tmpfs", "-o", f"size={_SIZE_BYTES}", "tmpfs", str(folder)]
    if os.getuid() != 0 or subprocess.run(words, check=False, capture_output=True).returncode:
        pytest.skip("no file system can be mounted here")
    yield folder
    subprocess.run(["umount", "-l", str(folder)], check=True)


@pytest.fixture
def on_it(settings, small_disk):
    """The studio with its data on the small disk."""
    studio = open_studio(replace(settings, data_folder=small_disk / "data"))
    yield studio
    studio.engine.dispose()


def fill(folder, left_bytes):
    """Takes all but so many bytes of a disk; the file that takes them."""
    ballast = folder / "ballast"
    found = os.statvfs(folder)
    with ballast.open("wb") as file:
        file.write(bytes(max(0, found.f_bavail * found.f_frsize - left_bytes)))
    return ballast


def hand_in(studio, path):
    with studio.session() as session, path.open("rb") as file:
        return import_picture(
            studio, session, shelf_named(studio, session, "Quay"), path.name, file
        ).id


def pictures(studio):
    with studio.session() as session:
        return session.scalar(select(func.count()).select_from(Picture))


@pytest.mark.parametrize("left_bytes", [100_000, 900_000])
def test_an_upload_and_its_previews(on_it, small_disk, make_picture, left_bytes):
    """With a little more room the file itself fits, and its previews do not."""
    path = make_picture("gull.png", width=800, height=500)
    assert path.stat().st_size > 700_000
    hand_in(on_it, make_picture("lamp.jpg"))
    ballast = fill(small_disk, left_bytes)
    with pytest.raises((UnreadableFile, OSError)) as told:
        hand_in(on_it, path)
    assert "space" in str(told.value).lower() or "gull.png" in str(told.value)
    assert pictures(on_it) == 1
    quay = small_disk / "data" / "shelves" / "Quay"
    assert [one.name for one in quay.iterdir()] == ["lamp.jpg"]
    ballast.unlink()
    hand_in(on_it, path)
    assert pictures(on_it) == 2


def test_an_output(on_it, small_disk, make_picture):
    picture_id = hand_in(on_it, make_picture("lamp.jpg", width=900, height=600))
    with on_it.session() as session:
        job = make_job(session, NewJob.measured("Quay flyer", 210, 297))
        place_picture(session, job, job.pages[0], picture_with(session, picture_id))
        job_id = job.id
    with on_it.session() as session:
        output_id = ask_for_images(session, job_with(session, job_id), ImageSettings()).id
    ballast = fill(small_disk, 60_000)
    make_output(on_it, output_id)
    with on_it.session() as session:
        output = output_with(session, output_id)
        assert (output.state, output.sha256) == ("failed", None)
        assert "space" in output.failure or "full" in output.failure
    assert list((small_disk / "data" / "scratch").iterdir()) == []
    ballast.unlink()
    with on_it.session() as session:
        output_id = ask_for_images(session, job_with(session, job_id), ImageSettings()).id
    make_output(on_it, output_id)
    with on_it.session() as session:
        assert output_with(session, output_id).receipt["is_kept"]


def test_a_backup(on_it, studio, small_disk, make_picture):
    hand_in(on_it, make_picture("lamp.jpg", width=900, height=600))
    ballast = fill(small_disk, 50_000)
    with pytest.raises(BackupRefused, match=r"[Nn]o space left"):
        back_up(on_it.settings, small_disk / "backup")
    ballast.unlink()
    assert back_up(on_it.settings, small_disk / "another").files >= 1
