"""What is made of checked PDFs: images as files, originals found, improved copies."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0019"
down_revision = "0018"


def upgrade() -> None:
    """The table begins empty."""
    op.create_table(
        "document_work",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column(
            "document_id",
            sa.Integer,
            sa.ForeignKey("document.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column("kind", sa.String(12), nullable=False),
        sa.Column("settings", JSONB, nullable=False),
        sa.Column("result", JSONB, nullable=False),
        sa.Column("file_name", sa.String(255), nullable=False),
        sa.Column("sha256", sa.String(64)),
        sa.Column("size_bytes", sa.BigInteger),
        sa.Column("copy_id", sa.Integer, sa.ForeignKey("document.id", ondelete="SET NULL")),
        sa.Column("state", sa.String(12), nullable=False),
        sa.Column("steps_done", sa.Integer, nullable=False),
        sa.Column("steps_total", sa.Integer, nullable=False),
        sa.Column("failure", sa.Text),
        sa.Column("requested_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("finished_at", sa.DateTime(timezone=True)),
    )


def downgrade() -> None:
    """What was made is lost; the PDFs stay."""
    op.drop_table("document_work")
