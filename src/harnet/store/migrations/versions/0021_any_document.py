"""Documents of every format: what is said of an image beside its place."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0021"
down_revision = "0020"


def upgrade() -> None:
    """Images of PDFs say nothing more than before."""
    op.add_column(
        "document_image", sa.Column("about", JSONB, nullable=False, server_default=sa.text("'{}'"))
    )
    op.alter_column("document_image", "source", type_=sa.String(24))
    op.alter_column("document_image", "unseen", type_=sa.String(80))


def downgrade() -> None:
    """Documents other than PDFs cannot be read any longer, and go."""
    op.execute("DELETE FROM document WHERE coalesce(whole->>'format', 'pdf') <> 'pdf'")
    op.alter_column("document_image", "unseen", type_=sa.String(60))
    op.alter_column("document_image", "source", type_=sa.String(12))
    op.drop_column("document_image", "about")
