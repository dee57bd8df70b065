"""The queue: what it does by itself, and that a killed worker's task is taken up again."""

import asyncio
from concurrent.futures import ThreadPoolExecutor

import pytest
from sqlalchemy import text

from harnet.store.tables.copies import PrintCopy
from harnet.studio.copies.copies import ask_for_copy, copy_with
from harnet.studio.pictures.picture import picture_with
from harnet.studio.tasks.states import DONE
from harnet.worker.tasks import queue_on, take_up_again
from tests.support.recipes import HALF


@pytest.fixture
def queue(settings):
    return queue_on(settings)


def test_the_shelves_are_read_again_every_minute(queue):
    found = {task.task.name: task.cron for task in queue.periodic_registry.periodic_tasks.values()}
    assert found == {"look_again": "* * * * *", "clear_outputs": "17 * * * *"}


def worked(queue):
    async def run():
        async with queue.open_async():
            await take_up_again(queue)
            await queue.run_worker_async(wait=False, install_signal_handlers=False)

    # A thread of its own: other tests leave an event loop running in this one.
    with ThreadPoolExecutor(1) as pool:
        pool.submit(asyncio.run, run()).result()


def test_a_copy_is_made_by_the_worker(queue, studio, on_shelf, make_picture):
    picture_id = on_shelf(make_picture(width=1200, height=800))
    with studio.session() as session:
        copy_id = ask_for_copy(session, picture_with(session, picture_id), HALF).id
    with queue.open():
        queue.configure_task("make_copy", queue="copies").defer(row_id=copy_id)
    worked(queue)
    with studio.session() as session:
        assert copy_with(session, copy_id).state == DONE


def test_a_killed_workers_copy_is_taken_up_again(queue, studio, on_shelf, make_picture):
    picture_id = on_shelf(make_picture(width=1200, height=800))
    with studio.session() as session:
        copy = ask_for_copy(session, picture_with(session, picture_id), HALF)
        copy.state = "working"
        copy_id = copy.id
    with queue.open():
        queue.configure_task("make_copy", queue="copies").defer(row_id=copy_id)
    with studio.engine.begin() as connection:
        # As a killed worker leaves it: taken, with no sign of life since.
        dead = connection.execute(
            text(
                "insert into procrastinate_workers (last_heartbeat)"
                " values (now() - interval '10 minutes') returning id"
            )
        ).scalar_one()
        connection.execute(
            text("update procrastinate_jobs set status = 'doing', worker_id = :dead"),
            {"dead": dead},
        )
    worked(queue)
    with studio.session() as session:
        copy = session.get(PrintCopy, copy_id)
        assert copy.state == DONE and copy.made is not None
