"""How a job's outputs were made last"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.add_column("job", sa.Column("output_settings", JSONB(), nullable=False, server_default="{}"))
    op.alter_column("job", "output_settings", server_default=None)
