"""Findings on checked PDFs that were accepted"""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    op.create_table(
        "pdf_acceptance",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column(
            "pdf_id",
            sa.Integer(),
            sa.ForeignKey("checked_pdf.id", ondelete="CASCADE"),
            nullable=False,
        ),
        sa.Column("picture_id", sa.Integer(), nullable=False),
        sa.Column("rule_id", sa.String(40), nullable=False),
        sa.Column("badness", sa.Float(), nullable=False),
        sa.Column("headline", sa.Text(), nullable=False),
        sa.Column("reason", sa.Text(), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("accepted_at", sa.DateTime(True), nullable=False),
        sa.UniqueConstraint("pdf_id", "picture_id", "rule_id"),
    )
