"""Batches, undo and redo over more placements than a request should change."""

import pytest
from sqlalchemy import event, func, select

from harnet.core.layout.placing import GivesWay
from harnet.demo.many import lay_out_many
from harnet.store.history import EntryGone, latest_edit, undo
from harnet.store.tables.jobs import Edit, Item, Page
from harnet.store.tables.long_batch import LongBatch
from harnet.store.tables.preflight import Judgement
from harnet.studio.common.errors import NotThere
from harnet.studio.jobs.jobs import job_with
from harnet.studio.layout.placing import items_in
from harnet.studio.ledger import long_batch
from harnet.studio.ledger.batch import Action, Batch
from harnet.studio.ledger.long_batch import (
    ask_for_batch,
    carry_out_batch,
    long_batch_with,
    long_redo,
    long_travel,
    long_undo,
)
from harnet.studio.pictures.picture import picture_with
from harnet.studio.preflight import judging
from harnet.studio.tasks.work import cancel_work

REACH = Batch(Action.REACH, GivesWay.CROP)


@pytest.fixture
def many(desk, new_job, on_shelf, make_picture, monkeypatch):
    """A job of 60 placements on 30 pages, and a limit of 50."""
    monkeypatch.setattr(long_batch, "LONG", 50)
    monkeypatch.setattr(judging, "_PAGES_AT_ONCE", 20)
    monkeypatch.setattr("harnet.studio.tasks.work._TOLD_EVERY_SECONDS", 0.0)
    job_id = new_job(pages="30")
    picture_id = on_shelf(make_picture("slipway.jpg", 300, 200))
    with desk.session() as session:
        lay_out_many(session, job_id, [picture_with(session, picture_id)], 2)
    return job_id


def asked_for(desk, job_id):
    with desk.session() as session:
        job = job_with(session, job_id)
        on_pages = select(Item.id).join(Page).where(Page.job_id == job_id)
        items = items_in(session, job, list(session.scalars(on_pages)))
        return ask_for_batch(session, job, items, REACH).id


def densities(desk, job_id):
    """The densities that are kept of all placements, and whether they agree with the rows."""
    with desk.session() as session:
        kept = select(Judgement.judged_ppi, Item.scale_x).join(Item, Item.id == Judgement.item_id)
        rows = session.execute(kept.where(Judgement.job_id == job_id).order_by(Item.id)).all()
    assert len(rows) == 60
    for ppi, scale in rows:
        assert ppi == pytest.approx(72 / scale)
    return [round(ppi, 6) for ppi, _ in rows]


def test_it_is_one_edit_and_one_undo_takes_it_back(desk, many):
    before = densities(desk, many)
    number = asked_for(desk, many)
    carry_out_batch(desk, number)
    after = densities(desk, many)
    assert set(after) == {300}
    with desk.session() as session:
        made = long_batch_with(session, many, number)
        assert (made.state, made.percent, made.trouble) == ("done", 100, None)
        assert made.said == "60 pictures changed. One undo reverts it."
        assert latest_edit(session, job_with(session, many)).label == "Scale to reach: 60 pictures"
        back = long_undo(session, job_with(session, many)).id
    carry_out_batch(desk, back)
    assert densities(desk, many) == before
    with desk.session() as session:
        again = long_redo(session, job_with(session, many)).id
    carry_out_batch(desk, again)
    assert densities(desk, many) == after


def test_few_rows_are_left_to_the_request(desk, many):
    with desk.session() as session:
        job = job_with(session, many)
        assert long_undo(session, job) is None and long_redo(session, job) is None
        job.title = "Other"
        assert session.scalar(select(func.count()).select_from(LongBatch)) == 0


@pytest.mark.parametrize("when", [0, 1, 2])
def test_cancelled_at_any_time_nothing_has_changed(desk, many, monkeypatch, when):
    before = densities(desk, many)
    number = asked_for(desk, many)
    told = []
    real = long_batch.Work.tell

    def tell(self, done, of):
        if len(told) == when:
            with desk.session() as session:
                cancel_work(long_batch_with(session, many, number))
        told.append((done, of))
        real(self, done, of)

    monkeypatch.setattr(long_batch.Work, "tell", tell)
    carry_out_batch(desk, number)
    assert told == [(0, 30), (0, 30), (20, 30)][: when + 1]
    assert densities(desk, many) == before
    with desk.session() as session:
        assert long_batch_with(session, many, number).state == "cancelled"
        assert session.scalar(select(func.count()).select_from(Edit)) == 0


def test_it_is_taken_up_again_after_a_killed_worker(desk, many):
    number = asked_for(desk, many)
    with desk.session() as session:
        long_batch_with(session, many, number).state = "working"
    carry_out_batch(desk, number)
    assert set(densities(desk, many)) == {300}
    carry_out_batch(desk, number)
    with desk.session() as session:
        assert session.scalar(select(func.count()).select_from(Edit)) == 1, "done once"


def test_an_undo_that_came_too_late_says_so(desk, many):
    carry_out_batch(desk, asked_for(desk, many))
    with desk.session() as session:
        job = job_with(session, many)
        number = long_undo(session, job).id
        undo(session, job)
    carry_out_batch(desk, number)
    with desk.session() as session:
        late = long_batch_with(session, many, number)
        assert late.state == "failed" and late.trouble.startswith("The job was changed meanwhile")


def test_walking_through_the_history(desk, many):
    before = densities(desk, many)
    carry_out_batch(desk, asked_for(desk, many))
    with desk.session() as session:
        number = long_travel(session, job_with(session, many), 0).id
        with pytest.raises(EntryGone):
            long_travel(session, job_with(session, many), 10**6)
    carry_out_batch(desk, number)
    assert densities(desk, many) == before


def test_a_batch_that_changes_nothing_fails_with_that_sentence(desk, many):
    carry_out_batch(desk, asked_for(desk, many))
    number = asked_for(desk, many)
    carry_out_batch(desk, number)
    with desk.session() as session:
        assert "None of the chosen pictures" in long_batch_with(session, many, number).trouble
        with pytest.raises(NotThere):
            long_batch_with(session, many + 1, number)


def test_many_rows_are_written_by_few_statements(desk, many):
    number, said = asked_for(desk, many), []

    def note(_link, _cursor, statement, *_rest):
        said.append(statement)

    event.listen(desk.engine, "before_cursor_execute", note)
    carry_out_batch(desk, number)
    event.remove(desk.engine, "before_cursor_execute", note)
    changes = [one for one in said if one.startswith(("UPDATE", "INSERT", "DELETE"))]
    assert sum('UPDATE "item"' in one for one in changes) == 1
    assert not [one for one in changes if one.startswith("UPDATE item")]
