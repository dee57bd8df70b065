"""The queue and its tasks; the web asks for them, the worker does them."""

import asyncio

from procrastinate import App, PsycopgConnector

from harnet.studio.common.desk import Desk, Settings
from harnet.studio.copies.copies import make_copy
from harnet.studio.documents.kept import read_pdf
from harnet.studio.handoff.opening import open_pack
from harnet.studio.jobs.listing import look_at_jobs
from harnet.studio.output.clearing import clear_old_outputs
from harnet.studio.output.print_houses import ask_house
from harnet.studio.output.working import make_output
from harnet.studio.pictures.agency import fetch_picture
from harnet.studio.pictures.exact import make_exact
from harnet.studio.pictures.shelves import look_at_shelves, make_waiting_previews
from harnet.studio.tasks.sweeping import sweep
from harnet.studio.tasks.waiting import Waiting, without_task

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

    def look() -> list[Waiting]:
        desk = Desk(settings)
        try:
            with desk.session() as session:
                return without_task(session)
        finally:
            desk.engine.dispose()

    waiting = await asyncio.to_thread(look)
    for one in waiting:
        task = queue.configure_task(one.task, queue=one.queue)
        await task.defer_async(**{one.argument: one.row_id})
    return len(waiting)


def queue_on(settings: Settings) -> App:
    """The work queue on this studio's database, with its tasks."""
    app = App(connector=PsycopgConnector(conninfo=conninfo(settings.database_url)))
    desks: list[Desk] = []

    def desk() -> Desk:
        if not desks:
            desks.append(Desk(settings))
        return desks[0]

    @app.task(name="make_output", queue="outputs")
    def make(output_id: int) -> None:
        make_output(desk(), output_id)

    @app.task(name="read_pdf", queue="outputs")
    def check(pdf_id: int) -> None:
        read_pdf(desk(), pdf_id)

    @app.task(name="open_pack", queue="outputs")
    def unpack(opening_id: int) -> None:
        open_pack(desk(), opening_id)

    @app.task(name="ask_house", queue="outputs")
    def send(output_id: int, house: str) -> None:
        ask_house(desk(), output_id, house)

    @app.periodic(cron="17 * * * *")
    @app.task(name="clear_outputs", queue="shelves", queueing_lock="clearing")
    def clear(timestamp: int = 0) -> None:
        clear_old_outputs(desk())
        sweep(desk())

    @app.task(name="make_copy", queue="copies")
    def copy(copy_id: int) -> None:
        make_copy(desk(), copy_id)

    @app.task(name="fetch_picture", queue="copies")
    def fetch(fetch_id: int) -> None:
        fetch_picture(desk(), fetch_id)

    @app.task(name="make_exact", queue="copies")
    def exact(picture_id: int) -> None:
        make_exact(desk(), picture_id)

    @app.periodic(cron="* * * * *")
    @app.task(name="look_again", queue="shelves", lock="shelves", queueing_lock="shelves")
    def look(timestamp: int = 0) -> None:
        look_at_shelves(desk())
        make_waiting_previews(desk())
        look_at_jobs(desk())

    return app
