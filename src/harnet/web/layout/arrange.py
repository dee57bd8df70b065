"""Arranging on the Pages view: stacking, copies, shapes, text, own targets, previews, links."""

import re

from flask import Blueprint, render_template, request

from harnet.core.layout.aligning import Align, AlignTo, Spread
from harnet.core.pictures.roughness import roughness_of, roughness_of_placeholder
from harnet.media.pagedrawing.text_lines import FONT_NAMES
from harnet.media.pixels.previews import LIGHT_PX
from harnet.store.tables.jobs import Item
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import job_with, page_of, target_of
from harnet.studio.jobs.pages import set_facing, set_page_size
from harnet.studio.layout.aligning import align, make_alike, spread_evenly
from harnet.studio.layout.arranging import (
    copies_on,
    flip,
    restack,
    set_quality,
    set_shape,
    set_style,
    set_target_of,
)
from harnet.studio.layout.links import carry, save_to_shelf, update_changed
from harnet.studio.layout.placed import LINE, RECTANGLE, TEXT, placed_from
from harnet.studio.layout.placing import item_in, items_with, relink
from harnet.studio.layout.text_styles import ALIGNS
from harnet.studio.pictures.picture import picture_with
from harnet.studio.pictures.shelves import shelf_with
from harnet.studio.preflight.relinking import relink_all_in
from harnet.web.common.preferences import QUALITIES, own_quality
from harnet.web.common.shared import send_look, studio
from harnet.web.common.units import shown_unit
from harnet.web.common.values import (
    choice,
    colour,
    custom_density,
    figure_within,
    length,
    row_number,
)
from harnet.web.layout.pages_view import asked_items, desk_view, items_view

blueprint = Blueprint("arrange", __name__, url_prefix="/jobs/<int:job_id>/arrange")


@blueprint.post("/stack")
def stack(job_id: int) -> str:
    """Brings the selected items to the front or to the back."""
    with studio().session() as session:
        job, items = asked_items(session, job_id)
        restack(session, job, _some(items), request.form.get("to", ""))
        return items_view(session, job, items)


@blueprint.post("/align")
def align_items(job_id: int) -> str:
    """Brings the selected items in line with each other, the page, its margins or the first."""
    with studio().session() as session:
        job, items = asked_items(session, job_id)
        how = choice(Align, request.form.get("how", ""))
        align(
            session, job, items, how, choice(AlignTo, request.form.get("to", ""), AlignTo.SELECTION)
        )
        return items_view(session, job, items)


@blueprint.post("/spread")
def spread(job_id: int) -> str:
    """Makes the gaps between the selected items equal."""
    with studio().session() as session:
        job, items = asked_items(session, job_id)
        spread_evenly(session, job, items, choice(Spread, request.form.get("way", "")))
        return items_view(session, job, items)


@blueprint.post("/alike")
def alike(job_id: int) -> str:
    """Gives the selected items the width, height or density of the first."""
    with studio().session() as session:
        job, items = asked_items(session, job_id)
        make_alike(session, job, items, request.form.get("what", ""))
        return items_view(session, job, items)


@blueprint.post("/mirror")
def mirror(job_id: int) -> str:
    """Mirrors pictures inside their frames."""
    with studio().session() as session:
        job, items = asked_items(session, job_id)
        flip(session, job, items, request.form.get("across") == "yes")
        return items_view(session, job, items)


@blueprint.post("/duplicate")
def duplicate(job_id: int) -> str:
    """Copies the selected items beside themselves."""
    with studio().session() as session:
        job, items = asked_items(session, job_id)
        page = _some(items)[0].page
        return items_view(session, job, copies_on(session, job, items, page, "Duplicate"))


@blueprint.post("/paste")
def paste(job_id: int) -> str:
    """Copies items that were marked for copying, in this job or another, onto the page shown."""
    with studio().session() as session:
        job = job_with(session, job_id)
        copied = map(row_number, request.form.get("copied", "").split(","))
        numbers = [one for one in copied if one is not None]
        items = items_with(session, numbers)
        if not items:
            raise Refused("Nothing has been copied, or it no longer exists.")
        page = page_of(job, request.form.get("page", 1, int))
        return items_view(session, job, copies_on(session, job, items, page))


@blueprint.post("/shape")
def shape(job_id: int) -> str:
    """Gives a frame another outline."""
    with studio().session() as session:
        job, items = asked_items(session, job_id)
        radius = length(request.form.get("radius", ""), *shown_unit(job))
        set_shape(session, job, _one(items), request.form.get("shape", ""), radius)
        return items_view(session, job, items)


@blueprint.post("/style")
def style(job_id: int) -> str:
    """Sets a text's words and type, or a shape's colours."""
    form = request.form
    with studio().session() as session:
        job, items = asked_items(session, job_id)
        item = _one(items)
        changes: dict[str, object] = {}
        if item.kind == TEXT:
            changes = {
                "font": form.get("font") if form.get("font") in FONT_NAMES else "serif-400",
                "size_pt": figure_within(form.get("size", ""), "size", 1, 1000, "pt"),
                "leading_pt": figure_within(form.get("leading", ""), "leading", 1, 2000, "pt"),
                "colour": colour(form, "colour") or "#1c2833",
                "space_pt": figure_within(form.get("space", "0"), "space", 0, 1000, "pt"),
                "align": form.get("align") if form.get("align") in ALIGNS else "left",
                "link": _link(form.get("link", "")),
            }
        elif item.kind in (RECTANGLE, LINE):
            width_pt = figure_within(form.get("stroke_pt", ""), "stroke", 0, 500, "pt")
            changes = {"stroke": colour(form, "stroke"), "stroke_pt": width_pt}
            if item.kind == RECTANGLE:
                changes["fill"] = colour(form, "fill")
            elif changes["stroke"] is None:
                changes["stroke"] = "#1c2833"
        set_style(session, job, item, changes, form.get("text"))
        return items_view(session, job, items)


