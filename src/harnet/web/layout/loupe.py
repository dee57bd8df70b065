"""The press loupe over a page and over a placed picture."""

from flask import Blueprint, jsonify, request
from flask.typing import ResponseReturnValue

from harnet.store.database import Session
from harnet.store.tables.jobs import Job
from harnet.studio.jobs.jobs import page_of
from harnet.studio.layout.loupe import sample_at
from harnet.studio.layout.placed import placement_of
from harnet.studio.layout.placing import item_in
from harnet.studio.pictures.exact import MAKE_EXACT
from harnet.web.common.shared import in_background, studio, viewed_job
from harnet.web.drawing.loupe import loupe_settings, page_asked, place_asked, sample_answer

blueprint = Blueprint("loupe", __name__, url_prefix="/jobs/<int:job_id>/loupe")


@blueprint.get("/page")
def page(job_id: int) -> ResponseReturnValue:
    """The sample around `x` and `y`, in points from the trim's top left of `page`."""
    with studio().session() as session:
        job = viewed_job(session, job_id)
        return _answer(session, job, page_asked(), place_asked())


@blueprint.get("/items/<int:item_id>")
def item(job_id: int, item_id: int) -> ResponseReturnValue:
    """The sample at a share of a placement's frame, `x` across and `y` down."""
    across, down = place_asked()
    with studio().session() as session:
        job = viewed_job(session, job_id)
        placed = item_in(job, item_id)
        placement = placement_of(placed)
        frame = placement.frame
        at = placement.turn.applied(frame.x + across * frame.width, frame.y + down * frame.height)
        return _answer(session, job, placed.page.position + 1, at)


def _answer(
    session: Session, job: Job, number: int, at: tuple[float, float]
) -> ResponseReturnValue:
    found = sample_at(studio(), job, page_of(job, number), at, loupe_settings())
    if "asked" not in request.args:
        for picture_id in found.waiting:
            in_background(MAKE_EXACT, picture_id=picture_id)
    if found.item is None or found.target is None or found.item.picture is None:
        return jsonify(message="No picture lies here. Move over one.")
    name = found.item.picture.file_name
    if found.item.picture.failure:
        return jsonify(message=found.item.picture.failure)
    if found.sample is None and not found.waiting:
        return jsonify(message=f"{name} is a vector picture: it prints sharp at any size.")
    if found.sample is None:
        return jsonify(message=f"The pixels of {name} are being read…", waits=True)
    return jsonify(sample_answer(name, found.target, found.sample))
