"""The page of people: added, reset, disabled; and what an owner's configuration lets be watched."""

import re
from dataclasses import replace

import pytest

from harnet.standins.studio import open_studio
from harnet.studio.common.errors import Refused
from harnet.studio.people.people import person_named
from harnet.studio.people.roles import Role
from harnet.studio.people.signing_in import WrongSignIn, sign_in
from harnet.studio.pictures.watching import watch_folder
from tests.support.people import PASSWORD, let_in, people_of


@pytest.fixture
def owner(open_client, studio):
    names = people_of(studio)
    return let_in(studio, open_client, names[Role.OWNER])


def id_of(studio, name):
    with studio.session() as session:
        return person_named(session, name).id


def password_shown(answer, name):
    return re.search(rf'value="([^"]+)"\s+aria-label="Password of {name}"', answer.text)[1]


def test_somebody_new_gets_a_password_that_is_shown_once(owner, studio):
    owner.post("/people/groups", data={"name": "Press"})
    answer = owner.post("/people", data={"name": "Dag Holm", "role": "reviewer", "group": "1"})
    assert answer.status_code == 201
    password = password_shown(answer, "Dag Holm")
    with studio.session() as session:
        person = sign_in(session, "Dag Holm", password)[0].person
        assert (person.role, [group.name for group in person.groups]) == ("reviewer", ["Press"])
    assert password not in owner.get("/people").text


def test_a_name_that_is_taken_is_refused_and_stays_typed(owner):
    answer = owner.post("/people", data={"name": "Bo Quill", "role": "designer"})
    assert answer.status_code == 422 and "called Bo Quill already" in answer.text
    assert 'value="Bo Quill"' in answer.text


def test_a_new_password_ends_the_old_one_and_every_sign_in(owner, studio):
    bo = let_in(studio, owner.application.test_client(), "Bo Quill")
    answer = owner.post(f"/people/{id_of(studio, 'Bo Quill')}/reset")
    assert bo.get("/jobs").status_code == 302
    with studio.session() as session:
        with pytest.raises(WrongSignIn):
            sign_in(session, "Bo Quill", PASSWORD)
        row, _ = sign_in(session, "Bo Quill", password_shown(answer, "Bo Quill"))
        assert row.person.must_change_password


def test_roles_groups_and_an_end_to_all_sign_ins(owner, studio):
    number = id_of(studio, "Bo Quill")
    bo = let_in(studio, owner.application.test_client(), "Bo Quill")
    owner.post("/people/groups", data={"name": "Press"})
    owner.post(f"/people/{number}", data={"role": "reviewer", "group": "1"})
    assert bo.get("/jobs/new").status_code == 403
    owner.post(f"/people/{number}/end")
    assert bo.get("/jobs").status_code == 302
    last = owner.post(f"/people/{id_of(studio, 'Ada Lind')}", data={"role": "reviewer"})
    assert last.status_code == 422 and "only owner" in last.text
    kept = owner.post("/people/groups/1/remove")
    assert kept.status_code == 302 and "Press" not in owner.get("/people").text


def test_folders_are_watched_below_what_is_named(settings, studio, tmp_path):
    inside, outside = tmp_path / "served" / "pictures", tmp_path / "home"
    inside.mkdir(parents=True)
    outside.mkdir()
    with studio.session() as session:
        # As long as nobody signs in, whoever sits at the machine may name any folder.
        watch_folder(studio, session, str(outside))
    people_of(studio)
    named = open_studio(replace(settings, shelf_roots=(str(tmp_path / "served"),)))
    with named.session() as session:
        assert watch_folder(named, session, str(inside)).is_watched
        other = tmp_path / "elsewhere"
        other.mkdir()
        with pytest.raises(Refused, match="HARNET_SHELF_ROOTS"):
            watch_folder(named, session, str(other))
        with pytest.raises(Refused, match="HARNET_SHELF_ROOTS"):
            watch_folder(named, session, str(inside / ".." / ".." / "elsewhere"))
    named.engine.dispose()
    with studio.session() as session, pytest.raises(Refused, match="none so far"):
        watch_folder(studio, session, str(other))
