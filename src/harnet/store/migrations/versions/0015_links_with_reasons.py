"""Review links say who accepted what, and why, only where that was chosen"""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    # Links that were made before showed them.
    op.add_column(
        "review_link",
        sa.Column("with_reasons", sa.Boolean(), nullable=False, server_default=sa.true()),
    )
    op.alter_column("review_link", "with_reasons", server_default=None)
