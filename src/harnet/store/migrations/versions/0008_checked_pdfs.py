"""PDFs made elsewhere, and the pictures that they paint"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.create_table(
        "checked_pdf",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("file_name", sa.String(255), nullable=False),
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("size_bytes", sa.BigInteger(), nullable=False),
        sa.Column("state", sa.String(12), nullable=False),
        sa.Column("done_steps", sa.Integer(), nullable=False),
        sa.Column("all_steps", sa.Integer(), nullable=False),
        sa.Column("trouble", sa.Text()),
        sa.Column("target", JSONB(), nullable=False),
        sa.Column("pages", JSONB(), nullable=False),
        sa.Column("whole", JSONB(), nullable=False),
        sa.Column("asked_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("finished_at", sa.DateTime(timezone=True)),
    )
    op.create_index("ix_checked_pdf_sha256", "checked_pdf", ["sha256"])
    op.create_table(
        "painted_picture",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column(
            "pdf_id",
            sa.Integer(),
            sa.ForeignKey("checked_pdf.id", ondelete="CASCADE"),
            nullable=False,
        ),
        sa.Column("page_number", sa.Integer(), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("px_w", sa.Integer(), nullable=False),
        sa.Column("px_h", sa.Integer(), nullable=False),
        sa.Column("colour", sa.String(12), nullable=False),
        sa.Column("bits", sa.Integer(), nullable=False),
        sa.Column("matrix", ARRAY(sa.Float()), nullable=False),
        sa.Column("object_number", sa.Integer(), nullable=False),
        sa.Column("has_profile", sa.Boolean(), nullable=False),
        sa.Column("filters", sa.String(120), nullable=False),
        sa.Column("unseen", sa.String(60), nullable=False),
        sa.Column("source", sa.String(12), nullable=False),
        sa.Column("pieces", ARRAY(sa.Integer()), nullable=False),
    )
    op.create_index("ix_painted_picture_pdf_id", "painted_picture", ["pdf_id"])
