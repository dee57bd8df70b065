"""`harnet init`, `harnet serve` and `harnet worker`: a studio is made and run."""

import os
import shutil
import sys
from pathlib import Path
from typing import NoReturn

import click

from harnet.studio.common.configuration import SettingsRefused, values_in_force

_LOOPBACK = ("127.0.0.1", "localhost", "::1")
_NOT_SET = 2


@click.command()
def init() -> None:
    """Make a studio, or bring one up to date: its tables, its folders, its secret.

    HARNET_DATABASE and HARNET_DATA say where. It does no harm to do it again.
    """
    require_settings(must_be_current=False)
    # Only here: these take longer to load than most commands to run.
    from harnet.standins.studio import open_studio  # noqa: PLC0415
    from harnet.store.database import migrate, state_of_tables  # noqa: PLC0415
    from harnet.studio.common.settings import Settings, secret_of  # noqa: PLC0415

    settings = Settings.from_environment()
    was = state_of_tables(settings.database_url)
    if was in _SENTENCES and was not in ("empty", "older"):
        _stop(_SENTENCES[was])
    migrate(settings.database_url)
    open_studio(settings).engine.dispose()
    secret_of(settings)
    words = {
        "current": "was already up to date",
        "older": "has been brought up to date",
        "empty": "is made",
    }
    click.echo(f"The studio in {settings.data_folder} {words[was]}.")


@click.command()
@click.option(
    "--host",
    default="127.0.0.1",
    show_default=True,
    help="The address to listen on; beyond loopback once there are people who sign in.",
)
@click.option(
    "--port",
    type=click.IntRange(1, 65535),
    default=8000,
    show_default=True,
    help="The port to listen on.",
)
@click.option(
    "--processes",
    type=click.IntRange(1, 64),
    help="Web processes; HARNET_PROCESSES without, else 1.",
)
@click.option(
    "--threads",
    type=click.IntRange(1, 64),
    help="Requests that a process answers at the same time; HARNET_THREADS without, else 8.",
)
@click.option(
    "--reviews-only",
    is_flag=True,
    help="Answer review links and nothing else, for a port that others may reach.",
)
def serve(
    host: str, port: int, processes: int | None, threads: int | None, reviews_only: bool
) -> None:
    """Run the web application.

    HARNET_DATABASE and HARNET_DATA say where the studio is kept; HARNET_HOSTS the names, beside
    loopback's, that it answers to. harnet config lists all settings.
    """
    require_settings()
    values = values_in_force()
    is_reached = host not in _LOOPBACK or values["HARNET_TRUSTED_PROXIES"] != "0"
    if is_reached and not reviews_only:
        _require_people(host)
    where = f"[{host}]" if ":" in host else host
    application = "harnet.web.serve:reviews" if reviews_only else "harnet.web.serve:app"
    # Whatever is asked for here is in force in the processes, too: pools are as large as threads.
    os.environ["HARNET_PROCESSES"] = str(processes or values["HARNET_PROCESSES"])
    os.environ["HARNET_THREADS"] = str(threads or values["HARNET_THREADS"])
    sizes = ["--workers", os.environ["HARNET_PROCESSES"], "--threads", os.environ["HARNET_THREADS"]]
    server = ["--bind", f"{where}:{port}", *sizes, "--log-level", "warning"]
    # glibc would give every thread rooms of its own, and hand little of them back.
    os.environ.setdefault("MALLOC_ARENA_MAX", "2")
    os.environ["PROMETHEUS_MULTIPROC_DIR"] = str(_fresh_folder(Path(values["HARNET_DATA"]), port))
    _become("gunicorn", *server, "--no-control-socket", application)


def _fresh_folder(data: Path, port: int) -> Path:
    """An empty folder where the processes of this server keep their counts."""
    folder = data / f"metrics-{port}"
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    return folder


def _require_people(host: str) -> None:
    """Ends the command where others could reach a studio that asks nobody who they are."""
    from harnet.standins.studio import open_studio  # noqa: PLC0415
    from harnet.studio.common.settings import Settings  # noqa: PLC0415
    from harnet.studio.people.people import asks_for_names  # noqa: PLC0415

    studio = open_studio(Settings.from_environment())
    with studio.session() as session:
        is_asking = asks_for_names(session)
    studio.engine.dispose()
    if not is_asking:
        _stop(
            f"Harnet does not listen on {host}, or behind a proxy, before people sign in: anyone"
            " who reached it could change everything. Make the first owner with:"
            " harnet person add NAME --owner. Or show review links alone, with --reviews-only"
        )


@click.command()
def worker() -> None:
    """Run a worker, which makes outputs and copies and reads PDFs; several may share the work.

    HARNET_DATABASE and HARNET_DATA say where the studio is kept.
    """
    require_settings()
    _become("harnet.worker.main")


_SENTENCES = {
    "empty": "There is no studio in this database yet; make one with harnet init",
    "older": "This studio was made by an older Harnet; bring it up to date with harnet init",
    "newer": "This studio was made by a newer Harnet; use that one",
    "away": "The database does not answer; start it, or correct HARNET_DATABASE",
}


def require_settings(must_be_current: bool = True) -> None:
    """Ends the command where nothing says in which studio it is to work, or that is not ready."""
    try:
        values = values_in_force()
    except SettingsRefused as error:
        _stop(f"{error} script/demo shows how, harnet config lists all settings.")
    if must_be_current:
        from harnet.store.database import state_of_tables  # noqa: PLC0415

        state = state_of_tables(values["HARNET_DATABASE"])
        if state in _SENTENCES:
            _stop(_SENTENCES[state])


def _stop(sentence: str) -> NoReturn:
    click.echo(sentence, err=True)
    sys.exit(_NOT_SET)


def _become(module: str, *words: str) -> None:
    """Goes on as another program, so that signals reach it and nothing stands between."""
    sys.stdout.flush()
    os.execv(sys.executable, [sys.executable, "-m", module, *words])
