"""The connection to PostgreSQL, and bringing its tables up to date."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, create_engine
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session as Session

_MIGRATIONS = Path(__file__).parent / "migrations"


def engine_for(url: str) -> Engine:
    """An engine on a `postgresql+psycopg://` address; dead connections are replaced."""
    return create_engine(url, pool_pre_ping=True)


def state_of_tables(url: str) -> str:
    """How a database stands: `current`, `older`, `newer`, `empty`, or `away` where none answers."""
    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    scripts = ScriptDirectory.from_config(config)
    engine = engine_for(url)
    try:
        with engine.connect() as link:
            found = MigrationContext.configure(link).get_current_revision()
    except OperationalError:
        return "away"
    finally:
        engine.dispose()
    if found is None:
        return "empty"
    if found == scripts.get_current_head():
        return "current"
    known = {script.revision for script in scripts.walk_revisions()}
    return "older" if found in known else "newer"


def migrate(url: str) -> None:
    """Runs every migration that this database has not seen."""
    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    config.attributes["url"] = url
    command.upgrade(config, "head")
