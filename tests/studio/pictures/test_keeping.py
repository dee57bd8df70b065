"""Order on Harnet's own shelves: nothing that is placed is ever lost."""

import pytest

from harnet.core.preflight.subject import FileState
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import job_with
from harnet.studio.layout.matching import candidates_for
from harnet.studio.layout.placing import place_picture
from harnet.studio.pictures.keeping import (
    move_picture,
    new_shelf,
    remove_picture,
    remove_shelf,
    rename_shelf,
)
from harnet.studio.pictures.picture import (
    latest_pictures,
    names_told_apart,
    path_of,
    picture_with,
    state_of,
)
from harnet.studio.pictures.shelves import (
    DEFAULT_SHELF,
    import_folder,
    shelf_named,
    shelf_with,
)
from harnet.studio.pictures.watching import watch_folder


@pytest.fixture
def picture_id(on_shelf, make_picture):
    return on_shelf(make_picture("gull.jpg"))


def test_a_picture_moves_with_its_file_and_stays_placed(studio, new_job, picture_id):
    job_id = new_job()
    with studio.session() as session:
        picture = picture_with(session, picture_id)
        job = job_with(session, job_id)
        item = place_picture(session, job, job.pages[0], picture)
        old = path_of(picture)
        move_picture(session, picture, new_shelf(studio, session, "Autumn leaflet"))
        assert not old.exists() and path_of(picture).exists()
        assert path_of(picture).parent.name == "Autumn leaflet"
        assert state_of(item.picture) is FileState.IN_PLACE


def test_a_name_that_is_taken_gets_a_number(studio, on_shelf, make_picture, picture_id):
    with studio.session() as session:
        shelf = new_shelf(studio, session, "Autumn leaflet")
        move_picture(session, picture_with(session, picture_id), shelf)
        shelf_id = shelf.id
    other_id = on_shelf(make_picture("gull.jpg", seed=5))
    with studio.session() as session:
        other = picture_with(session, other_id)
        move_picture(session, other, shelf_with(session, shelf_id))
        assert other.file_name == "gull 2.jpg" and path_of(other).exists()


def test_removed_it_is_offered_nowhere_and_comes_back(
    studio, new_job, picture_id, on_shelf, make_picture
):
    other_id = on_shelf(make_picture("other.jpg", seed=3))
    job_id = new_job()
    with studio.session() as session:
        job, picture = job_with(session, job_id), picture_with(session, picture_id)
        item = place_picture(session, job, job.pages[0], picture_with(session, other_id))
        offered = [one.picture.id for one in candidates_for(session, job, item, True)]
        assert offered == [picture_id]
        before = remove_picture(studio, session, picture)
        session.flush()
        assert picture_id not in [one.id for one in latest_pictures(session, 10)]
        assert candidates_for(session, job, item, True) == []
        move_picture(session, picture, before)
        assert path_of(picture).exists() and picture.shelf is before


def test_shelves_are_named_renamed_and_removed_when_empty(studio, picture_id):
    with studio.session() as session:
        shelf = new_shelf(studio, session, "Autumn")
        with pytest.raises(Refused, match="named autumn already"):
            new_shelf(studio, session, " autumn ")
        with pytest.raises(Refused, match="Give the shelf a name"):
            new_shelf(studio, session, "  ")
        rename_shelf(session, shelf, "Winter")
        move_picture(session, picture_with(session, picture_id), shelf)
        session.flush()
        session.expire_all()
        with pytest.raises(Refused, match="still holds pictures"):
            remove_shelf(session, shelf)
        remove_picture(studio, session, picture_with(session, picture_id))
        session.flush()
        session.expire_all()
        remove_shelf(session, shelf)
        usual = shelf_named(studio, session, DEFAULT_SHELF)
        for refused in (
            lambda: rename_shelf(session, usual, "X"),
            lambda: remove_shelf(session, usual),
        ):
            with pytest.raises(Refused, match="always there"):
                refused()


class TestFoldersInside:
    def test_are_read_and_tell_equal_names_apart(self, studio, tmp_path, make_picture):
        folder = tmp_path / "trust"
        for inner, seed in (("", 1), ("1931", 2), ("1931/boats", 3), (".hidden", 4)):
            (folder / inner).mkdir(parents=True, exist_ok=True)
            make_picture("one.jpg", seed=seed).rename(folder / inner / "gull.jpg")
        (folder / "circle").symlink_to(folder)
        with studio.session() as session:
            shelf = watch_folder(studio, session, str(folder))
            assert import_folder(session, shelf) == []
            names = sorted(picture.file_name for picture in shelf.pictures)
            assert names == ["1931/boats/gull.jpg", "1931/gull.jpg", "gull.jpg"]
            assert all(state_of(picture) is FileState.IN_PLACE for picture in shelf.pictures)

    def test_a_watched_folder_is_never_changed(self, studio, tmp_path, make_picture, picture_id):
        folder = tmp_path / "trust"
        folder.mkdir()
        make_picture("one.jpg", seed=9).rename(folder / "gull.jpg")
        with studio.session() as session:
            watched = watch_folder(studio, session, str(folder))
            import_folder(session, watched)
            own = picture_with(session, picture_id)
            with pytest.raises(Refused, match="never changes"):
                move_picture(session, own, watched)
            with pytest.raises(Refused, match="never changes"):
                move_picture(session, watched.pictures[0], own.shelf)
            names = names_told_apart([own, watched.pictures[0]])
            assert sorted(names.values()) == ["gull.jpg · Tarnholm shelf", "gull.jpg · trust"]
