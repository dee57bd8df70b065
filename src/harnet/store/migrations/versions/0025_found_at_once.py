"""Indexes for what is looked for by a part of its name, and for the pictures with most pixels."""

from alembic import op

revision = "0025"
down_revision = "0024"

_NAMES = {
    "job": "title",
    "picture": "file_name",
    "document": "file_name",
    "item": "text",
    "finding": "name",
}
_PIXELS = "((facts ->> 'px_w')::numeric * (facts ->> 'px_h')::numeric)::bigint"


def upgrade() -> None:
    """Builds them; pg_trgm comes with PostgreSQL, and a database's owner may switch it on."""
    op.execute("create extension if not exists pg_trgm")
    for table, column in _NAMES.items():
        op.execute(
            f"create index ix_{table}_{column}_parts on {table}"
            f" using gin (lower({column}) gin_trgm_ops)"
        )
    op.execute(
        f"alter table picture add column pixels bigint generated always as ({_PIXELS}) stored"
    )
    op.execute("create index ix_picture_pixels on picture (pixels desc nulls last, id)")


def downgrade() -> None:
    """The names are looked through one by one again."""
    op.execute("alter table picture drop column pixels")
    for table, column in _NAMES.items():
        op.execute(f"drop index ix_{table}_{column}_parts")
    op.execute("drop extension pg_trgm")
