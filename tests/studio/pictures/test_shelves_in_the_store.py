"""Shelves whose files lie in the store: every machine finds them, and none needs a folder."""

from dataclasses import replace

import pytest

from harnet.core.copies.recipe import plain_copy
from harnet.core.preflight.subject import FileState
from harnet.standins.studio import open_studio
from harnet.studio.copies.copies import ask_for_copy, make_copy
from harnet.studio.jobs.jobs import NewJob, job_with, make_job
from harnet.studio.judging.judging import catch_up
from harnet.studio.layout.placing import place_picture
from harnet.studio.pictures.importing import import_picture
from harnet.studio.pictures.keeping import move_picture, new_shelf, remove_picture, remove_shelf
from harnet.studio.pictures.picture import facts_of_picture, path_of, picture_with, state_of
from harnet.studio.pictures.shelves import look_at_shelves, shelf_named
from harnet.studio.preflight.checking import findings_in
from tests.support.buckets import bucket_server, new_bucket


@pytest.fixture(scope="module")
def server():
    with bucket_server() as address:
        yield address


@pytest.fixture
def machines(settings, server, tmp_path):
    """Opens the studio as one machine after another sees it, with a data folder of its own."""
    url = f"{new_bucket(server)}/harnet"
    opened = []

    def machine(name):
        shared = {"store_url": url, "store_endpoint": server, "shelves": "store"}
        own = replace(settings, data_folder=tmp_path / name, **shared)
        opened.append(open_studio(own))
        return opened[-1]

    yield machine
    for one in opened:
        one.engine.dispose()


def hand_in(studio, path, shelf="Quay"):
    with studio.session() as session, path.open("rb") as file:
        picture = import_picture(
            studio, session, shelf_named(studio, session, shelf), path.name, file
        )
        return picture.id


def test_one_machine_takes_in_what_another_reads(machines, make_picture):
    path = make_picture("gull.jpg")
    picture_id = hand_in(machines("one"), path)
    two = machines("two")
    with two.session() as session:
        picture = picture_with(session, picture_id)
        assert path_of(picture).read_bytes() == path.read_bytes()
        assert path_of(picture).is_relative_to(two.settings.data_folder)
        assert state_of(picture) is FileState.IN_PLACE


def test_the_same_bytes_are_one_picture_and_the_same_name_gets_a_number(machines, make_picture):
    one = machines("one")
    first = hand_in(one, make_picture("gull.jpg"))
    assert hand_in(one, make_picture("again/gull.jpg")) == first
    other = hand_in(one, make_picture("other/gull.jpg", seed=2))
    with one.session() as session:
        assert picture_with(session, other).file_name == "gull 2.jpg"


def test_placed_judged_and_looked_at_nothing_is_missing(machines, make_picture):
    picture_id = hand_in(machines("one"), make_picture("gull.jpg"))
    two = machines("two")
    with two.session() as session:
        job_id = make_job(session, NewJob.measured("Quay flyer", 148, 210)).id
        job = job_with(session, job_id)
        place_picture(session, job, job.pages[0], picture_with(session, picture_id))
    assert look_at_shelves(two) == []
    with two.session() as session:
        job = job_with(session, job_id)
        catch_up(session, job)
        rules = {one.row.rule_id for one in findings_in(session, job)}
        assert "file-missing" not in rules and "file-changed" not in rules


def test_a_print_copy_is_made_elsewhere(machines, make_picture):
    one, two = machines("one"), machines("two")
    picture_id = hand_in(one, make_picture("gull.jpg"))
    with one.session() as session:
        picture = picture_with(session, picture_id)
        recipe = plain_copy(facts_of_picture(picture), 300)
        copy_id = ask_for_copy(session, picture, recipe).id
    two = machines("two again")
    make_copy(two, copy_id)
    one = machines("one again")
    with one.session() as session:
        made = picture_with(session, picture_id + 1)
        assert facts_of_picture(made).density_x == 300
        assert path_of(made).exists()


def test_between_shelves_of_either_kind(machines, studio, settings, make_picture):
    path = make_picture("gull.jpg")
    one = machines("one")
    picture_id = hand_in(one, path)
    with one.session() as session:
        local = shelf_named(open_studio(replace(settings, store_url=one.settings.store_url,
            store_endpoint=one.settings.store_endpoint)), session, "In a folder")  # fmt: skip
        move_picture(session, picture_with(session, picture_id), local)
        session.flush()
        assert path_of(picture_with(session, picture_id)).parent.name == "In a folder"
        quay = shelf_named(one, session, "Quay")
        move_picture(session, picture_with(session, picture_id), quay)
        session.flush()
        assert path_of(picture_with(session, picture_id)).read_bytes() == path.read_bytes()
        assert list((settings.data_folder / "shelves" / "In a folder").iterdir()) == []
        remove_picture(one, session, picture_with(session, picture_id))
        remove_shelf(session, quay)
        new_shelf(one, session, "Harbour")