def _link(text: str) -> str:
    """A web address or a mail address, empty without.

    Raises:
        Refused: anything else, such as a script.
    """
    text = text.strip()[:500]
    if text and not re.match(r"(https?://|mailto:)\S+$", text):
        raise Refused(f"“{text}” is not a link; begin with https:// or mailto:.")
    return text


@blueprint.post("/target")
def target(job_id: int) -> str:
    """Gives the page or the selected placement a target of its own, or the job's again."""
    with studio().session() as session:
        job, items = asked_items(session, job_id)
        row = _one(items) if items else page_of(job, request.form.get("page", 1, int))
        key = request.form.get("target", "")
        set_target_of(session, job, row, key, custom_density(request.form))
        if items:
            return items_view(session, job, items)
        return desk_view(session, job, request.form.get("page", 1, int))


@blueprint.post("/quality")
def quality(job_id: int) -> str:
    """Sets the preview quality of the job or of a placement; output is never affected."""
    quality = request.form.get("quality", "")
    if quality and quality not in QUALITIES:
        raise Refused(f"“{quality}” is not one of {', '.join(QUALITIES)}.")
    with studio().session() as session:
        job, items = asked_items(session, job_id)
        set_quality(session, job, _one(items) if items else job, quality)
        if items:
            return items_view(session, job, items)
        return desk_view(session, job, request.form.get("page", 1, int))


@blueprint.post("/page-size")
def page_size(job_id: int) -> str:
    """Gives the page shown a size of its own."""
    number = request.form.get("page", 1, int)
    with studio().session() as session:
        job = job_with(session, job_id)
        unit, per_inch = shown_unit(job)
        width, height = (
            length(request.form.get(name, ""), unit, per_inch) for name in ("width", "height")
        )
        set_page_size(session, job, number, width, height)
        return desk_view(session, job, number)


@blueprint.post("/facing")
def facing(job_id: int) -> str:
    """Lays the pages side by side like a book's, or one by one; sets the margins."""
    with studio().session() as session:
        job = job_with(session, job_id)
        margin = length(request.form.get("margin", ""), *shown_unit(job))
        set_facing(session, job, request.form.get("facing") == "yes", margin)
        return desk_view(session, job, request.form.get("page", 1, int))


@blueprint.post("/link/<action>")
def link(job_id: int, action: str) -> str:
    """Relinks, updates, carries or saves to a shelf a placed picture."""
    with studio().session() as session:
        job, items = asked_items(session, job_id)
        item = _one(items)
        if action == "relink":
            relink(session, job, item, picture_with(session, request.form.get("picture", 0, int)))
        elif action == "update":
            update_changed(studio(), session, item)
        elif action == "carry":
            carry(studio(), session, job, item)
        elif action == "save-to-shelf":
            shelf = shelf_with(session, request.form.get("shelf", 0, int))
            save_to_shelf(studio(), session, job, item, shelf)
        else:
            raise Refused(f"“{action}” is not an action on a link.")
        session.expire_all()
        return items_view(session, job_with(session, job_id), [session.get_one(Item, item.id)])


@blueprint.post("/relink-all")
def relink_all(job_id: int) -> str:
    """Looks for every missing picture in a folder."""
    with studio().session() as session:
        job = job_with(session, job_id)
        found, still = relink_all_in(studio(), session, job, request.form.get("folder", ""))
        if not found:
            raise Refused("None of the missing pictures is in that folder.")
        session.flush()
        session.expire_all()
        send_look()
        number = request.form.get("page", 1, int)
        words = f"{found} relinked, {still} still missing."
        return desk_view(session, job_with(session, job_id), number) + render_template(
            "common/_said.html", sentence=words
        )


@blueprint.get("/why/<int:item_id>")
def why(job_id: int, item_id: int) -> str:
    """Whether what looks rough is the preview or the picture; `screen_px` is its width there."""
    with studio().session() as session:
        job = job_with(session, job_id)
        item = item_in(job, item_id)
        placed = placed_from(item, item.page.position + 1, target_of(job))
        density, source = placed.figures.density, placed.placement.source
        if density is None:
            sentence = "A vector picture has no pixels: it is redrawn at every zoom."
            return render_template("layout/_why.html", sentence=sentence, cause="neither")
        shown = int(source.px_w)
        quality = item.quality or job.quality or own_quality()
        if quality != "exact":
            shown = min(shown, round(LIGHT_PX * source.px_w / max(source.px_w, source.px_h)))
        wanted_ppi = placed.figures.target.passes_from_ppi
        if quality == "placeholder":
            found = roughness_of_placeholder(density.judged, wanted_ppi)
        else:
            found = roughness_of(
                max(0, request.args.get("screen_px", 0, int)),
                shown,
                int(source.px_w),
                density.judged,
                wanted_ppi,
            )
        return render_template("layout/_why.html", sentence=found.sentence, cause=found.cause.value)


def _some(items: list[Item]) -> list[Item]:
    if not items:
        raise Refused("Select something first.")
    return items


def _one(items: list[Item]) -> Item:
    if len(items) != 1:
        raise Refused("Select one item for this.")
    return items[0]
