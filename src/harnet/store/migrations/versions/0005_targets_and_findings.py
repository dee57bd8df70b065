"""Targets with all their figures, figures and findings kept beside placements, accepted findings"""

import json
from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0005"
down_revision = "0004"

_NAMES: dict[str, tuple[str, float, float]] = {
    "coated": ("Coated press", 300, 1200),
    "office": ("Office printer", 220, 600),
    "large": ("Large format", 150, 300),
    "slides": ("Slides", 96, 96),
    "screen": ("Web screen", 72, 72),
}


def _values(key: str, own_ppi: float) -> dict[str, Any]:
    """A target as it stood before, with its floor at a third and its ceiling at three times."""
    name, ppi, bilevel = _NAMES.get(key, ("Own figure", own_ppi, own_ppi))
    return {
        "key": key if key in _NAMES else "own",
        "name": name,
        "density_ppi": ppi,
        "bilevel_ppi": bilevel,
        "floor_ppi": ppi / 3,
        "ceiling_ppi": ppi * 3,
        "tolerance": 0.1,
    }


def _targets_to_values(table: str, is_needed: bool) -> None:
    op.add_column(table, sa.Column("target", JSONB(), nullable=True))
    link = op.get_bind()
    used = link.execute(
        sa.text(f"select distinct target_key, target_ppi from {table} where target_key is not null")
    ).all()
    for key, ppi in used:
        link.execute(
            sa.text(
                f"update {table} set target = cast(:values as jsonb)"
                " where target_key = :key and target_ppi is not distinct from :ppi"
            ),
            {"values": json.dumps(_values(key, ppi or 300.0)), "key": key, "ppi": ppi},
        )
    if is_needed:
        op.alter_column(table, "target", nullable=False)
    op.drop_column(table, "target_key")
    op.drop_column(table, "target_ppi")


def _key(name: str, table: str, **options: Any) -> sa.Column[int]:
    return sa.Column(
        name,
        sa.Integer(),
        sa.ForeignKey(f"{table}.id", ondelete="CASCADE"),
        nullable=False,
        **options,
    )


def _needed(name: str, kind: Any) -> sa.Column[Any]:
    return sa.Column(name, kind, nullable=False)


def upgrade() -> None:
    for table, is_needed in (("job", True), ("page", False), ("item", False)):
        _targets_to_values(table, is_needed)
    for name, kind, default in (
        ("likeness", sa.String(16), ""),
        ("file_state", sa.String(12), "in place"),
    ):
        op.add_column("picture", sa.Column(name, kind, nullable=False, server_default=default))
        op.alter_column("picture", name, server_default=None)
    op.add_column(
        "job", sa.Column("rules_version", sa.Integer(), nullable=False, server_default="0")
    )
    op.alter_column("job", "rules_version", server_default=None)
    op.add_column(
        "page", sa.Column("tally", sa.ARRAY(sa.Integer()), nullable=False, server_default="{}")
    )
    op.alter_column("page", "tally", server_default=None)
    op.add_column("print_copy", sa.Column("batch", sa.String(32), nullable=True))
    op.create_index("ix_print_copy_batch", "print_copy", ["batch"])
    for name in ("detail_share", "detail_confidence"):
        op.add_column("picture", sa.Column(name, sa.Double(), nullable=True))
    # Previews are made anew, and with them the likeness and the detail of what is known already.
    op.execute("update picture set is_previewed = false")
    op.create_table(
        "target",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("key", sa.String(40), nullable=False, unique=True),
        _needed("values", JSONB()),
        _needed("edited_at", sa.DateTime(timezone=True)),
        _needed("version", sa.Integer()),
    )
    op.create_table(
        "judgement",
        _key("item_id", "item", primary_key=True, autoincrement=False),
        _key("job_id", "job"),
        _key("page_id", "page", index=True),
        _key("picture_id", "picture"),
        _needed("name", sa.String(255)),
        _needed("verdict_rank", sa.Integer()),
        sa.Column("judged_ppi", sa.Double(), nullable=True),
        sa.Column("headroom", sa.Double(), nullable=True),
        sa.Column("ruler_step", sa.Integer(), nullable=True),
        _needed("evenness", sa.Double()),
        _needed("is_uneven", sa.Boolean()),
        _needed("is_bilevel", sa.Boolean()),
        _needed("has_own_target", sa.Boolean()),
        _needed("file_state", sa.String(12)),
        _needed("colour", sa.String(12)),
        _needed("kind", sa.String(12)),
        _needed("format", sa.String(12)),
        _needed("pixels", sa.Integer()),
        _needed("area_pt", sa.Double()),
    )
    op.create_index("ix_judgement_job_headroom", "judgement", ["job_id", "headroom"])
    op.create_index("ix_judgement_job_step", "judgement", ["job_id", "ruler_step"])
    op.create_index("ix_judgement_picture", "judgement", ["picture_id"])
    op.create_table(
        "finding",
        sa.Column("id", sa.Integer(), primary_key=True),
        _key("item_id", "item", index=True),
        _key("job_id", "job", index=True),
        _key("page_id", "page", index=True),
        _needed("rule_id", sa.String(40)),
        _needed("group", sa.String(60)),
        _needed("severity_rank", sa.Integer()),
        _needed("rule_rank", sa.Integer()),
        _needed("name", sa.String(255)),
        _needed("headline", sa.Text()),
        _needed("sentence", sa.Text()),
        _needed("fixes", JSONB()),
        _needed("badness", sa.Double()),
    )
    op.create_table(
        "acceptance",
        sa.Column("id", sa.Integer(), primary_key=True),
        _key("job_id", "job", index=True),
        _needed("item_id", sa.Integer()),
        _needed("rule_id", sa.String(40)),
        _needed("badness", sa.Double()),
        _needed("headline", sa.Text()),
        _needed("reason", sa.Text()),
        _needed("name", sa.String(120)),
        _needed("accepted_at", sa.DateTime(timezone=True)),
        _needed("version", sa.Integer()),
        sa.UniqueConstraint("item_id", "rule_id"),
    )
