"""Two people on one job: who else is here, whose change came first, what goes through."""

from datetime import timedelta

import pytest

from harnet.store.base import now_utc
from harnet.store.tables.people import Presence
from harnet.studio.jobs.jobs import job_with
from harnet.studio.layout.placing import place_picture
from harnet.studio.people.roles import Role
from harnet.studio.pictures.picture import picture_with
from tests.support.people import let_in, people_of


@pytest.fixture
def two(open_client, studio):
    """Two browsers: an owner's and a designer's."""
    names = people_of(studio)
    other = open_client.application.test_client()
    return (
        let_in(studio, open_client, names[Role.OWNER]),
        let_in(studio, other, names[Role.DESIGNER]),
    )


@pytest.fixture
def placed(studio, two, new_job, on_shelf, make_picture):
    """A job with two pictures on one page: its number, and the items' numbers."""
    job_id, picture_id = new_job(), on_shelf(make_picture("gull.jpg"))
    with studio.session() as session:
        job = job_with(session, job_id)
        picture = picture_with(session, picture_id)
        items = [place_picture(session, job, job.pages[0], picture) for _ in range(2)]
        return job_id, *(item.id for item in items)


def moves(client, job_id, item_id, version, dx="9"):
    form = {"items": f"{item_id}:{version}", "kind": "move", "dx": dx, "dy": "0", "page": "1"}
    return client.post(f"/jobs/{job_id}/pages/gesture", data=form)


def test_a_stale_edit_of_the_same_item_says_whose_came_first(two, placed):
    ada, bo = two
    job_id, first, _ = placed
    assert moves(bo, job_id, first, 1).status_code == 200
    answer = moves(ada, job_id, first, 1)
    assert answer.status_code == 409
    assert "Bo Quill came first: “Move gull.jpg”" in answer.text


def test_edits_of_different_items_both_go_through(studio, two, placed):
    ada, bo = two
    job_id, first, second = placed
    with studio.session() as session:
        before = [item.x_pt for item in job_with(session, job_id).pages[0].items]
    # Both began from the same view of the page.
    assert moves(bo, job_id, first, 1, "9").status_code == 200
    assert moves(ada, job_id, second, 1, "18").status_code == 200
    with studio.session() as session:
        after = [item.x_pt for item in job_with(session, job_id).pages[0].items]
    assert [now - then for now, then in zip(after, before, strict=True)] == pytest.approx([9, 18])


def test_an_item_that_somebody_removed(two, placed):
    ada, bo = two
    job_id, first, _ = placed
    bo.post(f"/jobs/{job_id}/pages/take-off", data={"items": f"{first}:1", "page": "1"})
    answer = moves(ada, job_id, first, 1)
    assert answer.status_code == 404 and "Bo Quill came first" in answer.text


def test_undo_says_whose_change_it_would_take(two, placed):
    ada, bo = two
    job_id, first, _ = placed
    known = ada.get(f"/jobs/{job_id}/pages").text.partition('data-undo="')[2].partition('"')[0]
    moves(bo, job_id, first, 1)
    answer = ada.post(f"/jobs/{job_id}/pages/undo", data={"edit": known, "back": ""})
    assert answer.status_code == 409 and "Bo Quill changed this job" in answer.text


def test_who_else_is_here(two, placed):
    ada, bo = two
    job_id, *_ = placed
    assert "Bo Quill" not in ada.get(f"/jobs/{job_id}/here?view=pages").text
    bo.get(f"/jobs/{job_id}/here?view=ledger")
    seen = ada.get(f"/jobs/{job_id}/here?view=pages").text
    assert "Bo Quill has Ledger open" in seen and "Ada Lind" not in seen


def test_whoever_left_is_not_here_any_more(studio, two, placed):
    ada, bo = two
    job_id, *_ = placed
    bo.get(f"/jobs/{job_id}/here?view=ledger")
    with studio.session() as session:
        [row] = session.query(Presence)
        row.seen_at = now_utc() - timedelta(seconds=55)
    assert "Bo Quill" not in ada.get(f"/jobs/{job_id}/here?view=pages").text
