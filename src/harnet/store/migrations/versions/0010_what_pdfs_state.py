"""What the pages of checked PDFs state: trim, bleed, transparency"""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"

_PAGES_AS_OBJECTS = """
    UPDATE checked_pdf SET pages = (
        SELECT coalesce(jsonb_agg(jsonb_build_object(
            'box', jsonb_build_array(page -> 0, page -> 1, page -> 2, page -> 3),
            'turn', page -> 4, 'trim', NULL, 'bleed', NULL,
            'is_transparent', false, 'left_out', ''
        ) ORDER BY place), '[]'::jsonb)
        FROM jsonb_array_elements(pages) WITH ORDINALITY AS listed(page, place)
    )
    WHERE jsonb_typeof(pages -> 0) = 'array'
"""


def upgrade() -> None:
    op.add_column(
        "painted_picture",
        sa.Column("has_alpha", sa.Boolean(), nullable=False, server_default=sa.false()),
    )
    op.execute(_PAGES_AS_OBJECTS)
