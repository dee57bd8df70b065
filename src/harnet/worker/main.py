"""The worker process: `python -m harnet.worker.main`."""

import asyncio
import logging

from procrastinate import App

from harnet.studio.desk import Settings
from harnet.worker.tasks import queue_on, take_up_again

_ROUND_SECONDS = 15


async def _work() -> None:
    queue = queue_on(Settings.from_environment())
    async with queue.open_async():
        rounds = asyncio.create_task(_take_up_again_now_and_then(queue))
        await queue.run_worker_async(concurrency=2, fetch_job_polling_interval=1.0)
        rounds.cancel()


async def _take_up_again_now_and_then(queue: App) -> None:
    while True:
        await take_up_again(queue)
        await asyncio.sleep(_ROUND_SECONDS)


if __name__ == "__main__":
    logging.basicConfig(level=logging.WARNING)
    asyncio.run(_work())
