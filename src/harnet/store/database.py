"""The connection to PostgreSQL, and bringing its tables up to date."""

from functools import cache
from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Connection, Engine, create_engine
from sqlalchemy.exc import InternalError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolExhausted
from sqlalchemy.orm import Session as Session
from sqlalchemy.orm import object_session as object_session

_MIGRATIONS = Path(__file__).parent / "migrations"


_SPARE_CONNECTIONS = 4


DATABASE_AWAY = (OperationalError, InternalError, PoolExhausted)
"""What is raised while the database restarts, takes no changes, or has no connection to spare."""


def engine_for(url: str, threads: int = 5) -> Engine:
    """An engine on a `postgresql+psycopg://` address; dead connections are replaced.

    It keeps a connection for each of so many threads, and some to spare.
    """
    return create_engine(
        url, pool_pre_ping=True, pool_size=threads, max_overflow=_SPARE_CONNECTIONS
    )


def state_of_tables(url: str) -> str:
    """How a database stands: `current`, `older`, `newer`, `empty`, or `away` where none answers."""
    try:
        found = version_of_tables(url)
    except OperationalError:
        return "away"
    return state_of_version(found)


def version_of_tables(url: str) -> str | None:
    """The last migration that a database has seen; None where there are no tables.

    Raises:
        OperationalError: it does not answer.
    """
    engine = engine_for(url)
    try:
        with engine.connect() as link:
            return version_by(link)
    finally:
        engine.dispose()


def version_by(link: Connection) -> str | None:
    """The last migration that the database of a connection has seen; None without tables."""
    return MigrationContext.configure(link).get_current_revision()


def state_of_version(found: str | None) -> str:
    """How tables of a version stand: `current`, `older`, `newer`, or `empty` for none."""
    if found is None:
        return "empty"
    latest, *earlier = _migrations()
    if found == latest:
        return "current"
    return "older" if found in earlier else "newer"


@cache
def _migrations() -> tuple[str, ...]:
    """The migrations of this version of Harnet, the latest first."""
    scripts = ScriptDirectory.from_config(_config())
    return tuple(script.revision for script in scripts.walk_revisions())


def migrate(url: str) -> None:
    """Runs every migration that this database has not seen."""
    config = _config()
    config.attributes["url"] = url
    command.upgrade(config, "head")


def _config() -> Config:
    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    return config
