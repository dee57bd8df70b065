"""Pictures of watched buckets."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0023"
down_revision = "0022"


def upgrade() -> None:
    """No picture of before lies in a bucket."""
    op.add_column("picture", sa.Column("in_bucket", JSONB(none_as_null=True)))


def downgrade() -> None:
    """Shelves of buckets stay, and are said to have lost their folder."""
    op.drop_column("picture", "in_bucket")
