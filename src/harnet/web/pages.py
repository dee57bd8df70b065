"""The Pages view: the canvas, the picture card, and every edit on a page."""

import math
from enum import Enum
from typing import TypeVar

from flask import (
    Blueprint,
    Response,
    after_this_request,
    jsonify,
    render_template,
    request,
    url_for,
)
from sqlalchemy.orm import Session
from werkzeug.datastructures import MultiDict

from harnet.core.errors import ValueOutOfRange
from harnet.core.geometry import Box
from harnet.core.placing import EvenBy, Fit, GivesWay
from harnet.core.preflight.finding import FileState
from harnet.core.units import length_from_text
from harnet.core.wording import length_text
from harnet.store.models import Item, Job
from harnet.studio.errors import Refused
from harnet.studio.jobs import add_page, job_with, page_of, remove_page
from harnet.studio.pictures import all_pictures, picture_with
from harnet.studio.placed import PICTURE, frame_of, placed_from, unit_of, worst_verdict
from harnet.studio.placing import (
    Gesture,
    after_gesture,
    apply_gesture,
    even_out,
    fit_picture,
    item_in,
    place_picture,
    relink,
    remove_items,
    scale_to_native,
    scale_to_reach,
    set_frame,
)
from harnet.web.card import card_of
from harnet.web.drawing import canvas_of, drawn_of, px_pt_of, verdict_class
from harnet.web.ruler import ruler_of
from harnet.web.shared import JobHeader, desk

blueprint = Blueprint("pages", __name__, url_prefix="/jobs/<int:job_id>/pages")
_FIELDS = ("x", "y", "width", "height")


@blueprint.get("")
def show(job_id: int) -> str:
    """A page with its strip, canvas and card; `page` and `select` choose what."""
    with desk().session() as session:
        job = job_with(session, job_id)
        number = request.args.get("page", 1, int)
        selected_id = request.args.get("select", None, int)
        is_fragment = request.headers.get("HX-Target") == "desk"
        return _desk_view(session, job, number, selected_id, is_fragment)


@blueprint.post("/add")
def add(job_id: int) -> str:
    """Adds an empty page behind the one shown."""
    with desk().session() as session:
        job = job_with(session, job_id)
        number = add_page(session, job, request.form.get("page", 1, int))
        return _desk_view(session, job, number)


@blueprint.post("/remove")
def remove(job_id: int) -> str:
    """Removes the page shown, with what is on it."""
    with desk().session() as session:
        job = job_with(session, job_id)
        number = remove_page(session, job, request.form.get("page", 1, int))
        return _desk_view(session, job, number)


@blueprint.post("/place")
def place(job_id: int) -> str:
    """Places a picture: in the page's middle, or with its own middle at a point."""
    with desk().session() as session:
        job = job_with(session, job_id)
        number = request.form.get("page", 1, int)
        picture = picture_with(session, request.form.get("picture", 0, int))
        x, y = request.form.get("x_pt", None, float), request.form.get("y_pt", None, float)
        at = (x, y) if x is not None and y is not None else None
        item = place_picture(session, job, page_of(job, number), picture, at)
        return _desk_view(session, job, number, item.id)


@blueprint.get("/items/<int:item_id>/measure")
def measure(job_id: int, item_id: int) -> Response:
    """The item and its card as they would be after a gesture; nothing is written."""
    with desk().session() as session:
        job = job_with(session, job_id)
        item = item_in(job, item_id)
        number = item.page.position + 1
        geometry = after_gesture(item, _gesture(request.args))
        drawn = drawn_of(job, item, number, px_pt_of(job, item.page), True, geometry)
        card = card_of(job, drawn.placed) if drawn.placed else None
        return jsonify(
            item=render_template("_item.html", drawn=drawn),
            card=render_template("_card_head.html", card=card) if card else "",
        )


@blueprint.post("/items/<int:item_id>/gesture")
def gesture(job_id: int, item_id: int) -> str:
    """Keeps what the hand did."""
    with desk().session() as session:
        job, item = _asked_item(session, job_id, item_id)
        apply_gesture(session, job, item, _gesture(request.form))
        return _item_view(session, job, item)


@blueprint.post("/items/<int:item_id>/figures")
def figures(job_id: int, item_id: int) -> str:
    """Sets frame, density and rotation by numbers."""
    with desk().session() as session:
        job, item = _asked_item(session, job_id, item_id)
        unit, per_inch = unit_of(job)
        try:
            lengths = [length_from_text(request.form[name], unit, per_inch) for name in _FIELDS]
            density = _changed_figure("density")
            rotation = _changed_figure("rotation")
        except ValueOutOfRange as error:
            text = str(error)
            raise Refused(f"Nothing was changed: {text}.") from None
        set_frame(session, job, item, Box(*lengths), density, rotation)
        return _item_view(session, job, item)


@blueprint.post("/items/<int:item_id>/scale")
def scale(job_id: int, item_id: int) -> str:
    """Scales to reach, to native, or evens out."""
    with desk().session() as session:
        job, item = _asked_item(session, job_id, item_id)
        scale_items(session, job, [item], request.form)
        return _item_view(session, job, item)


