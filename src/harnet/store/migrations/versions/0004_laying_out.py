"""Facing pages, frame shapes, targets of pages and placements, links, archived jobs"""

from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    filled: list[tuple[str, str, Any, str]] = [
        ("job", "margin_pt", sa.Double(), "0"),
        ("job", "is_facing", sa.Boolean(), "false"),
        ("job", "is_archived", sa.Boolean(), "false"),
        ("picture", "looks_drawn", sa.Boolean(), "false"),
        ("item", "shape", sa.String(length=12), "rectangle"),
        ("item", "radius_pt", sa.Double(), "0"),
        ("item", "holding", sa.String(length=12), "linked"),
    ]
    for table, name, kind, default in filled:
        op.add_column(table, sa.Column(name, kind, nullable=False, server_default=default))
        op.alter_column(table, name, server_default=None)
    open_ones: list[tuple[str, str, Any]] = [
        ("job", "quality", sa.String(length=12)),
        ("job", "deleted_at", sa.DateTime(timezone=True)),
        ("page", "target_key", sa.String(length=40)),
        ("page", "target_ppi", sa.Double()),
        ("item", "quality", sa.String(length=12)),
        ("item", "target_key", sa.String(length=40)),
        ("item", "target_ppi", sa.Double()),
    ]
    for table, name, kind in open_ones:
        op.add_column(table, sa.Column(name, kind, nullable=True))
    op.alter_column("picture", "shelf_id", nullable=True)
