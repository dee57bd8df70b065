"""Checked PDFs that needed a password: the file as it came, and what opened it."""

import sqlalchemy as sa
from alembic import op

revision = "0020"
down_revision = "0019"


def upgrade() -> None:
    """PDFs that are there needed none."""
    op.add_column("document", sa.Column("locked_sha256", sa.String(64)))
    op.add_column("document", sa.Column("password", sa.String(200)))


def downgrade() -> None:
    """The PDFs stay as they can be read."""
    op.drop_column("document", "password")
    op.drop_column("document", "locked_sha256")
