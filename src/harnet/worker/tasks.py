"""The queue and its tasks; the web asks for them, the worker does them."""

from procrastinate import App, PsycopgConnector

from harnet.studio.desk import Desk, Settings
from harnet.studio.outputs import make_output


def conninfo(database_url: str) -> str:
    """A database address as the queue's driver takes it."""
    return database_url.replace("postgresql+psycopg://", "postgresql://", 1)


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
