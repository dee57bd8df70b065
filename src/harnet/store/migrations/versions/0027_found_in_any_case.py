"""What is looked for by a part of its name in any case; what the order by reach goes by."""

from alembic import op

_LONGEST = "greatest((facts ->> 'px_w')::numeric, (facts ->> 'px_h')::numeric)::bigint"
_BILEVEL = "coalesce(facts ->> 'colour' = 'bilevel', false)"

revision = "0027"
down_revision = "0026"

_NAMES = {
    "job": "title",
    "picture": "file_name",
    "document": "file_name",
    "item": "text",
    "finding": "name",
}


def upgrade() -> None:
    """ILIKE asks for the name as it is; an index on its lower case does not serve it."""
    for table, column in _NAMES.items():
        op.execute(f"drop index ix_{table}_{column}_parts")
        op.execute(
            f"create index ix_{table}_{column}_parts on {table} using gin ({column} gin_trgm_ops)"
        )
    # Who asks for whole names would be given an index of their parts otherwise.
    op.execute("create index ix_picture_file_name on picture (file_name)")
    op.execute("create index ix_picture_licence on picture (licence) where licence <> ''")
    op.execute(
        f"alter table picture add column longest_px bigint generated always as ({_LONGEST}) stored,"
        f" add column is_bilevel boolean not null generated always as ({_BILEVEL}) stored"
    )


def downgrade() -> None:
    """Indexes on the lower case again."""
    op.execute("alter table picture drop column longest_px, drop column is_bilevel")
    op.execute("drop index ix_picture_file_name, ix_picture_licence")
    for table, column in _NAMES.items():
        op.execute(f"drop index ix_{table}_{column}_parts")
        op.execute(
            f"create index ix_{table}_{column}_parts on {table}"
            f" using gin (lower({column}) gin_trgm_ops)"
        )
