"""Watched folders: what a look finds, what it leaves for the next one, and what it tells."""

import shutil
from pathlib import Path

import pytest
from PIL import Image
from sqlalchemy import select

from harnet.core.pictures.rights import Rights
from harnet.media.pixels.previews import preview_name
from harnet.store.history import undo
from harnet.store.tables.pictures import Picture, Shelf
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import job_with
from harnet.studio.layout.placing import place_picture, remove_items
from harnet.studio.pictures import shelves
from harnet.studio.pictures.picture import (
    all_pictures,
    credits_of,
    same_content,
    set_rights,
    state_of,
    uses_of,
)
from harnet.studio.pictures.shelves import (
    look_at_shelves,
    make_waiting_previews,
    shelf_named,
)
from harnet.studio.pictures.watching import stop_watching, watch_folder
from tests.support.pictures import photo


@pytest.fixture
def folder(tmp_path):
    folder = tmp_path / "from the trust"
    folder.mkdir()
    return folder


@pytest.fixture
def watched(studio, folder):
    with studio.session() as session:
        return watch_folder(studio, session, str(folder)).id


def known(studio):
    with studio.session() as session:
        return {picture.file_name: picture for picture in all_pictures(session)}


def put(folder, name, seed=1, **options):
    Image.fromarray(photo(300, 200, seed=seed)).save(folder / name, **options)


def test_pictures_are_known_by_their_headers_at_once_and_previewed_later(studio, folder, watched):
    for seed in range(25):
        put(folder, f"{seed:02}.jpg", seed)
    (look,) = look_at_shelves(studio)
    assert (look.new_count, look.failures) == (25, ())
    picture = known(studio)["07.jpg"]
    assert picture.facts["px_w"] == 300 and not picture.is_previewed
    with pytest.raises(FileNotFoundError):
        studio.blobs.open_preview(preview_name(picture.sha256, "thumb"))
    assert make_waiting_previews(studio) == 25
    assert known(studio)["07.jpg"].is_previewed
    studio.blobs.open_preview(preview_name(picture.sha256, "thumb")).close()
    assert look_at_shelves(studio)[0].new_count == 0
    assert make_waiting_previews(studio) == 0


def test_what_cannot_be_read_is_told_and_the_rest_goes_on(studio, folder, watched):
    put(folder, "good.jpg")
    (folder / "minutes.png").write_text("minutes of the meeting")
    (folder / "empty.tif").touch()
    (look,) = look_at_shelves(studio)
    assert look.new_count == 1
    assert [failure.split(":")[0] for failure in look.failures] == ["empty.tif", "minutes.png"]
    with studio.session() as session:
        assert session.get(Shelf, watched).failures == list(look.failures)


def test_damaged_pixels_behind_a_good_header_are_marked(studio, folder, watched):
    put(folder, "hollow.png")
    data = bytearray((folder / "hollow.png").read_bytes())
    data[len(data) // 2 : len(data) // 2 + 400] = bytes(400)
    (folder / "hollow.png").write_bytes(data)
    look_at_shelves(studio)
    make_waiting_previews(studio)
    assert "cannot be decoded" in known(studio)["hollow.png"].failure


def test_a_folder_that_vanishes_and_comes_back(studio, folder, watched):
    put(folder, "slipway.jpg")
    look_at_shelves(studio)
    away = folder.rename(folder.with_name("away"))
    (look,) = look_at_shelves(studio)
    assert "no longer exists" in look.failures[0] and "stay known" in look.failures[0]
    assert state_of(known(studio)["slipway.jpg"]).value == "missing"
    away.rename(folder)
    (look,) = look_at_shelves(studio)
    assert look.failures == ()
    assert state_of(known(studio)["slipway.jpg"]).value == "in place"


def test_a_file_that_changes_while_it_is_read_waits_for_the_next_look(
    studio, folder, watched, monkeypatch
):
    put(folder, "slipway.jpg")
    honest = shelves.facts_apart

    def growing(path, name):
        facts = honest(path, name)
        with path.open("ab") as file:
            file.write(b"\0")
        return facts

    monkeypatch.setattr(shelves, "facts_apart", growing)
    (look,) = look_at_shelves(studio)
    assert look.new_count == 0 and "it changed while it was read" in look.failures[0]
    monkeypatch.setattr(shelves, "facts_apart", honest)
    assert look_at_shelves(studio)[0].new_count == 1


def test_the_same_content_elsewhere_is_recognised(studio, folder, watched, on_shelf, make_picture):
    path = make_picture()
    first = on_shelf(path)
    shutil.copy(path, folder / "IMG_0412.jpg")
    look_at_shelves(studio)
    with studio.session() as session:
        twins = same_content(session, session.get(Picture, first))
        assert [(twin.file_name, twin.shelf.name) for twin in twins] == [
            ("IMG_0412.jpg", "from the trust")
        ]


@pytest.mark.parametrize(
    "path, why",
    [
        ("", "Give the folder's path"),
        ("pictures", "begin it with /"),
        ("/nowhere/at/all", "There is no folder"),
        ("{data}", "Harnet's own data"),
        ("{data}/shelves", "Harnet's own data"),
        ("/", "Harnet's own data"),
        ("{folder}", "is already watched, as from the trust"),
    ],
)
def test_folders_that_cannot_be_watched(studio, folder, watched, path, why):
    text = path.format(data=studio.settings.data_folder, folder=folder)
    with studio.session() as session, pytest.raises(Refused, match=why):
        watch_folder(studio, session, text)


def test_leaving_a_folder_forgets_its_pictures_and_keeps_its_files(studio, folder, watched):
    put(folder, "slipway.jpg")
    look_at_shelves(studio)
    with studio.session() as session:
        stop_watching(session, session.get(Shelf, watched))
    assert known(studio) == {} and (folder / "slipway.jpg").exists()


def test_a_folder_in_use_stays_watched(studio, folder, watched, new_job):
    put(folder, "slipway.jpg")
    look_at_shelves(studio)
    job_id = new_job()
    with studio.session() as session:
        job = job_with(session, job_id)
        picture = session.scalars(select(Picture)).one()
        place_picture(session, job, job.pages[0], picture)
        set_rights(picture, Rights("CC0-1.0", "I. Varga"))
    with studio.session() as session:
        with pytest.raises(Refused, match="placed 1 times"):
            stop_watching(session, session.get(Shelf, watched))
        (use,) = uses_of(session, [picture.id])
        assert (use.job_title, use.page_number, use.times) == ("Quay flyer", 1, 1)
        (credit,) = credits_of(job_with(session, job_id))
        assert (credit.rights.credit, credit.page_numbers) == ("I. Varga", (1,))


def test_a_folder_that_an_undo_may_want_stays_watched(studio, folder, watched, new_job):
    put(folder, "slipway.jpg")
    look_at_shelves(studio)
    job_id = new_job()
    with studio.session() as session:
        job = job_with(session, job_id)
        picture = session.scalars(select(Picture)).one()
        item = place_picture(session, job, job.pages[0], picture)
        remove_items(session, job, [item])
    with studio.session() as session:
        with pytest.raises(Refused, match="in the history of a job"):
            stop_watching(session, session.get(Shelf, watched))
        assert undo(session, job_with(session, job_id)).label == "Remove slipway.jpg"


def test_harnets_own_shelf_stays(studio):
    with studio.session() as session:
        shelf = shelf_named(studio, session, "My pictures")
        assert Path(shelf.folder).is_dir()
        with pytest.raises(Refused, match="Harnet's own shelves"):
            stop_watching(session, shelf)
