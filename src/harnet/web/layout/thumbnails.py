"""Small drawings of pages, for the strip: each an SVG that holds what it shows."""

import base64

from flask import Blueprint, Response, render_template

from harnet.media.pixels.previews import preview_name, tiny
from harnet.studio.jobs.jobs import job_with, page_of
from harnet.web.common.shared import studio
from harnet.web.drawing.pages import DrawnPreview, drawn_of

blueprint = Blueprint("thumbnails", __name__, url_prefix="/jobs/<int:job_id>/thumbnails")
_YEAR_SECONDS = 365 * 24 * 3600


@blueprint.get("/<int:number>.svg")
def thumbnail(job_id: int, number: int) -> Response:
    """A page as it is now; its address changes with it, so that a browser keeps it for good."""
    with studio().session() as session:
        job = job_with(session, job_id)
        page = page_of(job, number)
        drawn = [drawn_of(job, item, number, DrawnPreview()) for item in page.items]
        wanted = {one.item.picture.sha256 for one in drawn if one.item.picture is not None}
        pictures = {sha256: _inline(sha256) for sha256 in wanted}
        svg = render_template(
            "layout/page_thumb.svg", job=job, page=page, drawn=drawn, pictures=pictures
        )
    response = Response(svg, mimetype="image/svg+xml")
    is_whole = all(pictures.values())
    keep = f"private, max-age={_YEAR_SECONDS}, immutable" if is_whole else "no-store"
    response.headers["Cache-Control"] = keep
    return response


def _inline(sha256: str) -> str:
    """A picture's smallest preview as an address that holds it; empty while it is being made."""
    try:
        with studio().blobs.open_preview(preview_name(sha256, "thumb")) as file:
            data = tiny(file.read())
    except FileNotFoundError:
        return ""
    kind = "png" if data.startswith(b"\x89PNG") else "jpeg"
    return f"data:image/{kind};base64,{base64.b64encode(data).decode()}"
