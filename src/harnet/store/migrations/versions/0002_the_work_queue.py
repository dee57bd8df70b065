"""The work queue's own tables, as procrastinate's package brings them."""

from alembic import op
from procrastinate.schema import SchemaManager

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    # Straight to the driver: the script holds percent signs and colons of its own.
    driver = op.get_bind().connection.dbapi_connection
    assert driver is not None
    driver.execute(SchemaManager.get_schema())


def downgrade() -> None:
    raise NotImplementedError("the work queue stays; drop the database instead")
