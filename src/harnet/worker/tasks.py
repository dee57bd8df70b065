"""The queue and its tasks; the web asks for them, the worker does them."""

from procrastinate import App, PsycopgConnector

from harnet.studio.desk import Desk, Settings
from harnet.studio.outputs import make_output

_SILENT_SECONDS = 30
"""After so long without a sign a worker counts as dead; a living one gives one every ten."""


def conninfo(database_url: str) -> str:
    """A database address as the queue's driver takes it."""
    return database_url.replace("postgresql+psycopg://", "postgresql://", 1)


async def take_up_again(queue: App) -> None:
    """Puts tasks back that a killed worker left half done; making an output twice is harmless."""
    for job in await queue.job_manager.get_stalled_jobs(seconds_since_heartbeat=_SILENT_SECONDS):
        await queue.job_manager.retry_job(job)


def queue_on(settings: Settings) -> App:
    """The work queue on this studio's database, with its tasks."""
    app = App(connector=PsycopgConnector(conninfo=conninfo(settings.database_url)))
    desks: list[Desk] = []

    @app.task(name="make_output", queue="outputs")
    def make(output_id: int) -> None:
        if not desks:
            desks.append(Desk(settings))
        make_output(desks[0], output_id)

    return app
