"""Pages are read once; whatever changes about them is seen at once."""

from contextlib import suppress
from random import Random

import pytest
from sqlalchemy import event, select

from harnet.store.history import redo, undo
from harnet.store.known_pages import _MOST
from harnet.store.tables.jobs import Page
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.jobs.jobs import job_with, page_count, page_of, pages_between
from harnet.studio.jobs.pages import add_page, move_pages, remove_page


@pytest.fixture
def book(studio, new_job):
    job_id = new_job(pages=12)
    with studio.session() as session:
        yield session, job_with(session, job_id)


def test_read_once(book):
    session, job = book
    asked = []
    event.listen(session.get_bind(), "before_cursor_execute", lambda *seen: asked.append(seen[2]))
    for _ in range(3):
        assert page_of(job, 4).position == 3 and page_count(job) == 12
    assert len(asked) == 2
    assert [page.position for page in pages_between(job, 3, 6)] == [2, 3, 4, 5]
    assert page_of(job, 5) is pages_between(job, 5, 5)[0]
    assert len(asked) == 3
    with pytest.raises(NotThere):
        page_of(job, 13)


@pytest.mark.parametrize("seed", range(4))
def test_every_change_is_seen(book, seed):
    session, job = book
    chance = Random(seed)
    for _ in range(12):
        count = page_count(job)
        number = chance.randint(1, count)
        page_of(job, number)
        step = chance.choice(["add", "remove", "move", "undo", "redo", "by hand", "roll back"])
        if step == "add":
            add_page(session, job, number)
        elif step == "remove" and count > 2:
            remove_page(session, job, number)
        elif step == "move":
            move_pages(session, job, [number], chance.randint(1, count))
        elif step in ("undo", "redo"):
            with suppress(Refused):
                (undo if step == "undo" else redo)(session, job)
        elif step == "by hand" and count > 1:
            one, other = page_of(job, 1), page_of(job, count)
            one.position, other.position = other.position, one.position
        elif step == "roll back":
            with session.begin_nested() as part:
                one, other = page_of(job, 1), page_of(job, count)
                one.position, other.position = other.position, one.position
                assert page_of(job, 1) is other
                part.rollback()
        session.expire(job, ["pages"])
        rows = session.execute(
            select(Page.id, Page.position).where(Page.job_id == job.id).order_by(Page.position)
        ).all()
        assert page_count(job) == len(rows)
        for number, (page_id, position) in enumerate(rows, 1):
            page = page_of(job, number)
            assert (page.id, page.position) == (page_id, position) == (page_id, number - 1), step


def test_a_long_job_is_not_held(studio, new_job):
    with studio.session() as session:
        job = job_with(session, new_job(pages=_MOST + 20))
        for number in range(1, _MOST + 21):
            assert page_of(job, number).position == number - 1
        kept = session.info["known_pages"]
        assert len(kept._pages) <= _MOST
        assert len(pages_between(job, 1, _MOST + 20)) == _MOST + 20
        assert len(kept._pages) <= _MOST
