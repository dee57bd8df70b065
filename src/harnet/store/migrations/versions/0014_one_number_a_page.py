"""Pages have a number each; presets belong to the studio, with their maker's name"""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"


def upgrade() -> None:
    op.execute(
        "update page set position = ranked.place from (select id, row_number() over"
        " (partition by job_id order by position, id) - 1 as place from page) as ranked"
        " where ranked.id = page.id and ranked.place <> page.position"
    )
    op.create_unique_constraint(
        "page_job_id_position_key",
        "page",
        ["job_id", "position"],
        deferrable=True,
        initially="DEFERRED",
    )
    # What several browsers called the same gets a number, the latest keeps its name.
    op.execute(
        "update output_preset set name = left(name, 70) || ' ' || ranked.place from (select id,"
        " row_number() over (partition by kind, name order by edited_at desc, id desc) as place"
        " from output_preset) as ranked where ranked.id = output_preset.id and ranked.place > 1"
    )
    op.drop_column("output_preset", "owner")
    op.add_column(
        "output_preset",
        sa.Column("made_by", sa.String(120), nullable=False, server_default=""),
    )
    op.create_unique_constraint("output_preset_kind_name_key", "output_preset", ["kind", "name"])
