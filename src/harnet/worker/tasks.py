"""The queue and its tasks; the web asks for them, the worker does them."""

import asyncio
from typing import Any

from procrastinate import App, JobContext, PsycopgConnector

from harnet.standins.studio import open_studio
from harnet.studio.common.logs import logged_task
from harnet.studio.common.settings import Settings
from harnet.studio.common.studio import Studio
from harnet.studio.copies.copies import MAKE_COPY
from harnet.studio.documents.keeping import READ_PDF
from harnet.studio.documents.making.carrying_out import DO_DOCUMENT_WORK
from harnet.studio.handoff.opening import OPEN_PACK
from harnet.studio.ledger.long_batch import CARRY_OUT_BATCH
from harnet.studio.output.close_look import MAKE_CLOSE_LOOK
from harnet.studio.output.print_houses import ASK_HOUSE
from harnet.studio.output.task import MAKE_OUTPUT
from harnet.studio.pictures.agency import FETCH_PICTURE
from harnet.studio.pictures.exact import MAKE_EXACT
from harnet.studio.tasks.task import Task
from harnet.studio.tasks.waiting import without_task
from harnet.studio.tasks.work import name_behind
from harnet.worker.rounds import CLEAR, LOOK_AGAIN

TASKS = (
    MAKE_OUTPUT,
    READ_PDF,
    DO_DOCUMENT_WORK,
    OPEN_PACK,
    CARRY_OUT_BATCH,
    ASK_HOUSE,
    MAKE_COPY,
    FETCH_PICTURE,
    MAKE_EXACT,
    MAKE_CLOSE_LOOK,
    LOOK_AGAIN,
    CLEAR,
)
_SILENT_SECONDS = 30
"""After so long without a sign a worker counts as dead; a living one gives one every ten."""


def conninfo(database_url: str) -> str:
    """A database address as the queue's driver takes it."""
    return database_url.replace("postgresql+psycopg://", "postgresql://", 1)


async def take_up_again(queue: App) -> None:
    """Puts tasks back that a killed worker left half done; making an output twice is harmless."""
    for job in await queue.job_manager.get_stalled_jobs(seconds_since_heartbeat=_SILENT_SECONDS):
        await queue.job_manager.retry_job(job)


async def queue_again(queue: App, settings: Settings) -> int:
    """Queues work that waits without a task, lost between a commit and the queue; how much."""

    def look() -> list[tuple[Task, int]]:
        studio = open_studio(settings)
        try:
            with studio.session() as session:
                return without_task(session, TASKS)
        finally:
            studio.engine.dispose()

    waiting = await asyncio.to_thread(look)
    for task, row_id in waiting:
        await queue.configure_task(task.name, queue=task.queue).defer_async(row_id=row_id)
    return len(waiting)


def queue_on(settings: Settings) -> App:
    """The work queue on this studio's database, with its tasks."""
    app = App(connector=PsycopgConnector(conninfo=conninfo(settings.database_url)))
    opened: list[Studio] = []

    def studio() -> Studio:
        if not opened:
            opened.append(open_studio(settings))
        return opened[0]

    def add(task: Task) -> None:
        @app.task(
            name=task.name,
            queue=task.queue,
            lock=task.lock,
            queueing_lock=task.queueing_lock,
            pass_context=True,
        )
        def done(context: JobContext, /, timestamp: int = 0, **arguments: Any) -> None:
            """What is done by itself is told when it was due; nobody needs that."""
            what = " ".join(f"{name}={value}" for name, value in arguments.items())
            person = name_behind(studio(), task.model, arguments.get("row_id"))
            with logged_task(str(context.job.id), person, task.queue, task.name, what):
                task.run(studio(), **arguments)

        if task.cron:
            app.periodic(cron=task.cron)(done)

    for one in TASKS:
        add(one)
    return app
