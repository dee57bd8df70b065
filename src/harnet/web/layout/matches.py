"""Pick by fit: the pictures that could take a placement's place, and swapping one in."""

from dataclasses import dataclass

from flask import Blueprint, Response, make_response, redirect, render_template, request, url_for

from harnet.core.measure.wording import density_text, px_text, share_text
from harnet.store.tables.jobs import Job
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import job_with, target_of
from harnet.studio.layout.matching import Candidate, candidates_for, swap
from harnet.studio.layout.placed import placed_from
from harnet.studio.layout.placing import item_in
from harnet.studio.pictures.picture import facts_of_picture, picture_with
from harnet.web.common.drawing import Crop, crop_in
from harnet.web.common.marks import mark_of
from harnet.web.common.shared import JobHeader, studio, viewed_job
from harnet.web.layout.card import card_of

blueprint = Blueprint("matches", __name__, url_prefix="/jobs/<int:job_id>/matches/<int:item_id>")
_MOST_SHOWN = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class SwapOffer:
    """A picture that could take the place, as it would be there."""

    picture_id: int
    name: str
    shelf: str
    crop: Crop
    mark: str
    pixels: str
    ppi: str
    headroom: str
    is_same_shot: bool
    is_denser: bool


@blueprint.get("")
def show(job_id: int, item_id: int) -> str:
    """What could take the item's place; `any` lets pictures of another orientation in."""
    with studio().session() as session:
        job = viewed_job(session, job_id)
        item = item_in(job, item_id)
        if item.picture is None:
            raise Refused("There is no picture in this frame yet; place one on its page.")
        placed = placed_from(item, item.page.position + 1, target_of(job))
        takes_any = request.args.get("any") == "yes"
        found = candidates_for(session, job, item, takes_any)
        now_ppi = placed.figures.density.worst if placed.figures.density else None
        return render_template(
            "layout/matches.html",
            header=JobHeader.of(job),
            job=job,
            item=item,
            card=card_of(job, placed),
            placed=placed,
            offers=[_offer(one, now_ppi) for one in found[:_MOST_SHOWN]],
            hidden=max(0, len(found) - _MOST_SHOWN),
            takes_any=takes_any,
            back=_back(job, request.args.get("back", "")),
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


def _offer(one: Candidate, now_ppi: float | None) -> SwapOffer:
    figures, picture = one.match.figures, one.picture
    facts = facts_of_picture(picture)
    density = figures.density
    return SwapOffer(
        picture_id=picture.id,
        name=picture.file_name,
        shelf=picture.shelf.name if picture.shelf else "",
        crop=crop_in(picture.sha256, one.match.placement),
        mark=mark_of(figures),
        pixels=f"{px_text(facts.px_w, facts.px_h)} px" if facts.px_w else "vector",
        ppi=f"{density_text(density)} ppi" if density else "sharp at any size",
        headroom="any" if figures.headroom is None else share_text(figures.headroom, signed=True),
        is_same_shot=one.match.is_same_shot,
        is_denser=density is None or (now_ppi is not None and density.worst > now_ppi),
    )
