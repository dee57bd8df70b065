"""All work in the background counts steps, and long batches are work of their own"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0016"
down_revision = "0015"


def upgrade() -> None:
    for table in ("print_copy", "agency_fetch"):
        op.alter_column(table, "done_percent", new_column_name="done_steps")
        op.add_column(
            table, sa.Column("all_steps", sa.Integer(), nullable=False, server_default="100")
        )
        op.alter_column(table, "all_steps", server_default=None)
    op.create_table(
        "long_batch",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column(
            "job_id", sa.Integer(), sa.ForeignKey("job.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("kind", sa.String(12), nullable=False),
        sa.Column("label", sa.String(200), nullable=False),
        sa.Column("batch", JSONB(), nullable=True),
        sa.Column("item_ids", JSONB(), nullable=False),
        sa.Column("said", sa.Text(), nullable=False),
        sa.Column("state", sa.String(12), nullable=False),
        sa.Column("done_steps", sa.Integer(), nullable=False),
        sa.Column("all_steps", sa.Integer(), nullable=False),
        sa.Column("trouble", sa.Text(), nullable=True),
        sa.Column("asked_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("finished_at", sa.DateTime(timezone=True), nullable=True),
    )
    op.create_index("ix_long_batch_job_id", "long_batch", ["job_id"])
