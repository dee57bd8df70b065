"""Plain names: documents, failures, steps, requests, revoked links, compression, interpolation"""

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"

_TABLES = {
    "checked_pdf": "document",
    "painted_picture": "document_image",
    "pdf_acceptance": "document_acceptance",
}
_WORK = ("output", "print_copy", "agency_fetch", "pack_opening", "checked_pdf", "long_batch")
_WORK_COLUMNS = {
    "trouble": "failure",
    "asked_at": "requested_at",
    "done_steps": "steps_done",
    "all_steps": "steps_total",
}
_COLUMNS = [
    *((table, old, new) for table in _WORK for old, new in _WORK_COLUMNS.items()),
    ("picture", "trouble", "failure"),
    ("shelf", "troubles", "failures"),
    ("api_token", "withdrawn_at", "revoked_at"),
    ("review_link", "withdrawn_at", "revoked_at"),
    ("review_link", "pdf_id", "document_id"),
    ("painted_picture", "pdf_id", "document_id"),
    ("pdf_acceptance", "pdf_id", "document_id"),
]
_KEPT_VALUES = {
    "picture": ("facts", {"loose_fonts": "unembedded_fonts"}),
    "document": ("whole", {"loose_fonts": "unembedded_fonts"}),
    "print_copy": ("recipe", {"packing": "compression", "may_invent": "may_interpolate"}),
    "output": ("settings", {"packing": "compression"}),
    "output_preset": ("settings", {"packing": "compression"}),
    "job": ("output_settings", {"packing": "compression"}),
    "long_batch": ("batch", {"gives_way": "adjusts"}),
}


def upgrade() -> None:
    for table, old, new in _COLUMNS:
        op.alter_column(table, old, new_column_name=new)
    for old, new in _TABLES.items():
        op.rename_table(old, new)
    op.execute("ALTER INDEX ix_checked_pdf_sha256 RENAME TO ix_document_sha256")
    op.execute("ALTER INDEX ix_painted_picture_pdf_id RENAME TO ix_document_image_document_id")
    op.execute("ALTER INDEX ix_review_link_pdf_id RENAME TO ix_review_link_document_id")
    op.add_column("print_copy", sa.Column("is_placed", sa.Boolean(), nullable=True))
    op.execute("UPDATE print_copy SET is_placed = true WHERE note LIKE 'Placed%'")
    op.execute("UPDATE print_copy SET is_placed = false WHERE note LIKE '%meanwhile%'")
    for table, (column, names) in _KEPT_VALUES.items():
        for old, new in names.items():
            op.execute(
                f"UPDATE {table} SET {column} = replace({column}::text, '\"{old}\":',"
                f" '\"{new}\":')::jsonb WHERE {column}::text LIKE '%\"{old}\":%'"
            )
    for table in ("job", "page", "item", "document"):
        op.execute(
            f'UPDATE {table} SET target = replace(target::text, \'"name": "Own figure"\','
            ' \'"name": "Custom figure"\')::jsonb WHERE target::text LIKE \'%"Own figure"%\''
        )
