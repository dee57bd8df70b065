"""The worker process: `python -m harnet.worker.main`."""

import asyncio
import logging

from harnet.studio.desk import Settings
from harnet.worker.tasks import queue_on


async def _work() -> None:
    queue = queue_on(Settings.from_environment())
    async with queue.open_async():
        await queue.run_worker_async(concurrency=1, fetch_job_polling_interval=1.0)


if __name__ == "__main__":
    logging.basicConfig(level=logging.WARNING)
    asyncio.run(_work())
