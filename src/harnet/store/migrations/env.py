"""Runs migrations on the database whose address the caller hands over."""

from alembic import context

from harnet.store.base import Base
from harnet.store.database import engine_for
from harnet.store.tables import (  # noqa: F401 (known to the registry)
    copies,
    documents,
    handoff,
    jobs,
    long_batch,
    output,
    pictures,
    preflight,
    reviews,
    targets,
    tokens,
)

engine = engine_for(context.config.attributes["url"])
with engine.begin() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata)
    with context.begin_transaction():
        context.run_migrations()
engine.dispose()
