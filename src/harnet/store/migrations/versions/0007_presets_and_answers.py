"""Presets of outputs, answers of print houses, weights of pictures in a PDF, opened packs"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    op.add_column("output", sa.Column("answers", JSONB(), nullable=False, server_default="[]"))
    op.alter_column("output", "answers", server_default=None)
    op.create_table(
        "output_preset",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("owner", sa.String(40), nullable=False),
        sa.Column("kind", sa.String(12), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("settings", JSONB(), nullable=False),
        sa.Column("edited_at", sa.DateTime(timezone=True), nullable=False),
        sa.UniqueConstraint("owner", "kind", "name"),
    )
    op.create_index("ix_output_preset_owner", "output_preset", ["owner"])
    op.create_table(
        "stored_weight",
        sa.Column("key", sa.String(64), primary_key=True),
        sa.Column("size_bytes", sa.BigInteger(), nullable=False),
    )
    op.create_table(
        "pack_opening",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("file_name", sa.String(255), nullable=False),
        sa.Column("title", sa.String(200), nullable=False),
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("state", sa.String(12), nullable=False),
        sa.Column("done_steps", sa.Integer(), nullable=False),
        sa.Column("all_steps", sa.Integer(), nullable=False),
        sa.Column("trouble", sa.Text()),
        sa.Column("job_id", sa.Integer()),
        sa.Column("asked_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("finished_at", sa.DateTime(timezone=True)),
    )
