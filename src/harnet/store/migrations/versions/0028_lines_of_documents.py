"""Images of documents are judged by the database: what that takes is kept beside each."""

from alembic import op

revision = "0028"
down_revision = "0027"

_SPACE, _TIMES = "\u00a0", "\u00d7"
_RASTER = "coalesce(about ->> 'kind', 'raster') = 'raster'"
_GROUPED = "replace(to_char({}, 'FM999,999,999,999'), ',', '" + _SPACE + "')"
_PIXELS = f"{_GROUPED.format('px_w')} || ' {_TIMES} ' || {_GROUPED.format('px_h')} || ' px'"
_FILL = f"""
with figures as (
    select id,
        matrix[1] / nullif(px_w, 0) as pa, matrix[2] / nullif(px_w, 0) as pb,
        matrix[3] / nullif(px_h, 0) as qa, matrix[4] / nullif(px_h, 0) as qb,
        sqrt(matrix[1] ^ 2 + matrix[2] ^ 2) as u_pt, sqrt(matrix[3] ^ 2 + matrix[4] ^ 2) as v_pt
    from document_image
), products as (
    select *, pa * pa + pb * pb as pp, qa * qa + qb * qb as qq, pa * qa + pb * qb as pq
    from figures
), steps as (
    select *, sqrt((pp + qq + sqrt((pp - qq) ^ 2 + 4 * pq ^ 2)) / 2) as step_pt
    from products
)
update document_image set
    name = case
        when coalesce(about ->> 'shape_name', '') <> '' then about ->> 'shape_name'
        when {_RASTER} then {_PIXELS}
        when coalesce(about ->> 'link', '') <> '' then about ->> 'link'
        else coalesce(nullif(filters, ''), 'vector') || ' picture'
    end,
    density_ppi = case when {_RASTER}
        then round((round(72 / step_pt / 0.05) * 0.05)::numeric, 2) end,
    evenness = case when {_RASTER}
        then greatest(px_w / u_pt, px_h / v_pt) / least(px_w / u_pt, px_h / v_pt) - 1
        else 0 end,
    area_pt = u_pt * v_pt
        * greatest(0, 1 - coalesce((about -> 'crop' ->> 0)::float, 0)
            - coalesce((about -> 'crop' ->> 2)::float, 0))
        * greatest(0, 1 - coalesce((about -> 'crop' ->> 1)::float, 0)
            - coalesce((about -> 'crop' ->> 3)::float, 0))
from steps where steps.id = document_image.id
"""


def upgrade() -> None:
    """Says of the images that are there what will be said of all."""
    op.execute(
        "alter table document_image add column name text, add column density_ppi float,"
        " add column evenness float, add column area_pt float"
    )
    op.execute(_FILL)
    op.execute(
        "alter table document_image alter column name set not null,"
        " alter column evenness set not null, alter column area_pt set not null"
    )
    op.execute("create index ix_document_image_page on document_image (document_id, page_number)")
    op.execute("drop index ix_document_image_document_id")


def downgrade() -> None:
    """Each image is judged anew for every look at its document."""
    op.execute("create index ix_document_image_document_id on document_image (document_id)")
    op.execute("drop index ix_document_image_page")
    op.execute(
        "alter table document_image drop column name, drop column density_ppi,"
        " drop column evenness, drop column area_pt"
    )
