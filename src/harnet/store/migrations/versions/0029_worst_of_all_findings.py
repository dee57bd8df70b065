"""Findings of all jobs are found the worst first."""

from alembic import op

revision = "0029"
down_revision = "0028"


def upgrade() -> None:
    """An index in that order, with what they are found by; a page says whose they are."""
    op.execute(
        "create index ix_finding_worst on finding (severity_rank, rule_rank, id)"
        " include (name, page_id)"
    )


def downgrade() -> None:
    """All that are found are put in order."""
    op.execute("drop index ix_finding_worst")
