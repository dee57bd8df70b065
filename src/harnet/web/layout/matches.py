"""Pick by fit: the pictures that could take a placement's place, and swapping one in."""

from flask import Blueprint, Response, make_response, redirect, render_template, request, url_for

from harnet.core.layout.figures import frame_pixels
from harnet.core.measure.wording import ppi_text, px_text, size_text
from harnet.store.tables.jobs import Item, Job
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import job_with, target_of
from harnet.studio.layout.matching import (
    Candidate,
    candidates_for,
    empty_frames_from,
    fill_frames,
    swap,
)
from harnet.studio.layout.placed import FRAME, PICTURE, frame_of, placed_from, target_for
from harnet.studio.layout.placing import item_in
from harnet.studio.pictures.picture import picture_with
from harnet.web.common.shared import JobHeader, studio, viewed_job
from harnet.web.common.units import shown_unit
from harnet.web.layout.card import card_of
from harnet.web.layout.offers import offer_of

blueprint = Blueprint("matches", __name__, url_prefix="/jobs/<int:job_id>/matches/<int:item_id>")
_MOST_SHOWN = 60


@blueprint.get("")
def show(job_id: int, item_id: int) -> str:
    """What could take the item's place; `any` lets pictures of another orientation in."""
    with studio().session() as session:
        job = viewed_job(session, job_id)
        item = item_in(job, item_id)
        if item.kind not in (PICTURE, FRAME):
            raise Refused("Only a picture or an empty frame can take another picture.")
        takes_any = request.args.get("any") == "yes"
        found = candidates_for(session, job, item, takes_any, _MOST_SHOWN + 1)
        offers, has_more = found[:_MOST_SHOWN], len(found) > _MOST_SHOWN
        if item.kind == FRAME:
            return _for_frame(job, item, offers, has_more, takes_any)
        placed = placed_from(item, item.page.position + 1, target_of(job))
        now_ppi = placed.figures.density.worst if placed.figures.density else None
        return render_template(
            "layout/matches.html",
            header=JobHeader.of(job),
            job=job,
            item=item,
            card=card_of(job, placed),
            placed=placed,
            offers=[offer_of(one, now_ppi) for one in offers],
            has_more=has_more,
            takes_any=takes_any,
            back=_back(job, request.args.get("back", "")),
        )


def _for_frame(
    job: Job, item: Item, offers: list[Candidate], has_more: bool, takes_any: bool
) -> str:
    frame, unit = frame_of(item), shown_unit(job)
    target = target_for(item, target_of(job))
    return render_template(
        "layout/fill.html",
        header=JobHeader.of(job),
        job=job,
        item=item,
        number=item.page.position + 1,
        size=size_text(frame.width, frame.height, *unit),
        needed=px_text(*frame_pixels(frame, target.density_ppi)),
        target_ppi=ppi_text(target.density_ppi),
        frames=len(empty_frames_from(item)),
        offers=[offer_of(one, None) for one in offers],
        has_more=has_more,
        takes_any=takes_any,
    )


@blueprint.post("/fill")
def fill(job_id: int, item_id: int) -> Response:
    """Fills the frame and the empty ones behind it with the chosen pictures, in their order."""
    with studio().session() as session:
        job = job_with(session, job_id)
        item = item_in(job, item_id, request.form.get("version", None, int))
        numbers = request.form.getlist("picture", int)
        fill_frames(session, job, item, [picture_with(session, one) for one in numbers])
        number = item.page.position + 1
    return make_response(
        redirect(url_for("pages.show", job_id=job_id, page=number, select=item_id))
    )


@blueprint.post("")
def take(job_id: int, item_id: int) -> Response:
    """Swaps the picture in, and goes back to where it was asked for."""
    with studio().session() as session:
        job = job_with(session, job_id)
        item = item_in(job, item_id, request.form.get("version", None, int))
        swap(session, job, item, picture_with(session, request.form.get("picture", 0, int)))
        place = _back(job, request.form.get("back", ""))
        if place.endswith("/pages"):
            place = f"{place}?page={item.page.position + 1}&select={item.id}"
    return make_response(redirect(place))


def _back(job: Job, view: str) -> str:
    """The view of the job that asked; its pages without."""
    views = {"preflight": "preflight.show", "ledger": "ledger.show"}
    return url_for(views.get(view, "pages.show"), job_id=job.id)
