"""The Pages view: showing pages, measuring while the hand moves, placing and scaling."""

import math

from flask import Blueprint, Response, jsonify, make_response, render_template, request
from flask.typing import ResponseReturnValue
from werkzeug.datastructures import MultiDict

from harnet.core.layout.by_figures import FrameFigures
from harnet.core.layout.hand.straight_line import line_between
from harnet.core.layout.placing import Fit
from harnet.core.measure.geometry import Box
from harnet.core.measure.wording import reach_text, size_text
from harnet.store.tables.jobs import Item, Job
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import job_with, page_of, target_of
from harnet.studio.jobs.pages import add_page, copy_page, move_pages, remove_page
from harnet.studio.layout.arranging import add_item, put_into_frame
from harnet.studio.layout.crossing import apply_gesture
from harnet.studio.layout.gestures import Gesture, gesture_result
from harnet.studio.layout.links import paste_picture
from harnet.studio.layout.placed import FRAME, LINE, placed_from, placement_of, target_on
from harnet.studio.layout.placing import (
    fit_picture,
    is_at_native_size,
    item_in,
    name_of,
    place_picture,
    remove_items,
    set_figures,
)
from harnet.studio.pictures.pdf_pages import page_as_picture, page_count_of
from harnet.studio.pictures.picture import latest_pictures, names_told_apart, picture_with
from harnet.studio.preflight.checking import finding_beside
from harnet.web.common.preferences import (
    FITS,
    REACH,
    own_quality,
    preferred_fit_name,
    remember,
    remember_proportion,
)
from harnet.web.common.scaling import scale_items
from harnet.web.common.shared import studio
from harnet.web.common.units import shown_unit
from harnet.web.common.values import choice, figure, length, row_number
from harnet.web.drawing.pages import DrawnPreview, drawn_of, px_pt_of
from harnet.web.layout.card import card_of
from harnet.web.layout.offers import marks_on_page
from harnet.web.layout.pages_view import (
    LENGTHS,
    PLACE_LIST,
    asked_items,
    desk_view,
    figure_fields,
    items_view,
    say_address,
    selected_text,
)

blueprint = Blueprint("pages", __name__, url_prefix="/jobs/<int:job_id>/pages")
_SNAP_PX = 6.0
_STEP_DEG = 15.0


@blueprint.get("")
def show(job_id: int) -> str:
    """A page with its strip, canvas and card; `page` and `select` choose what."""
    selected = map(row_number, request.args.get("select", "").split(","))
    chosen = [one for one in selected if one is not None]
    with studio().session() as session:
        job = job_with(session, job_id)
        number = request.args.get("page", 1, int)
        is_fragment = request.headers.get("HX-Target") == "desk"
        return desk_view(session, job, number, chosen, is_fragment)


@blueprint.get("/finding")
def finding(job_id: int) -> str:
    """The page of the next or the previous finding, with what it is about selected."""
    step = 1 if request.args.get("step", 1, int) > 0 else -1
    with studio().session() as session:
        job = job_with(session, job_id)
        found = finding_beside(session, job, row_number(request.args.get("from", "")), step)
        say_address(job, found.page_number, [found.row.item_id])
        return desk_view(session, job, found.page_number, [found.row.item_id])


@blueprint.get("/pictures")
def pictures(job_id: int) -> str:
    """The pictures to place whose name holds a text."""
    with studio().session() as session:
        found = latest_pictures(session, PLACE_LIST, request.args.get("find", ""))
        job, number = job_with(session, job_id), request.args.get("page", 1, int)
        page = page_of(job, number)
        return render_template(
            "layout/_place_list.html",
            job=job,
            number=number,
            pictures=found,
            names=names_told_apart(found),
            page_marks=marks_on_page(page, target_on(page, job), found),
            place_list=PLACE_LIST,
        )


@blueprint.get("/pdf-pages")
def pdf_pages(job_id: int) -> str:
    """The pages of a PDF, to place one."""
    with studio().session() as session:
        picture = picture_with(session, request.args.get("picture", 0, int))
        return render_template(
            "layout/_pdf_pages.html",
            job=job_with(session, job_id),
            picture=picture,
            number=request.args.get("page", 1, int),
            count=page_count_of(picture),
        )


@blueprint.post("/add")
def add(job_id: int) -> str:
    """Adds an empty page behind the one shown."""
    with studio().session() as session:
        job = job_with(session, job_id)
        return desk_view(session, job, add_page(session, job, _page_number()))


