"""Limits on what is stored, and on what waits, for a person and for the studio."""

from contextlib import contextmanager
from dataclasses import replace

import pytest

from harnet.core.copies.recipe import plain_copy
from harnet.standins.studio import open_studio
from harnet.store.acting import acting
from harnet.studio.common.errors import Refused
from harnet.studio.common.settings import Limits
from harnet.studio.copies.copies import ask_for_copy
from harnet.studio.people.people import actor_named
from harnet.studio.people.quotas import stored_by
from harnet.studio.pictures.importing import import_picture
from harnet.studio.pictures.picture import facts_of_picture, picture_with
from harnet.studio.pictures.shelves import shelf_named
from tests.support.people import people_of


@pytest.fixture
def limited(settings):
    """Opens the studio with limits."""
    opened = []

    def open_with(**limits):
        opened.append(open_studio(replace(settings, limits=Limits(**limits))))
        return opened[-1]

    yield open_with
    for one in opened:
        one.engine.dispose()


@contextmanager
def at_work(studio, name):
    with studio.session() as session:
        who = actor_named(session, name)
    with acting(who), studio.session() as session:
        yield session


def hand_in(studio, session, path):
    with path.open("rb") as file:
        return import_picture(
            studio, session, shelf_named(studio, session, "Quay"), path.name, file
        )


def wants_copy(session, picture_id):
    picture = picture_with(session, picture_id)
    return ask_for_copy(session, picture, plain_copy(facts_of_picture(picture), 300))


def test_a_person_stores_so_much_and_no_more(limited, studio, make_picture):
    people_of(studio)
    first, second = make_picture("gull.jpg"), make_picture("lamp.jpg", seed=2)
    small = limited(person_bytes=first.stat().st_size)
    with at_work(small, "Bo Quill") as session:
        hand_in(small, session, first)
    with at_work(small, "Bo Quill") as session, pytest.raises(Refused, match="Remove pictures"):
        hand_in(small, session, second)
    # Somebody else has room of their own.
    with at_work(small, "Ada Lind") as session:
        hand_in(small, session, second)
        assert stored_by(session, "Bo Quill") == first.stat().st_size
        assert stored_by(session) == first.stat().st_size + second.stat().st_size


def test_the_studio_as_a_whole_is_full(limited, studio, make_picture):
    first = make_picture("gull.jpg")
    small = limited(studio_bytes=1)
    with small.session() as session:
        hand_in(small, session, first)
    with small.session() as session, pytest.raises(Refused, match="ask whoever runs Harnet"):
        hand_in(small, session, make_picture("lamp.jpg", seed=2))


def test_so_much_waits_for_a_person_and_no_more(limited, studio, on_shelf, make_picture):
    people_of(studio)
    picture_id = on_shelf(make_picture("gull.jpg"))
    small = limited(person_tasks=2)
    for _ in range(2):
        with at_work(small, "Bo Quill") as session:
            ask_for_copy(
                session,
                picture_with(session, picture_id),
                plain_copy(facts_of_picture(picture_with(session, picture_id)), 300),
            )
    with at_work(small, "Bo Quill") as session, pytest.raises(Refused, match="2 things are being"):
        ask_for_copy(
            session,
            picture_with(session, picture_id),
            plain_copy(facts_of_picture(picture_with(session, picture_id)), 300),
        )
    # What is made for them is still taken in.
    with at_work(small, "Bo Quill") as session:
        hand_in(small, session, make_picture("lamp.jpg", seed=2))
    with at_work(small, "Ada Lind") as session:
        ask_for_copy(
            session,
            picture_with(session, picture_id),
            plain_copy(facts_of_picture(picture_with(session, picture_id)), 300),
        )
