"""Size and density of one picture: what each change would mean, before anything happens."""

from flask import Blueprint, render_template, request

from harnet.core.errors import ValueOutOfRange
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
from harnet.web.common.values import figure, length
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
    try:
        size, failure = _asked_size(facts, mode, shown_in), ""
        calculator = calculator_of(facts, mode, unit, size)
    except ValueOutOfRange as error:
        failure = sentence_of(error)
        calculator = calculator_of(facts, mode, unit, first_size(facts), failure)
    return render_template(
        "pictures/_calculator.html", calculator=calculator, picture_id=picture_id
    )


def _asked_size(facts: Facts, mode: str, unit: Unit) -> PrintSize:
    """The size that the fields ask for; `changed` leads, the proportion is the picture's."""
    assert facts.px_w is not None and facts.px_h is not None
    px_w, px_h = facts.px_w, facts.px_h
    changed = request.args.get("changed", "")
    width = length(request.args.get("width", ""), unit)
    height = length(request.args.get("height", ""), unit)
    density = figure(request.args.get("density", ""), "density")
    if mode == KEEP:
        if changed == "width":
            return with_width(px_w, px_h, width)
        if changed == "height":
            return with_height(px_w, px_h, height)
        return with_density(px_w, px_h, density)
    if changed == "height":
        width = with_height(px_w, px_h, height).width_pt
    size = with_width(px_w, px_h, width)
    return PrintSize(size.width_pt, size.height_pt, density)
