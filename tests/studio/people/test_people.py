"""People, their roles and groups, passwords and sign-ins."""

import pytest
from argon2 import Parameters, Type, extract_parameters

from harnet.store.acting import Actor, acting
from harnet.store.tables.jobs import Job
from harnet.studio.common.errors import Refused
from harnet.studio.people import passwords
from harnet.studio.people.passwords import hash_of, is_right, require_good
from harnet.studio.people.people import (
    actor_named,
    add_group,
    add_person,
    all_people,
    asks_for_names,
    disable,
    enable,
    person_named,
    remove_group,
    set_groups,
    set_role,
)
from harnet.studio.people.roles import Role
from harnet.studio.people.signing_in import WrongSignIn, sign_in
from tests.support.people import PASSWORD, people_of


class TestPasswords:
    def test_they_are_kept_by_argon2id_at_the_cost_of_the_standard(self):
        # RFC 9106, section 4, second recommended option: t=3, m=64 MiB, p=4, 128-bit salt,
        # 256-bit tag.
        assert extract_parameters(hash_of(PASSWORD)) == Parameters(
            type=Type.ID, version=19, salt_len=16, hash_len=32,
            time_cost=3, memory_cost=64 * 1024, parallelism=4,
        )  # fmt: skip

    def test_two_of_the_same_are_kept_differently(self):
        assert hash_of(PASSWORD) != hash_of(PASSWORD)
        assert is_right(PASSWORD, hash_of(PASSWORD))

    @pytest.mark.parametrize(
        ("password", "said"),
        [
            ("short", "12 to 200 characters"),
            ("x" * 201, "12 to 200 characters"),
            ("abababababab", "repeats a few characters"),
            ("Bo Quill is my name", "contain the name"),
        ],
    )
    def test_what_is_easy_to_guess_is_refused(self, password, said):
        with pytest.raises(Refused, match=said):
            require_good(password, "Bo Quill")

    def test_nothing_is_nobodys_password(self):
        assert not is_right("nobody has this password", None)
        assert not is_right("", "not a hash")


class TestPeople:
    def test_the_first_is_an_owner(self, studio):
        with studio.session() as session:
            assert not asks_for_names(session)
            with pytest.raises(Refused, match="first person must be an owner"):
                add_person(session, "Bo Quill", Role.DESIGNER, PASSWORD)
            add_person(session, "  Ada   Lind ", Role.OWNER, PASSWORD)
            assert asks_for_names(session)
            assert [one.name for one in all_people(session)] == ["Ada Lind"]

    def test_names_are_told_apart_whatever_their_capitals(self, studio):
        people_of(studio)
        with studio.session() as session:
            with pytest.raises(Refused, match="called ADA LIND already"):
                add_person(session, "ADA LIND", Role.DESIGNER, PASSWORD)
            assert person_named(session, "ada lind") is person_named(session, "Ada Lind")

    def test_the_last_owner_stays(self, studio):
        people_of(studio)
        with studio.session() as session:
            ada, bo = person_named(session, "Ada Lind"), person_named(session, "Bo Quill")
            for change in (
                lambda: disable(session, ada),
                lambda: set_role(session, ada, Role.REVIEWER),
            ):
                with pytest.raises(Refused, match="only owner"):
                    change()
            set_role(session, bo, Role.OWNER)
            disable(session, ada)
            assert asks_for_names(session)

    def test_disabled_nobody_signs_in_and_is_let_in_again(self, studio):
        people_of(studio)
        with studio.session() as session:
            bo = person_named(session, "Bo Quill")
            disable(session, bo)
            with pytest.raises(WrongSignIn):
                sign_in(session, "Bo Quill", PASSWORD)
            enable(session, bo)
            assert sign_in(session, "Bo Quill", PASSWORD)[0].person_id == bo.id

    @pytest.mark.parametrize("name", ["Ada Lind", "Nobody Here", "Bo Quill"])
    def test_any_name_costs_one_hash_so_that_none_is_told_by_its_time(
        self, studio, monkeypatch, name
    ):
        people_of(studio)
        costs = []
        hasher = passwords._hasher

        class Counted:
            def verify(self, kept, password):
                costs.append(extract_parameters(kept))
                return hasher.verify(kept, password)

        with studio.session() as session:
            disable(session, person_named(session, "Bo Quill"))
        monkeypatch.setattr(passwords, "_hasher", Counted())
        with studio.session() as session, pytest.raises(WrongSignIn):
            sign_in(session, name, "not the password")
        assert costs == [extract_parameters(hash_of_today(hasher))]


def hash_of_today(hasher):
    return hasher.hash(PASSWORD)


class TestGroups:
    def test_whoever_is_in_one_sees_what_belongs_to_it(self, studio):
        people_of(studio)
        with studio.session() as session:
            press, hall = add_group(session, "Press"), add_group(session, "Hall")
            bo = person_named(session, "Bo Quill")
            set_groups(session, bo, [press.id])
            assert actor_named(session, "bo quill").groups == {press.id}
            assert actor_named(session, "Ada Lind").groups is None
            assert actor_named(session, "nobody here").groups is None
            set_groups(session, bo, [press.id, hall.id])
            assert [group.name for group in bo.groups] == ["Hall", "Press"]

    def test_one_with_jobs_is_not_removed(self, studio, new_job):
        job_id = new_job()
        with studio.session() as session:
            group = add_group(session, "Press")
            session.get(Job, job_id).group_id = group.id
            session.flush()
            with pytest.raises(Refused, match="1 job and 0 shelves"):
                remove_group(session, group.id)
            session.get(Job, job_id).group_id = None
            session.flush()
            remove_group(session, group.id)

    @pytest.mark.parametrize("name", ["", "  ", "press"])
    def test_each_has_a_name_of_its_own(self, studio, name):
        with studio.session() as session:
            add_group(session, "Press")
            with pytest.raises(Refused):
                add_group(session, name)


def test_who_made_what_is_kept_with_it(studio, new_job):
    with acting(Actor(name="Bo Quill")):
        job_id = new_job()
    with studio.session() as session:
        assert session.get(Job, job_id).made_by == "Bo Quill"
    other = new_job("By nobody")
    with studio.session() as session:
        assert session.get(Job, other).made_by == ""
