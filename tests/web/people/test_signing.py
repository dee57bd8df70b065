"""Signing in and out with the form."""

import re
from datetime import timedelta

import pytest

from harnet.store.base import now_utc
from harnet.store.tables.people import SignIn
from harnet.studio.people.people import person_named
from harnet.studio.people.roles import Role
from harnet.studio.people.signing_in import sign_ins_of
from tests.support.people import PASSWORD, let_in, people_of


@pytest.fixture
def names(studio):
    return people_of(studio)


def signs_in(client, name="Bo Quill", password=PASSWORD, **more):
    return client.post("/sign-in", data={"name": name, "password": password, **more})


def key_of(client):
    with client.session_transaction() as kept:
        return kept.get("_user_id")


def test_into_the_page_that_was_wanted(open_client, names):
    answer = signs_in(open_client, next="/pictures?words=gull")
    assert answer.headers["Location"] == "/pictures?words=gull"
    assert "Bo Quill" in open_client.get("/pictures").text


@pytest.mark.parametrize(
    "wanted", ["https://elsewhere.example/", "//elsewhere.example", "/\\elsewhere.example", "jobs"]
)
def test_never_off_to_another_place(open_client, names, wanted):
    assert signs_in(open_client, next=wanted).headers["Location"] == "/jobs"


def test_a_wrong_name_and_a_wrong_password_are_answered_alike(open_client, names):
    unknown = signs_in(open_client, name="Nobody Here")
    wrong = signs_in(open_client, password="seven gulls over the roof")
    assert unknown.status_code == wrong.status_code == 401
    shown = [
        # But for the name and for what guards the form, which is another each time.
        re.sub(r"(?<=[\"'])[\w-]+\.[\w-]+\.[\w-]+(?=[\"'])", "", answer.text)
        for answer in (unknown, wrong)
    ]
    assert shown[0].replace("Nobody Here", "Bo Quill") == shown[1]


def test_the_session_begins_anew(open_client, names):
    with open_client.session_transaction() as kept:
        kept["planted"] = "by somebody else"
    signs_in(open_client)
    first = key_of(open_client)
    with open_client.session_transaction() as kept:
        assert "planted" not in kept
    signs_in(open_client)
    assert key_of(open_client) not in (None, first)


def test_after_ten_failures_even_the_right_password_waits(open_client, names):
    for _ in range(10):
        assert signs_in(open_client, password="wrong").status_code == 401
    answer = signs_in(open_client)
    assert answer.status_code == 429 and "Wait a quarter of an hour" in answer.text
    # Others on the same address are let in.
    assert signs_in(open_client, name="Ada Lind").status_code == 302


def test_what_went_well_is_not_counted(open_client, names):
    for _ in range(12):
        assert signs_in(open_client).status_code == 302


def test_signed_out_the_key_opens_nothing_any_more(open_client, names):
    signs_in(open_client)
    key = key_of(open_client)
    assert open_client.post("/account/leave").headers["Location"] == "/sign-in"
    with open_client.session_transaction() as kept:
        kept["_user_id"] = key
    assert open_client.get("/jobs").status_code == 302


@pytest.mark.parametrize(
    ("column", "ago"), [("seen_at", timedelta(hours=13)), ("made_at", timedelta(days=15))]
)
def test_it_ends_when_idle_and_in_any_case(open_client, studio, names, column, ago):
    let_in(studio, open_client, names[Role.DESIGNER])
    with studio.session() as session:
        [row] = session.query(SignIn).all()
        setattr(row, column, now_utc() - ago)
    assert open_client.get("/jobs").status_code == 302


def test_another_password_signs_the_other_browsers_out(open_client, studio, names):
    let_in(studio, open_client, names[Role.DESIGNER])
    other = open_client.application.test_client()
    let_in(studio, other, names[Role.DESIGNER])
    new = "nine lamps under the stair"
    typed = {"current": PASSWORD, "new": new, "again": new}
    wrong = open_client.post("/account/password", data=typed | {"current": "not it"})
    assert wrong.status_code == 422 and "current password is another" in wrong.text
    short = open_client.post("/account/password", data=typed | {"new": "short", "again": "short"})
    assert short.status_code == 422 and "12 to 200 characters" in short.text
    assert open_client.post("/account/password", data=typed).status_code == 302
    assert open_client.get("/jobs").status_code == 200
    assert other.get("/jobs").status_code == 302
    assert signs_in(other, password=new).status_code == 302


def test_browsers_are_listed_and_signed_out_one_by_one(open_client, studio, names):
    let_in(studio, open_client, names[Role.DESIGNER])
    let_in(studio, open_client.application.test_client(), names[Role.DESIGNER])
    assert open_client.get("/account").text.count("from an unknown address") == 2
    with studio.session() as session:
        person = person_named(session, names[Role.DESIGNER])
        latest, first = sign_ins_of(session, person, studio.settings.expiry)
        someone = person_named(session, names[Role.OWNER])
        assert sign_ins_of(session, someone, studio.settings.expiry) == []
    for one in (latest, first):
        open_client.post(f"/account/end/{one.id}")
    assert open_client.get("/jobs").status_code == 302


def test_another_persons_sign_in_is_not_ones_own(open_client, studio, names):
    let_in(studio, open_client.application.test_client(), names[Role.OWNER])
    with studio.session() as session:
        [row] = session.query(SignIn).all()
    let_in(studio, open_client, names[Role.DESIGNER])
    assert open_client.post(f"/account/end/{row.id}").status_code == 404
