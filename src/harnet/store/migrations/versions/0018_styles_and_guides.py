"""Text styles and a grid of each job, guides of each page."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0018"
down_revision = "0017"

_COLUMNS = (("job", "text_styles"), ("job", "grid"), ("page", "guides"))


def upgrade() -> None:
    """Every job and every page begins without."""
    for table, name in _COLUMNS:
        empty = sa.text("'{}'::jsonb")
        op.add_column(table, sa.Column(name, JSONB, nullable=False, server_default=empty))
        op.alter_column(table, name, server_default=None)


def downgrade() -> None:
    """What was set up is lost."""
    for table, name in _COLUMNS:
        op.drop_column(table, name)
