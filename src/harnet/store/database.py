"""The connection to PostgreSQL, and bringing its tables up to date."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine

_MIGRATIONS = Path(__file__).parent / "migrations"


def engine_for(url: str) -> Engine:
    """An engine on a `postgresql+psycopg://` address; dead connections are replaced."""
    return create_engine(url, pool_pre_ping=True)


def migrate(url: str) -> None:
    """Runs every migration that this database has not seen."""
    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    config.attributes["url"] = url
    command.upgrade(config, "head")
