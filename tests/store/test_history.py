"""Edits are recorded whole, and undone and redone through the same door."""

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import select

from harnet.store import history
from harnet.store.history import (
    EntryGone,
    UndoReach,
    go_to,
    history_of,
    recorded,
    redo,
    undo,
    undo_reach,
)
from harnet.store.tables.jobs import Edit, Item, Page
from harnet.studio.common.errors import Conflict, Refused
from harnet.studio.jobs.jobs import job_with, set_target
from harnet.studio.jobs.pages import add_page, remove_page
from harnet.studio.layout.crossing import apply_gesture
from harnet.studio.layout.gestures import Gesture
from harnet.studio.layout.placing import place_picture, remove_items
from harnet.studio.ledger.stepping import take_step
from harnet.studio.pictures.picture import picture_with


def snapshot(session):
    """Every page and item as it stands, versions aside."""
    session.expire_all()
    rows = []
    for model in (Page, Item):
        for row in session.scalars(select(model).order_by(model.id)):
            names = [c.key for c in model.__table__.columns if c.key not in ("version", "tally")]
            rows.append((model.__name__, *(str(getattr(row, name)) for name in names)))
    return rows


def test_an_edit_that_changes_nothing_leaves_no_entry(studio, new_job):
    job_id = new_job()
    with studio.session() as session:
        job = job_with(session, job_id)
        with recorded(session, job, "Nothing"):
            job.title = job.title
        assert session.scalars(select(Edit)).all() == []


def test_undo_and_redo_of_a_page_with_what_is_on_it(studio, new_job, on_shelf, make_picture):
    job_id, picture_id = new_job(pages=2), on_shelf(make_picture())
    with studio.session() as session:
        job = job_with(session, job_id)
        place_picture(session, job, job.pages[1], picture_with(session, picture_id))
    with studio.session() as session:
        before = snapshot(session)
        remove_page(session, job_with(session, job_id), 2)
        after = snapshot(session)
        assert len(after) < len(before)
    with studio.session() as session:
        assert undo(session, job_with(session, job_id)).label == "Remove page 2"
        assert snapshot(session) == before
        assert redo(session, job_with(session, job_id)).label == "Remove page 2"
        assert snapshot(session) == after
        assert redo(session, job_with(session, job_id)) is None


def test_a_new_edit_forgets_what_was_undone(studio, new_job):
    job_id = new_job()
    with studio.session() as session:
        job = job_with(session, job_id)
        set_target(session, job, "office")
        undo(session, job)
        set_target(session, job, "screen")
        assert redo(session, job) is None
        assert [edit.label for edit in session.scalars(select(Edit))] == [
            "Target: Web screen, 72 ppi"
        ]


class TestBounds:
    @pytest.fixture
    def few(self, monkeypatch):
        monkeypatch.setattr(history, "KEPT_STEPS", 4)
        monkeypatch.setattr(history, "LEAST_STEPS", 2)
        monkeypatch.setattr(history, "NAMED_STEPS", 3)

    def test_undo_reaches_so_many_steps_and_says_so(self, studio, new_job, few):
        job_id = new_job()
        snapshots = []
        for _ in range(9):
            with studio.session() as session:
                add_page(session, job_with(session, job_id), 1)
                snapshots.append(snapshot(session))
        with studio.session() as session:
            job = job_with(session, job_id)
            listed = history_of(session, job)
            assert [one.is_packed for one in listed] == [False] * 4 + [True] * 3
            assert all(one.label == "Add page 2" for one in listed)
            kept = session.scalars(select(Edit).order_by(Edit.id)).all()
            assert [len(one.changes) > 0 for one in kept] == [False] * 3 + [True] * 4
            reach = undo_reach(session, job)
            assert reach == UndoReach(4, listed[4].id)
            for number in (0, listed[5].id):
                with pytest.raises(EntryGone):
                    go_to(session, job, number)
            go_to(session, job, reach.first_id)
            assert snapshot(session) == snapshots[4]
            assert undo_reach(session, job) == UndoReach(0, listed[4].id)
            assert undo(session, job) is None
            with pytest.raises(Refused, match="does not reach further back"):
                take_step(session, job, None, is_redo=False)
            for _ in range(4):
                redo(session, job)
            assert snapshot(session) == snapshots[-1]

    def test_many_rows_pack_it_sooner_yet_never_below_the_least(
        self, studio, new_job, few, monkeypatch
    ):
        monkeypatch.setattr(history, "KEPT_ROWS", 5)
        job_id = new_job()
        for _ in range(6):
            # Every step moves one page more along.
            with studio.session() as session:
                add_page(session, job_with(session, job_id), 1)
        with studio.session() as session:
            assert undo_reach(session, job_with(session, job_id)).steps == 2

    def test_one_job_is_not_packed_by_another(self, studio, new_job, few):
        ours, other = new_job("Quay"), new_job("Pier")
        for number in range(8):
            with studio.session() as session:
                add_page(session, job_with(session, other if number else ours), 1)
        with studio.session() as session:
            assert undo_reach(session, job_with(session, ours)) == UndoReach(1, 0)


def test_two_windows_cannot_both_write(studio, new_job, on_shelf, make_picture):
    job_id, picture_id = new_job(), on_shelf(make_picture())
    with studio.session() as session:
        job = job_with(session, job_id)
        place_picture(session, job, job.pages[0], picture_with(session, picture_id))
    with pytest.raises(Conflict), studio.session() as first:
        job = job_with(first, job_id)
        item = job.pages[0].items[0]
        with studio.session() as second:
            other = job_with(second, job_id)
            apply_gesture(
                second, other, [other.pages[0].items[0]], Gesture(kind="move", dx_pt=5, dy_pt=0)
            )
        apply_gesture(first, job, [item], Gesture(kind="move", dx_pt=0, dy_pt=7))
    with studio.session() as session:
        assert len(session.scalars(select(Edit)).all()) == 2


steps = st.lists(st.sampled_from(["move", "size", "pan", "page", "place", "remove"]), max_size=6)


@given(steps=steps)
@settings(
    max_examples=15, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
def test_any_chain_undone_is_where_it_began(studio, new_job, on_shelf, make_picture, steps):
    job_id, picture_id = new_job(), on_shelf(make_picture())
    with studio.session() as session:
        job = job_with(session, job_id)
        place_picture(session, job, job.pages[0], picture_with(session, picture_id))
    with studio.session() as session:
        before = snapshot(session)
        job = job_with(session, job_id)
        for step in steps:
            page = job.pages[0]
            if step == "page":
                add_page(session, job, 1)
            elif step == "place":
                place_picture(session, job, page, picture_with(session, picture_id))
            elif page.items and step == "remove":
                remove_items(session, job, [page.items[-1]])
            elif page.items:
                apply_gesture(
                    session,
                    job,
                    [page.items[0]],
                    Gesture(kind=step, dx_pt=7, dy_pt=-3, handle="se"),
                )
        after = snapshot(session)
        count = len(session.scalars(select(Edit).where(Edit.job_id == job_id)).all()) - 1
        for _ in range(count):
            undo(session, job)
        assert snapshot(session) == before
        for _ in range(count):
            redo(session, job)
        assert snapshot(session) == after
