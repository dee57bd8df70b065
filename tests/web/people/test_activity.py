"""What happened: told in the transaction in which it happens, shown and exported."""

import csv
import io

import pytest

from harnet.store.tables.people import Activity
from harnet.studio.jobs.jobs import job_with
from harnet.studio.layout.placing import place_picture
from harnet.studio.people.roles import Role
from harnet.studio.pictures.picture import picture_with
from tests.support.people import PASSWORD, let_in, people_of


@pytest.fixture
def names(studio):
    return people_of(studio)


@pytest.fixture
def placed(studio, names, new_job, on_shelf, make_picture):
    """A job with a picture; the numbers of the job, its item and the picture."""
    job_id, picture_id = new_job("Quay flyer"), on_shelf(make_picture("gull.jpg"))
    with studio.session() as session:
        job = job_with(session, job_id)
        item = place_picture(session, job, job.pages[0], picture_with(session, picture_id))
        return job_id, item.id, picture_id


def told(studio):
    with studio.session() as session:
        rows = session.query(Activity).order_by(Activity.id)
        return [(row.name, row.doing, row.detail) for row in rows]


def test_an_edit_says_who_where_it_is_listed_and_in_the_history(open_client, studio, names, placed):
    job_id, item_id, _ = placed
    let_in(studio, open_client, names[Role.DESIGNER])
    form = {"items": f"{item_id}:1", "kind": "move", "dx": "9", "dy": "0", "page": "1"}
    assert open_client.post(f"/jobs/{job_id}/pages/gesture", data=form).status_code == 200
    [(name, doing, detail)] = told(studio)
    assert (name, doing) == ("Bo Quill", "moved or sized items") and "gull.jpg" in detail
    assert " · by Bo Quill" in open_client.get(f"/jobs/{job_id}/pages").text
    open_client.post(f"/jobs/{job_id}/pages/undo", data={"back": ""})
    assert told(studio)[-1][1] == "undid" and "gull.jpg" in told(studio)[-1][2]


def test_what_changes_nothing_is_not_told(open_client, studio, names, placed):
    job_id, item_id, _ = placed
    let_in(studio, open_client, names[Role.DESIGNER])
    for address in ("/jobs", "/pictures", f"/jobs/{job_id}/pages", f"/jobs/{job_id}/preflight"):
        open_client.get(address)
    stale = {"items": f"{item_id}:7", "kind": "move", "dx": "9", "dy": "0", "page": "1"}
    assert open_client.post(f"/jobs/{job_id}/pages/gesture", data=stale).status_code == 409
    assert told(studio) == []


def test_acceptances_outputs_tokens_and_links_say_who(open_client, studio, names, placed):
    job_id, item_id, _ = placed
    let_in(studio, open_client, names[Role.DESIGNER])
    # Another name than one's own cannot be given.
    form = {"reason": "seen", "name": "Somebody Else"}
    rule = "density-below-floor"
    open_client.post(f"/jobs/{job_id}/preflight/accept/{item_id}/{rule}", data=form)
    open_client.post("/tokens", data={"label": "nightly check"})
    open_client.post(f"/links/job/{job_id}", data={"label": "the trust", "days": 7})
    open_client.post(f"/jobs/{job_id}/output/pdf", data={"mode": "keep"} | form)
    done = {doing for _, doing, _ in told(studio)}
    assert {"made an API token", "made a review link"} <= done
    assert "by Bo Quill" in open_client.get(f"/links/job/{job_id}").text
    assert "of Bo Quill" in open_client.get("/tokens").text
    assert "Somebody Else" not in open_client.get(f"/jobs/{job_id}/preflight").text


def test_owners_read_it_search_it_and_take_it_away(open_client, studio, names, placed):
    job_id, _, _ = placed
    let_in(studio, open_client, names[Role.OWNER])
    open_client.post(f"/comments/job/{job_id}", data={"text": "=cmd|' /C calc'!A0"})
    open_client.post("/people/groups", data={"name": "Press"})
    page = open_client.get("/activity").text
    assert "commented" in page and "Quay flyer" in page and "made a group" in page
    assert "commented" not in open_client.get("/activity?text=group").text
    assert "Nothing matches" in open_client.get("/activity?name=nobody").text
    answer = open_client.get("/activity/activity.csv")
    rows = list(csv.DictReader(io.StringIO(answer.text)))
    assert [row["what"] for row in rows] == ["made a group", "commented"]
    assert rows[1]["job"] == "Quay flyer" and rows[1]["who"] == "Ada Lind"
    # No cell begins as a formula does.
    assert rows[1]["detail"].startswith("'=")


def test_it_goes_on_over_pages(open_client, studio, names):
    with studio.session() as session:
        session.add_all(Activity(name="Ada Lind", doing=f"did {n}") for n in range(150))
    let_in(studio, open_client, names[Role.OWNER])
    first = open_client.get("/activity").text
    assert "did 149" in first and "did 49<" not in first.replace("\n", "")
    assert "Older" in first
    with studio.session() as session:
        numbers = [row.id for row in session.query(Activity).order_by(Activity.id.desc())]
    second = open_client.get(f"/activity?before={numbers[99]}").text
    assert "did 49" in second and "did 0" in second and "Older" not in second


def test_who_signed_in_and_out_and_took_in_what(open_client, studio, names, make_picture):
    form = {"name": "bo quill", "password": PASSWORD}
    open_client.post("/sign-in", data=form)
    with make_picture("gull.jpg").open("rb") as file:
        open_client.post("/pictures/upload", data={"file": (file, "gull.jpg")})
    open_client.post("/account/leave")
    assert [one for one in told(studio) if one[0]] == [
        ("Bo Quill", "signed in", "from 127.0.0.1"),
        ("Bo Quill", "uploaded pictures", "gull.jpg"),
        ("Bo Quill", "signed out", "Bo Quill"),
    ]
