"""People, groups, where they are signed in, who did what."""

import sqlalchemy as sa
from alembic import op

revision = "0022"
down_revision = "0021"

_MADE = (
    "edit",
    "output",
    "document",
    "document_work",
    "print_copy",
    "agency_fetch",
    "pack_opening",
    "long_batch",
    "api_token",
    "review_link",
    "job",
    "picture",
)
_MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    """Rows that were made before say nobody's name."""
    op.create_table(
        "people_group",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(80), nullable=False, unique=True),
    )
    op.create_table(
        "person",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("role", sa.String(12), nullable=False),
        sa.Column("password_hash", sa.Text(), nullable=False),
        sa.Column("must_change_password", sa.Boolean(), nullable=False),
        sa.Column("made_at", _MOMENT, nullable=False),
        sa.Column("disabled_at", _MOMENT),
    )
    op.create_index("ix_person_name", "person", [sa.text("lower(name)")], unique=True)
    op.create_table(
        "membership",
        sa.Column("person_id", sa.Integer(), _key("person.id"), primary_key=True),
        sa.Column("group_id", sa.Integer(), _key("people_group.id"), primary_key=True),
    )
    op.create_table(
        "sign_in",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("person_id", sa.Integer(), _key("person.id"), nullable=False),
        sa.Column("sha256", sa.String(64), nullable=False, unique=True),
        sa.Column("address", sa.String(60), nullable=False),
        sa.Column("browser", sa.String(200), nullable=False),
        sa.Column("made_at", _MOMENT, nullable=False),
        sa.Column("seen_at", _MOMENT, nullable=False),
        sa.Column("revoked_at", _MOMENT),
    )
    op.create_index("ix_sign_in_person_id", "sign_in", ["person_id"])
    op.create_table(
        "presence",
        sa.Column("job_id", sa.Integer(), _key("job.id"), primary_key=True),
        sa.Column("person_id", sa.Integer(), _key("person.id"), primary_key=True),
        sa.Column("view", sa.String(40), nullable=False),
        sa.Column("seen_at", _MOMENT, nullable=False),
    )
    op.create_table(
        "activity",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("made_at", _MOMENT, nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("doing", sa.String(120), nullable=False),
        sa.Column("detail", sa.Text(), nullable=False),
        sa.Column("job_id", sa.Integer()),
        sa.Column("document_id", sa.Integer()),
    )
    op.create_index("ix_activity_made_at", "activity", ["made_at"])
    op.create_index("ix_activity_job_id", "activity", ["job_id"])
    op.create_table(
        "attempts",
        sa.Column("key", sa.String(200), primary_key=True),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("ends_at", _MOMENT, nullable=False),
    )
    op.create_table(
        "comment",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("job_id", sa.Integer(), _key("job.id")),
        sa.Column("document_id", sa.Integer(), _key("document.id")),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("text", sa.Text(), nullable=False),
        sa.Column("made_at", _MOMENT, nullable=False),
        sa.Column("settled_at", _MOMENT),
        sa.Column("settled_by", sa.String(120), nullable=False),
    )
    op.create_index("ix_comment_job_id", "comment", ["job_id"])
    op.create_index("ix_comment_document_id", "comment", ["document_id"])
    for table in _MADE:
        op.add_column(
            table, sa.Column("made_by", sa.String(120), nullable=False, server_default="")
        )
    op.add_column("api_token", sa.Column("person_id", sa.Integer(), _key("person.id")))
    for table in ("job", "shelf"):
        key = sa.ForeignKey("people_group.id", ondelete="RESTRICT")
        op.add_column(table, sa.Column("group_id", sa.Integer(), key))
        op.create_index(f"ix_{table}_group_id", table, ["group_id"])
    for table in ("job", "document"):
        op.add_column(
            table,
            sa.Column(
                "reviewers_accept", sa.Boolean(), nullable=False, server_default=sa.text("false")
            ),
        )


def _key(of: str) -> sa.ForeignKey:
    return sa.ForeignKey(of, ondelete="CASCADE")


def downgrade() -> None:
    """Whoever signed in, and what they did, is forgotten; what they made stays."""
    for table in ("job", "document"):
        op.drop_column(table, "reviewers_accept")
    for table in ("job", "shelf"):
        op.drop_column(table, "group_id")
    op.drop_column("api_token", "person_id")
    for table in _MADE:
        op.drop_column(table, "made_by")
    for table in (
        "comment",
        "attempts",
        "activity",
        "presence",
        "sign_in",
        "membership",
        "person",
        "people_group",
    ):
        op.drop_table(table)