@blueprint.post("/copy-page")
def copy(job_id: int) -> str:
    """Adds a copy of the page shown, behind it."""
    with studio().session() as session:
        job = job_with(session, job_id)
        return desk_view(session, job, copy_page(session, job, _page_number()))


@blueprint.post("/move-pages")
def move(job_id: int) -> str:
    """Moves pages to where another one is in the strip."""
    listed = map(row_number, request.form.get("pages", "").split(","))
    numbers = [one for one in listed if one is not None]
    with studio().session() as session:
        job = job_with(session, job_id)
        number = move_pages(session, job, numbers, request.form.get("to", 1, int))
        return desk_view(session, job, number)


@blueprint.post("/remove")
def remove(job_id: int) -> str:
    """Removes the page shown, with what is on it."""
    with studio().session() as session:
        job = job_with(session, job_id)
        return desk_view(session, job, remove_page(session, job, _page_number()))


def _page_number() -> int:
    return request.form.get("page", 1, int)


@blueprint.post("/place")
def place(job_id: int) -> str:
    """Places a picture: into a frame, in the page's middle, or with its own middle at a point."""
    with studio().session() as session:
        job = job_with(session, job_id)
        picture = picture_with(session, request.form.get("picture", 0, int))
        pdf_page = request.form.get("pdf_page", None, int)
        if pdf_page is not None:
            picture = page_as_picture(studio(), session, picture, pdf_page)
        fit = FITS[preferred_fit_name()]
        frame_id = request.form.get("frame", None, int)
        if frame_id is not None:
            item = item_in(job, frame_id)
            put_into_frame(session, job, item, picture, fit or Fit.COVER)
        else:
            page = page_of(job, _page_number())
            reaches = target_on(page, job) if preferred_fit_name() == REACH else None
            item = place_picture(session, job, page, picture, _point(), fit, reaches)
            if fit is None and reaches is None and not is_at_native_size(item):
                return items_view(session, job, [item]) + _asked_for_size(job, item)
        return items_view(session, job, [item])


def _asked_for_size(job: Job, item: Item) -> str:
    """What a picture too large for its page at native size is placed as, and the other sizes."""
    placement, unit = placement_of(item), shown_unit(job)
    reach = placed_from(item, 1, target_of(job)).figures
    return render_template(
        "layout/_too_large.html",
        job=job,
        name=name_of(item),
        selected_text=selected_text([item]),
        native=size_text(*placement.source.native_size_pt, *unit),
        reach=reach_text(reach.reach_w_pt, reach.reach_h_pt, *unit)
        if reach.reach_w_pt and reach.reach_h_pt
        else "",
        now=size_text(placement.frame.width, placement.frame.height, *unit),
    )


def _point() -> tuple[float, float] | None:
    x, y = request.form.get("x_pt", None, float), request.form.get("y_pt", None, float)
    return (x, y) if x is not None and y is not None else None


@blueprint.post("/paste-picture")
def paste(job_id: int) -> str:
    """Places a picture from the clipboard, which has no file: it is loose."""
    file = request.files.get("file")
    if file is None or not file.filename:
        raise Refused("There is no picture on the clipboard.")
    with studio().session() as session:
        job = job_with(session, job_id)
        page = page_of(job, _page_number())
        return items_view(
            session, job, [paste_picture(studio(), session, job, page, file.filename, file.stream)]
        )


@blueprint.post("/draw")
def draw(job_id: int) -> str:
    """Adds a frame, a text, a rectangle or a line where the hand drew it."""
    kind = request.form.get("kind", FRAME)
    rotation_deg = 0.0
    if kind == LINE:
        x, y, end_x, end_y = _figures("x", "y", "end_x", "end_y")
        in_steps = request.form.get("steps") == "yes"
        line = line_between((x, y), (end_x, end_y), _STEP_DEG if in_steps else 0.0)
        box, rotation_deg = line.box, line.rotation_deg
    else:
        box = Box(*_figures("x", "y", "width", "height"))
    with studio().session() as session:
        job = job_with(session, job_id)
        page = page_of(job, _page_number())
        return items_view(session, job, [add_item(session, job, page, kind, box, rotation_deg)])


def _figures(*names: str) -> list[float]:
    values = [request.form.get(name, math.nan, float) for name in names]
    if not all(math.isfinite(value) for value in values):
        raise Refused("Drawing needs a position and a size.")
    return values