@blueprint.post("/items/<int:item_id>/fit")
def fit(job_id: int, item_id: int) -> str:
    """Lays the picture into its frame anew."""
    with desk().session() as session:
        job, item = _asked_item(session, job_id, item_id)
        fit_picture(session, job, item, _one_of(Fit, request.form.get("fit", "")))
        return _item_view(session, job, item)


@blueprint.post("/items/<int:item_id>/relink")
def link_again(job_id: int, item_id: int) -> str:
    """Puts another picture file behind the placement."""
    with desk().session() as session:
        job, item = _asked_item(session, job_id, item_id)
        relink(session, job, item, picture_with(session, request.form.get("picture", 0, int)))
        return _item_view(session, job, item)


@blueprint.post("/items/<int:item_id>/remove")
def take_off(job_id: int, item_id: int) -> str:
    """Takes the item off its page."""
    with desk().session() as session:
        job, item = _asked_item(session, job_id, item_id)
        number = item.page.position + 1
        remove_items(session, job, [item])
        return _desk_view(session, job, number)


def scale_items(session: Session, job: Job, items: list[Item], form: MultiDict[str, str]) -> None:
    """Does the scaling that a form asks for: `action`, `gives_way` and, to even out, `by`."""
    gives_way = _one_of(GivesWay, form.get("gives_way", "frame"))
    action = form.get("action", "")
    if action == "reach":
        scale_to_reach(session, job, items, gives_way)
    elif action == "native":
        scale_to_native(session, job, items, gives_way)
    elif action == "even":
        even_out(session, job, items, _one_of(EvenBy, form.get("by", "mean")), gives_way)
    else:
        raise Refused(f"“{action}” is not a way to scale a picture.")


_Choice = TypeVar("_Choice", bound=Enum)


def _one_of(kind: type[_Choice], value: str) -> _Choice:
    try:
        return kind(value)
    except ValueError:
        known = ", ".join(str(choice.value) for choice in kind)
        raise Refused(f"“{value}” is not one of {known}.") from None


def _asked_item(session: Session, job_id: int, item_id: int) -> tuple[Job, Item]:
    """The job and the item, unless somebody changed the item since it was shown."""
    job = job_with(session, job_id)
    return job, item_in(job, item_id, request.form.get("version", None, int))


def _gesture(values: MultiDict[str, str]) -> Gesture:
    dx, dy = values.get("dx", 0.0, float), values.get("dy", 0.0, float)
    if not (math.isfinite(dx) and math.isfinite(dy)):
        raise Refused("A way on the page needs two figures.")
    return Gesture(values.get("kind", "move"), dx, dy, values.get("handle", ""))


def _changed_figure(name: str) -> float | None:
    """A figure from the form, None where it stands as it was shown."""
    text = request.form.get(name, "").strip()
    if not text or text == request.form.get(f"shown_{name}"):
        return None
    try:
        return float(text.replace(",", "."))
    except ValueError:
        raise ValueOutOfRange(f"“{text}” is not a figure") from None


def _item_view(session: Session, job: Job, item: Item) -> str:
    session.flush()
    return _desk_view(session, job, item.page.position + 1, item.id)


def _desk_view(
    session: Session,
    job: Job,
    number: int,
    selected_id: int | None = None,
    is_fragment: bool = True,
) -> str:
    page = page_of(job, number)
    if request.method == "POST":
        _say_address(job, number, selected_id)
    header = JobHeader.of(job)
    selected = next((item for item in page.items if item.id == selected_id), None)
    card = None
    if selected is not None and selected.kind == PICTURE:
        card = card_of(job, placed_from(selected, number, header.target))
    is_missing = card is not None and card.placed.file_state is FileState.MISSING
    return render_template(
        "_desk.html" if is_fragment else "pages.html",
        header=header,
        job=job,
        number=number,
        film=[_film_frame(header, index + 1) for index in range(len(job.pages))],
        canvas=canvas_of(job, number, selected_id),
        selected=selected,
        card=card,
        fields=_box_fields(job, selected),
        pictures=all_pictures(session) if selected is None or is_missing else [],
        is_missing=is_missing,
        ruler=ruler_of(list(header.placed), header.target, selected_id),
        is_fragment=is_fragment,
    )


def _say_address(job: Job, number: int, selected_id: int | None) -> None:
    """Has the browser's address follow an edit, so that a reload or an undo comes back to it."""
    place = url_for("pages.show", job_id=job.id, page=number, select=selected_id)

    @after_this_request
    def add(response: Response) -> Response:
        response.headers["HX-Replace-Url"] = place
        return response


def _film_frame(header: JobHeader, number: int) -> tuple[int, str]:
    on_page = [placed for placed in header.placed if placed.page_number == number]
    return number, verdict_class(worst_verdict(on_page))


def _box_fields(job: Job, item: Item | None) -> dict[str, str]:
    """The frame of a selected text or rectangle in the job's unit."""
    if item is None:
        return {}
    unit, per_inch = unit_of(job)
    box = frame_of(item)
    lengths = (box.x, box.y, box.width, box.height)
    return {
        name: length_text(length, unit, per_inch, 2)
        for name, length in zip(_FIELDS, lengths, strict=True)
    }
