"""Links through which somebody may read findings"""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    op.create_table(
        "review_link",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("token", sa.String(60), nullable=False, unique=True),
        sa.Column("job_id", sa.Integer(), sa.ForeignKey("job.id", ondelete="CASCADE")),
        sa.Column("pdf_id", sa.Integer(), sa.ForeignKey("checked_pdf.id", ondelete="CASCADE")),
        sa.Column("label", sa.String(120), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("expires_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("withdrawn_at", sa.DateTime(timezone=True)),
        sa.Column("last_read_at", sa.DateTime(timezone=True)),
    )
    op.create_index("ix_review_link_job_id", "review_link", ["job_id"])
    op.create_index("ix_review_link_pdf_id", "review_link", ["pdf_id"])