@blueprint.get("/measure")
def measure(job_id: int) -> Response:
    """Items and card as they would be after a gesture; nothing is written."""
    with studio().session() as session:
        job, items = asked_items(session, job_id, whole_pages=True)
        asked = _gesture(request.args)
        result = gesture_result(job, items, asked)
        number = items[0].page.position + 1
        look = DrawnPreview([item.id for item in items], _px_pt(job, number), own_quality())
        drawn = [drawn_of(job, item, number, look, shape) for item, shape in result.geometries]
        placed = drawn[0].placed if len(drawn) == 1 else None
        card = (
            render_template("layout/_card_head.html", card=card_of(job, placed)) if placed else ""
        )
        return jsonify(
            items=[render_template("layout/_item.html", drawn=one) for one in drawn],
            card=card,
            guides=[
                [guide.is_vertical, guide.at, guide.start, guide.end] for guide in result.guides
            ],
            snap=result.snap_pt,
            reach=asked.snap_pt,
        )


@blueprint.post("/gesture")
def gesture(job_id: int) -> str:
    """Keeps what the hand did."""
    with studio().session() as session:
        job, items = asked_items(session, job_id)
        apply_gesture(session, job, items, _gesture(request.form))
        return items_view(session, job, items)


def _px_pt(job: Job, number: int) -> float:
    px_pt = request.args.get("px_pt", 0.0, float)
    return px_pt if 0 < px_pt < 1000 else px_pt_of(job, number)


def _gesture(values: MultiDict[str, str]) -> Gesture:
    dx, dy = values.get("dx", 0.0, float), values.get("dy", 0.0, float)
    px_pt = values.get("px_pt", 0.0, float)
    if not all(math.isfinite(value) for value in (dx, dy, px_pt)):
        raise Refused("A distance on the page needs two figures.")
    snaps = values.get("snap") == "yes"
    return Gesture(
        kind=values.get("kind", "move"),
        dx_pt=dx,
        dy_pt=dy,
        handle=values.get("handle", ""),
        snap_pt=max(0.0, px_pt) * _SNAP_PX if snaps else 0.0,
        in_steps=values.get("steps") == "yes",
    )


@blueprint.post("/figures")
def figures(job_id: int) -> str:
    """Sets one item by figures; only what differs from what was shown is written."""
    with studio().session() as session:
        job, items = asked_items(session, job_id)
        item = _single(items)
        changed = _typed_figures(job, item)
        if changed is not None:
            set_figures(session, job, item, changed)
        return items_view(session, job, items)


def _typed_figures(job: Job, item: Item) -> FrameFigures | None:
    """The fields that differ from what the card shows; None where nothing does."""
    shown = figure_fields(job, item)
    fields = {name: request.form.get(name, "").strip() for name in shown}
    typed = {name: text for name, text in fields.items() if text and text != shown[name]}
    keeps = request.form.get("keeps_proportion") == "yes"
    remember_proportion(keeps)
    if not typed:
        return None
    unit = shown_unit(job)
    values = {f"{name}_pt": length(typed[name], *unit) for name in LENGTHS if name in typed}
    if "density" in typed:
        values["density_ppi"] = figure(typed["density"], "density")
    if "rotation" in typed:
        values["rotation_deg"] = figure(typed["rotation"].rstrip("°"), "rotation")
    if "scale" in typed:
        values["native_share"] = figure(typed["scale"].rstrip("%"), "scale") / 100
    return FrameFigures(**values, keeps_proportion=keeps)


def _single(items: list[Item]) -> Item:
    if len(items) != 1:
        raise Refused("Select one item for this.")
    return items[0]


@blueprint.post("/scale")
def scale(job_id: int) -> str:
    """Scales to reach, to native, or evens out."""
    with studio().session() as session:
        job, items = asked_items(session, job_id)
        scale_items(session, job, items, request.form)
        return items_view(session, job, items)


@blueprint.post("/fit")
def fit(job_id: int) -> str:
    """Lays the picture into its frame again."""
    with studio().session() as session:
        job, items = asked_items(session, job_id)
        fit_picture(session, job, _single(items), choice(Fit, request.form.get("fit", "")))
        return items_view(session, job, items)


@blueprint.post("/take-off")
def remove_from_page(job_id: int) -> str:
    """Takes the selected items off their page."""
    with studio().session() as session:
        job, items = asked_items(session, job_id)
        if not items:
            raise Refused("Select something first.")
        number = items[0].page.position + 1
        remove_items(session, job, items)
        return desk_view(session, job, number)


@blueprint.post("/prefer")
def prefer(job_id: int) -> ResponseReturnValue:
    """Remembers this person's preview quality or fit, and shows the Pages view again."""
    response = make_response("", 204)
    response.headers["HX-Refresh"] = "true"
    return remember(response, request.form.get("quality", ""), request.form.get("fit", ""))
