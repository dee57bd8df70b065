"""Many changed rows written by one statement each: what is noted of them, and who was first."""

import pytest
from sqlalchemy import event, select, text, update

from harnet.demo.many import lay_out_many
from harnet.store.history import recorded, undo
from harnet.store.tables.jobs import Item, Page
from harnet.studio.common.errors import Conflict
from harnet.studio.jobs.jobs import job_with
from harnet.studio.jobs.pages import add_page
from harnet.studio.judging.judging import judge_job, settle
from harnet.studio.pictures.picture import picture_with

MANY = 30


@pytest.fixture
def job_id(studio, new_job, on_shelf, make_picture):
    """A job of many pages, the first with many pictures."""
    number = new_job(pages=1)
    picture_id = on_shelf(make_picture("slipway.jpg", 300, 200))
    with studio.session() as session:
        lay_out_many(session, number, [picture_with(session, picture_id)], MANY)
    with studio.session() as session:
        for _ in range(MANY):
            add_page(session, job_with(session, number), 1)
    return number


def tallies(session, job_id):
    return list(
        session.scalars(select(Page.tally).where(Page.job_id == job_id).order_by(Page.position))
    )


def test_both_pages_are_counted_again_when_many_items_change_theirs(studio, job_id):
    def counted_anew():
        with studio.session() as session:
            kept = tallies(session, job_id)
            judge_job(session, job_with(session, job_id))
            session.flush()
            assert tallies(session, job_id) == kept
            return [sum(tally[:5]) for tally in kept]

    with studio.session() as session:
        first, second = job_with(session, job_id).pages[:2]
        items = list(first.items)
        with recorded(session, job_with(session, job_id), "Move many"):
            for item in items:
                item.page_id = second.id
        settle(session)
    assert counted_anew()[:2] == [0, MANY]
    with studio.session() as session:
        assert undo(session, job_with(session, job_id)) is not None
        settle(session)
    assert counted_anew()[:2] == [MANY, 0]


def test_pages_behind_a_new_one_are_written_at_once_and_none_is_judged(studio, job_id):
    said, written = [], text("select item_id, xmin::text from judgement order by item_id")

    def note(_link, _cursor, statement, *_):
        said.append(statement)

    with studio.session() as session:
        job = job_with(session, job_id)
        before = [page.id for page in job.pages]
        versions = {page.id: page.version for page in job.pages}
        judged = session.execute(written).all()
        event.listen(studio.engine, "before_cursor_execute", note)
        add_page(session, job, 1)
        settle(session)
        event.remove(studio.engine, "before_cursor_execute", note)
    writing = [one for one in said if one.startswith("UPDATE")]
    assert sum("page" in one.partition("SET")[0] for one in writing) <= 2
    with studio.session() as session:
        assert session.execute(written).all() == judged
        pages = job_with(session, job_id).pages
        assert [page.position for page in pages] == list(range(MANY + 2))
        assert [page.id for page in pages if page.id in versions] == before
        moved = pages[2:]
        assert all(page.version == versions[page.id] + 1 for page in moved)
        assert undo(session, job_with(session, job_id)) is not None
        settle(session)
    with studio.session() as session:
        pages = job_with(session, job_id).pages
        assert [page.id for page in pages] == before
        assert [page.position for page in pages] == list(range(MANY + 1))


@pytest.mark.parametrize("model", [Page, Item])
def test_who_was_first_wins(studio, job_id, model):
    with pytest.raises(Conflict), studio.session() as session:
        job = job_with(session, job_id)
        rows = job.pages[1:] if model is Page else list(job.pages[0].items)
        someone_else = update(model).where(model.id == rows[7].id)
        session.connection().execute(someone_else.values(version=model.version + 1))
        with recorded(session, job, "All of them"):
            for row in rows:
                if model is Page:
                    row.guides = {"x": [12.0], "y": []}
                else:
                    row.x_pt += 3
