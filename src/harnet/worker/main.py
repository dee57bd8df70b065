"""The worker process: `python -m harnet.worker.main`."""

import asyncio
import logging
import os

import psycopg
from procrastinate import App
from procrastinate.exceptions import ConnectorException
from psycopg_pool import PoolTimeout

from harnet.studio.common.logs import configure_logging
from harnet.studio.common.settings import Settings
from harnet.worker.tasks import queue_again, queue_on, take_up_again

GIVES_WAY_BY = 5
"""Niceness: work in the background gives way to whoever waits for a page on the same machine."""
_ROUND_SECONDS = 15
_PAUSE_SECONDS = 2


async def _work_on() -> None:
    """Works until it is told to stop; when the database goes away, begins again once it is back."""
    while True:
        try:
            await _work()
            return
        except (psycopg.Error, ConnectorException, PoolTimeout) as error:
            logging.warning("the database is away (%s); trying again", type(error).__name__)
            await asyncio.sleep(_PAUSE_SECONDS)


async def _work() -> None:
    settings = Settings.from_environment()
    queue = queue_on(settings)
    async with queue.open_async():
        rounds = asyncio.create_task(_take_up_again_now_and_then(queue, settings))
        await queue.run_worker_async(concurrency=2, fetch_job_polling_interval=1.0)
        rounds.cancel()


async def _take_up_again_now_and_then(queue: App, settings: Settings) -> None:
    while True:
        await take_up_again(queue)
        await queue_again(queue, settings)
        await asyncio.sleep(_ROUND_SECONDS)


if __name__ == "__main__":
    configure_logging()
    os.nice(GIVES_WAY_BY)
    asyncio.run(_work_on())
