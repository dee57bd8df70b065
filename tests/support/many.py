"""Jobs of very many placements, made faster than by hand."""

from sqlalchemy import insert, select

from harnet.store.tables.jobs import Item, Page
from harnet.studio.jobs.jobs import job_with
from harnet.studio.preflight.judging import judge_job


def lay_out_many(session, job_id, picture, a_page):
    """Puts a picture onto every page of a job many times, coarser each time, and judges all."""
    rows = []
    pages = select(Page.id).where(Page.job_id == job_id).order_by(Page.position)
    for number, page_id in enumerate(session.scalars(pages)):
        for place in range(a_page):
            scale = 72 / (40 + (number * 37 + place * 11) % 200)
            rows.append(
                {
                    "page_id": page_id, "position": place, "kind": "picture",
                    "x_pt": 20 + 50 * (place % 6), "y_pt": 20 + 50 * (place // 6),
                    "width_pt": 40, "height_pt": 40, "picture_id": picture.id,
                    "scale_x": scale, "scale_y": scale, "offset_x": 0, "offset_y": 0, "version": 1,
                    "rotation_deg": 0, "flip_h": False, "flip_v": False, "shape": "rectangle",
                    "radius_pt": 0, "holding": "linked", "style": {},
                }
            )  # fmt: skip
    session.execute(insert(Item), rows)
    judge_job(session, job_with(session, job_id))
