"""How many pictures of a checked PDF have each verdict, kept with it"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    op.add_column("checked_pdf", sa.Column("counts", JSONB()))
