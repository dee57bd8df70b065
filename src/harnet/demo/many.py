"""Jobs of very many placements, made faster than by hand: for measuring, and for tests."""

import math
from collections.abc import Sequence

from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from harnet.store.tables.jobs import Item, Page
from harnet.store.tables.pictures import Picture
from harnet.studio.jobs.jobs import job_with
from harnet.studio.judging.judging import judge_job

_ACROSS_PT = 540.0


def lay_out_many(session: Session, job_id: int, pictures: Sequence[Picture], per_page: int) -> None:
    """Fills every page of a job with a grid of pictures of 60 to 960 ppi, and judges all."""
    columns = math.ceil(math.sqrt(per_page))
    step_pt = _ACROSS_PT / columns
    rows = []
    pages = select(Page.id).where(Page.job_id == job_id).order_by(Page.position)
    for number, page_id in enumerate(session.scalars(pages)):
        for place in range(per_page):
            scale = 72 / (60 + (number * 37 + place * 91) % 900)
            rows.append(
                {
                    "page_id": page_id,
                    "position": place,
                    "kind": "picture",
                    "picture_id": pictures[(number * per_page + place) % len(pictures)].id,
                    "x_pt": 20 + step_pt * (place % columns),
                    "y_pt": 20 + step_pt * (place // columns),
                    "width_pt": 0.9 * step_pt,
                    "height_pt": 0.9 * step_pt,
                    "scale_x": scale,
                    "scale_y": scale,
                    "offset_x": 0,
                    "offset_y": 0,
                    "version": 1,
                }
            )
    session.execute(insert(Item), rows)
    judge_job(session, job_with(session, job_id))
