"""The form for a new job: common sizes, a drawing of the page, and what fills it."""

from dataclasses import dataclass

from flask import Blueprint, Response, make_response, redirect, render_template, request, url_for

from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.sheets import PAGE_FORMATS, TYPICAL_PHOTOGRAPHS, filling_ppi
from harnet.core.measure.geometry import Box
from harnet.core.measure.units import CSS_PX_PER_INCH, Unit
from harnet.core.measure.wording import exact_length_text, ppi_text
from harnet.store.database import Session
from harnet.studio.common.errors import Refused, sentence_of
from harnet.studio.jobs.jobs import NewJob, make_job
from harnet.studio.targets.targets import DEFAULT_KEY, target_asked
from harnet.web.common.shared import drawn_box, studio
from harnet.web.common.units import own_unit
from harnet.web.common.values import choice, custom_density, figure, length, whole_figure

blueprint = Blueprint("newjob", __name__, url_prefix="/jobs/new")
_FIRST_FIELDS = {
    "title": "",
    "width": "148",
    "height": "210",
    "unit": "mm",
    "shown_unit": "mm",
    "size_unit": "mm",
    "px_per_inch": "96",
    "bleed": "3",
    "margin": "10",
    "pages": "1",
    "is_facing": "",
    "target": DEFAULT_KEY,
    "own_ppi": "",
}
"""The fields of the form, with what stands in them at first."""
_LENGTHS = ("width", "height")
_SMALL_LENGTHS = ("bleed", "margin")
_DRAWING_PX = 210.0


@dataclass(frozen=True, slots=True, kw_only=True)
class PageDrawing:
    """A page as it will be, in pixels of its drawing, and the photographs that would fill it."""

    page: Box
    bleed: Box
    margin: Box | None
    fillings: tuple[tuple[str, str], ...]


@blueprint.get("")
def new() -> str:
    """The form as it opens, in the unit that this person has chosen."""
    return _page(_in_unit(dict(_FIRST_FIELDS), (own_unit() or Unit.MM).value))


@blueprint.get("/page")
def page_fields() -> str:
    """The fields of the page in the unit chosen, each read in the unit that it is typed in."""
    fields, failure = _asked(), ""
    try:
        fields = _in_unit(fields, fields["unit"])
    except ValueOutOfRange as error:
        failure = sentence_of(error)
    shown = _shown(fields, failure)
    return render_template("jobs/_page_fields.html", is_fragment=True, **shown)


@blueprint.get("/preview")
def preview() -> str:
    """The drawing of the page, as it is typed."""
    return render_template("jobs/_page_preview.html", **_shown(_asked(), ""))


def _asked() -> dict[str, str]:
    return {name: request.args.get(name, "") for name in _FIRST_FIELDS}


@blueprint.post("")
def make() -> Response | tuple[str, int]:
    """Creates the job, or shows the form again with what is wrong."""
    fields = {name: request.form.get(name, "") for name in _FIRST_FIELDS}
    try:
        fields = _in_unit(fields, fields["unit"])
        with studio().session() as session:
            job_id = make_job(session, _new_job(session, fields)).id
    except (Refused, ValueOutOfRange) as error:
        failure = sentence_of(error)
        return _page(fields, failure), 422
    return make_response(redirect(url_for("pages.show", job_id=job_id)))


def _page(fields: dict[str, str], failure: str = "") -> str:
    return render_template("jobs/new.html", **_shown(fields, failure))


def _shown(fields: dict[str, str], failure: str) -> dict[str, object]:
    unit = _unit(fields, "unit")
    return {
        "fields": fields | {"shown_unit": unit.value, "size_unit": unit.value},
        "small_unit": _small(unit).value,
        "formats": PAGE_FORMATS,
        "drawing": _drawing(fields, unit),
        "failure": failure,
    }


def _unit(fields: dict[str, str], name: str) -> Unit:
    return choice(Unit, fields[name], Unit.MM)


def _small(unit: Unit) -> Unit:
    """The unit of bleed and margin: pixels say nothing of a cutter's precision."""
    return Unit.MM if unit is Unit.PX else unit


def _per_inch(fields: dict[str, str]) -> float:
    try:
        found = figure(fields["px_per_inch"], "pixel density")
    except ValueOutOfRange:
        return CSS_PX_PER_INCH
    return found if found > 0 else CSS_PX_PER_INCH


def _in_unit(fields: dict[str, str], wanted: str) -> dict[str, str]:
    """The fields with their lengths in another unit; what is in it already stays as typed.

    A common size is typed by the form in the unit of its name, bleed and margin in the one before.
    """
    after = choice(Unit, wanted, Unit.MM)
    found = fields | {"unit": after.value}
    per_inch = _per_inch(fields)
    for names, old, new in (
        (_LENGTHS, choice(Unit, fields["size_unit"], after), after),
        (_SMALL_LENGTHS, _small(choice(Unit, fields["shown_unit"], after)), _small(after)),
    ):
        if old is not new:
            for name in names:
                length_pt = length(fields[name], old, per_inch)
                found[name] = exact_length_text(length_pt, new, per_inch)
    return found


def _drawing(fields: dict[str, str], unit: Unit) -> PageDrawing | None:
    """The page in the fields; None while they hold no page."""
    per_inch = _per_inch(fields) if unit is Unit.PX else CSS_PX_PER_INCH
    try:
        width, height = (length(fields[name], unit, per_inch) for name in _LENGTHS)
        bleed, margin = (length(fields[name], _small(unit)) for name in _SMALL_LENGTHS)
    except ValueOutOfRange:
        return None
    if not (10 <= width <= 14_400 and 10 <= height <= 14_400 and 0 <= bleed < 200):
        return None
    full_w, full_h = width + 2 * bleed, height + 2 * bleed
    drawn_w, _ = drawn_box(full_w, full_h, _DRAWING_PX, _DRAWING_PX)
    scale = drawn_w / full_w
    page = Box(bleed * scale, bleed * scale, width * scale, height * scale)
    inner = Box(
        (bleed + margin) * scale,
        (bleed + margin) * scale,
        (width - 2 * margin) * scale,
        (height - 2 * margin) * scale,
    )
    has_margin = 0 < margin < min(width, height) / 2
    return PageDrawing(
        page=page,
        bleed=Box(0, 0, full_w * scale, full_h * scale),
        margin=inner if has_margin else None,
        fillings=tuple(
            (name, ppi_text(round(filling_ppi(px_w, px_h, full_w, full_h))))
            for name, px_w, px_h in TYPICAL_PHOTOGRAPHS
        ),
    )


def _new_job(session: Session, fields: dict[str, str]) -> NewJob:
    unit = choice(Unit, fields["unit"])
    small = _small(unit)
    px_per_inch = figure(fields["px_per_inch"], "pixel density") if unit is Unit.PX else None
    # Before a length is measured in such pixels.
    per_inch = CSS_PX_PER_INCH if px_per_inch is None or px_per_inch <= 0 else px_per_inch
    return NewJob(
        title=fields["title"],
        width_pt=length(fields["width"], unit, per_inch),
        height_pt=length(fields["height"], unit, per_inch),
        unit=unit,
        px_per_inch=px_per_inch,
        bleed_pt=length(fields["bleed"], small),
        margin_pt=length(fields["margin"], small),
        pages=whole_figure(fields["pages"], "number of pages"),
        is_facing=fields["is_facing"] == "yes",
        target=target_asked(session, fields["target"], custom_density(fields)),
    )
