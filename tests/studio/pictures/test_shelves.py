"""Taking files in, and how they stand afterwards."""

import io
import os
from pathlib import Path

import pytest
from sqlalchemy import select

from harnet.core.preflight.subject import FileState
from harnet.media.errors import UnreadableFile
from harnet.media.pixels.previews import SIZES, preview_name
from harnet.store.tables.pictures import Picture
from harnet.studio.pictures.importing import import_picture, safe_file_name
from harnet.studio.pictures.picture import path_of, picture_with, state_of
from harnet.studio.pictures.shelves import import_folder, shelf_named


def take(studio, name, data):
    with studio.session() as session:
        shelf = shelf_named(studio, session, "Tarnholm shelf")
        return import_picture(studio, session, shelf, name, io.BytesIO(data))


def files_on_shelf(studio):
    return sorted(p.name for p in (studio.settings.shelves_folder / "Tarnholm shelf").iterdir())


def test_a_file_is_kept_as_it_is_with_its_previews(studio, make_picture):
    data = make_picture(width=2000, height=1000).read_bytes()
    picture = take(studio, "slipway.jpg", data)
    with studio.session() as session:
        assert path_of(picture_with(session, picture.id)).read_bytes() == data
    for size, edge in SIZES.items():
        with studio.blobs.open_preview(preview_name(picture.sha256, size)) as file:
            assert file.read(2) == b"\xff\xd8", edge


def test_the_same_bytes_are_one_picture_and_the_same_name_is_two(studio, make_picture):
    first = make_picture(seed=1).read_bytes()
    second = make_picture(seed=2).read_bytes()
    one = take(studio, "slipway.jpg", first)
    assert take(studio, "again.jpg", first).id == one.id
    assert take(studio, "slipway.jpg", second).file_name == "slipway 2.jpg"
    assert files_on_shelf(studio) == ["slipway 2.jpg", "slipway.jpg"]


def test_nothing_of_a_refused_file_stays(studio):
    with pytest.raises(UnreadableFile, match=r"notes\.png: "):
        take(studio, "notes.png", b"hello")
    assert files_on_shelf(studio) == []
    with studio.session() as session:
        assert session.scalars(select(Picture)).all() == []


@pytest.mark.parametrize(
    "given, kept",
    [
        ("../../etc/passwd", "passwd"),
        ("C:\\pictures\\gull.jpg", "gull.jpg"),
        (".hidden.png", "hidden.png"),
        ("a\x00b\n.jpg", "a-b-.jpg"),
        ("", "unnamed"),
        ("x" * 300 + ".jpeg", "x" * 115 + ".jpeg"),
        # Three bytes a letter; 180 in all, and no half of one.
        ("灯" * 300 + ".jpg", "灯" * 58 + ".jpg"),
        ("é" * 120 + ".tif", "é" * 88 + ".tif"),
    ],
)
def test_names_are_data_and_never_paths(given, kept):
    assert safe_file_name(given) == kept


def test_states_in_place_changed_missing_and_back(studio, make_picture):
    picture = take(studio, "slipway.jpg", make_picture().read_bytes())

    def state():
        with studio.session() as session:
            return state_of(picture_with(session, picture.id))

    path = studio.settings.shelves_folder / "Tarnholm shelf" / "slipway.jpg"
    assert state() is FileState.IN_PLACE
    os.utime(path, (1, 1))
    assert state() is FileState.IN_PLACE, "touched, but the same bytes"
    path.rename(path.with_name("elsewhere.jpg"))
    assert state() is FileState.MISSING
    path.write_bytes(make_picture(seed=9).read_bytes())
    assert state() is FileState.CHANGED


def test_a_missing_file_comes_back_by_being_dropped_again(studio, make_picture):
    data = make_picture().read_bytes()
    picture = take(studio, "slipway.jpg", data)
    (studio.settings.shelves_folder / "Tarnholm shelf" / "slipway.jpg").unlink()
    assert take(studio, "slipway.jpg", data).id == picture.id
    with studio.session() as session:
        assert state_of(picture_with(session, picture.id)) is FileState.IN_PLACE


def test_a_folder_is_read_and_its_bad_files_are_told(studio, make_picture):
    with studio.session() as session:
        shelf = shelf_named(studio, session, "Tarnholm shelf")
        folder = Path(shelf.folder)
        make_picture().rename(folder / "slipway.jpg")
        (folder / "notes.png").write_text("hello")
        failures = import_folder(session, shelf)
        assert [failure.name for failure in failures] == ["notes.png"]
        session.refresh(shelf)
        assert [picture.file_name for picture in shelf.pictures] == ["slipway.jpg"]
