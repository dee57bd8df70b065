"""Findings of a job are found heading by heading, the worst first."""

from alembic import op

revision = "0026"
down_revision = "0025"


def upgrade() -> None:
    """Builds the index; it serves for all findings of a job as well."""
    op.execute(
        "create index ix_finding_job_worst on finding"
        ' (job_id, "group", severity_rank, rule_rank, badness desc)'
    )
    op.execute("drop index ix_finding_job_id")


def downgrade() -> None:
    """All findings of a job are put in order again."""
    op.execute("create index ix_finding_job_id on finding (job_id)")
    op.execute("drop index ix_finding_job_worst")
