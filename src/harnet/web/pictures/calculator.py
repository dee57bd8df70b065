"""Size and density of one picture: what each change would mean, before anything happens."""

from flask import Blueprint, render_template, request

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.density import reach_pt
from harnet.core.measure.units import Unit
from harnet.core.pictures.picture import Facts
from harnet.core.pictures.sizing import (
    PrintSize,
    with_density,
    with_height,
    with_width,
)
from harnet.studio.common.errors import NotThere, sentence_of
from harnet.studio.pictures.picture import facts_of_picture, picture_with
from harnet.web.common.shared import studio
from harnet.web.common.values import figure, length, share
from harnet.web.pictures.sizes import CHANGE, KEEP, UNITS, calculator_of, first_size

blueprint = Blueprint("calculator", __name__, url_prefix="/pictures/<int:picture_id>/calculator")


@blueprint.get("")
def show(picture_id: int) -> str:
    """The calculator after one of its fields was changed; `changed` names it."""
    with studio().session() as session:
        facts = facts_of_picture(picture_with(session, picture_id))
    if facts.is_vector:
        raise NotThere("A vector picture has no pixels to calculate with.")
    mode = CHANGE if request.args.get("mode") == CHANGE else KEEP
    unit = next((one for one in UNITS if one.value == request.args.get("unit")), Unit.CM)
    shown_in = next((one for one in UNITS if one.value == request.args.get("shown_unit")), unit)
    before = _size_before(facts)
    try:
        size, failure = _asked_size(facts, mode, shown_in, before), ""
        calculator = calculator_of(facts, mode, unit, size)
    except ValueOutOfRange as error:
        failure = sentence_of(error)
        calculator = calculator_of(facts, mode, unit, before, failure)
    return render_template(
        "pictures/_calculator.html", calculator=calculator, picture_id=picture_id
    )


def _size_before(facts: Facts) -> PrintSize:
    """The size as it was before the change, to its last digit; fields show it rounded."""
    assert facts.px_w is not None and facts.px_h is not None
    width = request.args.get("exact_width", 0.0, float)
    density = request.args.get("exact_density", 0.0, float)
    if not (_is_sensible(width) and _is_sensible(density)):
        return first_size(facts)
    return PrintSize(width, width * facts.px_h / facts.px_w, density)


def _is_sensible(figure: float) -> bool:
    return 0 < figure < 1e9


def _asked_size(facts: Facts, mode: str, unit: Unit, before: PrintSize) -> PrintSize:
    """The size that the fields ask for; `changed` leads, the proportion is the picture's."""
    assert facts.px_w is not None and facts.px_h is not None
    px_w, px_h = facts.px_w, facts.px_h
    changed = request.args.get("changed", "")
    size = before
    if changed != "height" and mode == CHANGE and "exact_width" not in request.args:
        changed = "width"
    if changed in ("width", "height"):
        px, was = (px_w, before.width_pt) if changed == "width" else (px_h, before.height_pt)
        side = _side_pt(request.args.get(changed, ""), mode, unit, px, was, before.density_ppi)
        size = (with_width if changed == "width" else with_height)(px_w, px_h, side)
        if mode == KEEP:
            return size
    if changed == "density" or "exact_density" not in request.args:
        text = request.args.get("density", "")
        percent = share(text)
        density = figure(text, "density") if percent is None else percent * before.density_ppi
    else:
        density = before.density_ppi
    if mode == KEEP:
        return with_density(px_w, px_h, density)
    return PrintSize(size.width_pt, size.height_pt, density)


def _side_pt(
    text: str, mode: str, unit: Unit, px: int, before_pt: float, density_ppi: float
) -> float:
    """A side as it was typed: a length, a percentage, or pixels where pixels may change.

    Raises:
        ValueOutOfRange: none of these, or pixels while they are to be kept.
    """
    percent = share(text)
    if percent is not None:
        return percent * (before_pt if mode == KEEP else reach_pt(px, density_ppi))
    if mode == KEEP and (text.strip().lower().endswith("px") or unit is Unit.PX):
        raise ValueOutOfRange(
            f"the picture keeps its {px} pixels here; choose “Change the pixels” to have others"
        )
    return length(text, unit, density_ppi)
