"""The picture agency: searching its offers and fetching them to a shelf."""

from dataclasses import dataclass

from flask import Blueprint, Response, abort, render_template, request

from harnet.core.measure.density import reach_pt
from harnet.core.measure.units import Unit
from harnet.core.measure.wording import px_text, reach_text
from harnet.core.targets.target import Target
from harnet.store.database import Session
from harnet.store.tables.pictures import AgencyFetch
from harnet.studio.outside.agency import AgencyError, AgencySearch, Offer
from harnet.studio.pictures.agency import FETCH_PICTURE, ask_to_fetch, fetch_with, latest_fetches
from harnet.studio.pictures.search import SHAPES
from harnet.studio.pictures.shelves import DEFAULT_SHELF, own_shelves
from harnet.studio.tasks.states import RUNNING
from harnet.studio.tasks.work import cancel_work
from harnet.web.common.shared import drawn_box, in_background, studio
from harnet.web.pictures.wording import asked_target

blueprint = Blueprint("agency", __name__, url_prefix="/agency")
_LEAST_PX = (1000, 1500, 2000, 2500, 3000)
_TILE_PX = (186.0, 124.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownOffer:
    """An offer on the page; `width` and `height` are its drawing's, in pixels."""

    offer: Offer
    pixels: str
    reach: str
    width: float
    height: float
    fetch: AgencyFetch | None


@blueprint.get("")
def search() -> str:
    """The offers that fit."""
    target = asked_target()
    fields = request.args
    wish = AgencySearch(
        fields.get("words", "")[:100],
        fields.get("shape", "") if fields.get("shape") in SHAPES else "",
        fields.get("least_px", 0, int),
        fields.get("licence", "")[:200],
    )
    failure, offers, licences = "", [], []
    with studio().session() as session:
        fetches = latest_fetches(session)
        try:
            licences = studio().agency.licences()
            offers = [_shown(one, target, fetches) for one in studio().agency.search(wish)]
        except AgencyError as error:
            failure = str(error)
        return render_template(
            "pictures/agency.html",
            agency=studio().agency.name,
            offers=offers,
            failure=failure,
            wish=wish,
            target=target,
            shapes=SHAPES,
            licences=licences,
            sizes=_LEAST_PX,
            shelves=own_shelves(studio(), session),
            default_shelf=DEFAULT_SHELF,
            running=RUNNING,
        )


def _shown(offer: Offer, target: Target, fetches: dict[str, AgencyFetch]) -> ShownOffer:
    ppi = target.density_ppi
    sides = reach_pt(offer.px_w, ppi), reach_pt(offer.px_h, ppi)
    reach = reach_text(*sides, Unit.MM, is_short=True)
    width, height = drawn_box(offer.px_w, offer.px_h, *_TILE_PX)
    return ShownOffer(
        offer=offer,
        pixels=f"{px_text(offer.px_w, offer.px_h)} px",
        reach=f"up to {reach}",
        width=width,
        height=height,
        fetch=fetches.get(offer.key),
    )


@blueprint.get("/preview/<key>")
def preview(key: str) -> Response:
    """A small picture of an offer."""
    try:
        data = studio().agency.preview(key)
    except AgencyError:
        abort(404)
    response = Response(data, mimetype="image/jpeg")
    response.headers["Cache-Control"] = "private, max-age=86400"
    return response


@blueprint.post("/fetch/<key>")
def fetch(key: str) -> str:
    """Has the worker fetch an offer."""
    with studio().session() as session:
        fetch_id = ask_to_fetch(studio(), session, key, request.form.get("shelf", 0, int)).id
    in_background(FETCH_PICTURE, row_id=fetch_id)
    return state(fetch_id)


@blueprint.get("/fetches/<int:fetch_id>")
def state(fetch_id: int) -> str:
    """How far a delivery is."""
    with studio().session() as session:
        return _state(session, fetch_id)


@blueprint.post("/fetches/<int:fetch_id>/cancel")
def cancel(fetch_id: int) -> str:
    """Stops a delivery."""
    with studio().session() as session:
        cancel_work(fetch_with(session, fetch_id))
        return _state(session, fetch_id)


def _state(session: Session, fetch_id: int) -> str:
    found = fetch_with(session, fetch_id)
    return render_template(
        "pictures/_fetch.html", fetch=found, offer_key=found.offer_key, running=RUNNING
    )
