"""Batches, undo and redo over more placements than a request should change."""

import pytest
from sqlalchemy import event, func, select

from harnet.core.layout.placing import Adjusts
from harnet.demo.many import lay_out_many
from harnet.store.history import EntryGone, latest_edit, undo
from harnet.store.tables.jobs import Edit, Item, Page
from harnet.store.tables.long_batch import LongBatch
from harnet.store.tables.preflight import Judgement
from harnet.studio.common.errors import NotThere
from harnet.studio.jobs.jobs import job_with
from harnet.studio.judging import judging
from harnet.studio.layout.placing import items_in
from harnet.studio.ledger import long_batch
from harnet.studio.ledger.batch import Batch, BatchAction
from harnet.studio.ledger.long_batch import (
    ask_for_batch,
    carry_out_batch,
    long_batch_with,
    long_redo,
    long_travel,
    long_undo,
)
from harnet.studio.pictures.picture import picture_with
from harnet.studio.tasks.work import cancel_work

REACH = Batch(BatchAction.REACH, Adjusts.CROP)


@pytest.fixture
def many(studio, new_job, on_shelf, make_picture, monkeypatch):
    """A job of 60 placements on 30 pages, and a limit of 50."""
    monkeypatch.setattr(long_batch, "LONG", 50)
    monkeypatch.setattr(judging, "_PAGES_AT_ONCE", 20)
    monkeypatch.setattr("harnet.studio.tasks.work._TOLD_EVERY_SECONDS", 0.0)
    job_id = new_job(pages=30)
    picture_id = on_shelf(make_picture("slipway.jpg", 300, 200))
    with studio.session() as session:
        lay_out_many(session, job_id, [picture_with(session, picture_id)], 2)
    return job_id


def asked_for(studio, job_id):
    with studio.session() as session:
        job = job_with(session, job_id)
        on_pages = select(Item.id).join(Page).where(Page.job_id == job_id)
        items = items_in(session, job, list(session.scalars(on_pages)))
        return ask_for_batch(session, job, items, REACH).id


def densities(studio, job_id):
    """The densities that are kept of all placements, and whether they agree with the rows."""
    with studio.session() as session:
        kept = select(Judgement.judged_ppi, Item.scale_x).join(Item, Item.id == Judgement.item_id)
        rows = session.execute(kept.where(Judgement.job_id == job_id).order_by(Item.id)).all()
    assert len(rows) == 60
    for ppi, scale in rows:
        assert ppi == pytest.approx(72 / scale)
    return [round(ppi, 6) for ppi, _ in rows]


def test_it_is_one_edit_and_one_undo_takes_it_back(studio, many):
    before = densities(studio, many)
    number = asked_for(studio, many)
    carry_out_batch(studio, number)
    after = densities(studio, many)
    assert set(after) == {300}
    with studio.session() as session:
        made = long_batch_with(session, many, number)
        assert (made.state, made.percent, made.failure) == ("done", 100, None)
        assert made.said == "60 pictures changed. One undo reverts it."
        assert latest_edit(session, job_with(session, many)).label == "Scale to reach: 60 pictures"
        back = long_undo(session, job_with(session, many)).id
    carry_out_batch(studio, back)
    assert densities(studio, many) == before
    with studio.session() as session:
        again = long_redo(session, job_with(session, many)).id
    carry_out_batch(studio, again)
    assert densities(studio, many) == after


def test_few_rows_are_left_to_the_request(studio, many):
    with studio.session() as session:
        job = job_with(session, many)
        assert long_undo(session, job) is None and long_redo(session, job) is None
        job.title = "Other"
        assert session.scalar(select(func.count()).select_from(LongBatch)) == 0


@pytest.mark.parametrize(
    ("earlier", "done"),
    [
        pytest.param(0, 0, id="as it begins"),
        pytest.param(10, 0, id="while its rows are changed"),
        pytest.param(1, 20, id="while its pages are judged"),
    ],
)
def test_cancelled_at_any_time_nothing_has_changed(studio, many, monkeypatch, earlier, done):
    before = densities(studio, many)
    number = asked_for(studio, many)
    told = []
    real = long_batch.Work.tell

    def tell(self, so_far, of):
        if len(told) >= earlier and so_far == done:
            with studio.session() as session:
                cancel_work(long_batch_with(session, many, number))
        told.append((so_far, of))
        real(self, so_far, of)

    monkeypatch.setattr(long_batch.Work, "tell", tell)
    carry_out_batch(studio, number)
    assert told[-1] == (done, 30) and len(told) > earlier
    assert densities(studio, many) == before
    with studio.session() as session:
        assert long_batch_with(session, many, number).state == "cancelled"
        assert session.scalar(select(func.count()).select_from(Edit)) == 0


def test_it_is_taken_up_again_after_a_killed_worker(studio, many):
    number = asked_for(studio, many)
    with studio.session() as session:
        long_batch_with(session, many, number).state = "working"
    carry_out_batch(studio, number)
    assert set(densities(studio, many)) == {300}
    carry_out_batch(studio, number)
    with studio.session() as session:
        assert session.scalar(select(func.count()).select_from(Edit)) == 1, "done once"


def test_an_undo_that_came_too_late_says_so(studio, many):
    carry_out_batch(studio, asked_for(studio, many))
    with studio.session() as session:
        job = job_with(session, many)
        number = long_undo(session, job).id
        undo(session, job)
    carry_out_batch(studio, number)
    with studio.session() as session:
        late = long_batch_with(session, many, number)
        assert late.state == "failed" and late.failure.startswith("The job changed in the meantime")


def test_walking_through_the_history(studio, many):
    before = densities(studio, many)
    carry_out_batch(studio, asked_for(studio, many))
    with studio.session() as session:
        number = long_travel(session, job_with(session, many), 0).id
        with pytest.raises(EntryGone):
            long_travel(session, job_with(session, many), 10**6)
    carry_out_batch(studio, number)
    assert densities(studio, many) == before


def test_a_batch_that_changes_nothing_fails_with_that_sentence(studio, many):
    carry_out_batch(studio, asked_for(studio, many))
    number = asked_for(studio, many)
    carry_out_batch(studio, number)
    with studio.session() as session:
        assert "None of the selected pictures" in long_batch_with(session, many, number).failure
        with pytest.raises(NotThere):
            long_batch_with(session, many + 1, number)


def test_many_rows_are_written_by_few_statements(studio, many):
    number, said = asked_for(studio, many), []

    def note(_link, _cursor, statement, *_rest):
        said.append(statement)

    event.listen(studio.engine, "before_cursor_execute", note)
    carry_out_batch(studio, number)
    event.remove(studio.engine, "before_cursor_execute", note)
    changes = [one for one in said if one.startswith(("UPDATE", "INSERT", "DELETE"))]
    assert sum('UPDATE "item"' in one for one in changes) == 1
    assert not [one for one in changes if one.startswith("UPDATE item")]
