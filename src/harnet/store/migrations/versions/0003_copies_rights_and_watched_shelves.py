"""Print copies, rights, colour profiles, watched shelves and agency deliveries"""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    def added(table: str, name: str, kind: Any, default: str | None) -> None:
        is_open = default is None
        op.add_column(table, sa.Column(name, kind, nullable=is_open, server_default=default))
        if not is_open:
            op.alter_column(table, name, server_default=None)

    added("shelf", "is_watched", sa.Boolean(), "false")
    added("shelf", "is_being_read", sa.Boolean(), "false")
    added("shelf", "read_at", sa.DateTime(timezone=True), None)
    added("shelf", "new_count", sa.Integer(), "0")
    added("shelf", "troubles", postgresql.JSONB(), "[]")
    added("picture", "is_previewed", sa.Boolean(), "true")
    added("picture", "trouble", sa.Text(), None)
    for name in ("licence", "credit", "origin"):
        added("picture", name, sa.Text(), "")
    op.create_table(
        "colour_profile",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=200), nullable=False),
        sa.Column("sha256", sa.String(length=64), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("sha256"),
    )
    op.create_table(
        "print_copy",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("picture_id", sa.Integer(), nullable=False),
        sa.Column("recipe", postgresql.JSONB(), nullable=False),
        sa.Column("file_name", sa.String(length=255), nullable=False),
        sa.Column("state", sa.String(length=12), nullable=False),
        sa.Column("done_percent", sa.Integer(), nullable=False),
        sa.Column("trouble", sa.Text(), nullable=True),
        sa.Column("made_id", sa.Integer(), nullable=True),
        sa.Column("made_sha256", sa.String(length=64), nullable=True),
        sa.Column("note", sa.Text(), nullable=False),
        sa.Column("item_id", sa.Integer(), nullable=True),
        sa.Column("item_version", sa.Integer(), nullable=True),
        sa.Column("asked_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("finished_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["picture_id"], ["picture.id"]),
        sa.ForeignKeyConstraint(["made_id"], ["picture.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_print_copy_picture_id"), "print_copy", ["picture_id"])
    op.create_index(op.f("ix_print_copy_made_id"), "print_copy", ["made_id"])
    op.create_table(
        "agency_fetch",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("offer_key", sa.String(length=60), nullable=False),
        sa.Column("title", sa.String(length=200), nullable=False),
        sa.Column("shelf_id", sa.Integer(), nullable=False),
        sa.Column("state", sa.String(length=12), nullable=False),
        sa.Column("done_percent", sa.Integer(), nullable=False),
        sa.Column("trouble", sa.Text(), nullable=True),
        sa.Column("picture_id", sa.Integer(), nullable=True),
        sa.Column("asked_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("finished_at", sa.DateTime(timezone=True), nullable=True),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_agency_fetch_offer_key"), "agency_fetch", ["offer_key"])
