"""Steps of a history whose rows are no longer kept."""

import sqlalchemy as sa
from alembic import op

revision = "0024"
down_revision = "0023"


def upgrade() -> None:
    """All steps of before can still be undone; a job's next edit packs those beyond the bounds."""
    op.add_column("edit", sa.Column("row_count", sa.Integer, nullable=False, server_default="0"))
    op.add_column(
        "edit", sa.Column("is_packed", sa.Boolean, nullable=False, server_default="false")
    )
    op.execute("update edit set row_count = jsonb_array_length(changes)")


def downgrade() -> None:
    """What was packed cannot be undone, so it goes."""
    op.execute("delete from edit where is_packed")
    op.drop_column("edit", "is_packed")
    op.drop_column("edit", "row_count")
