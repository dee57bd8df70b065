"""Size and density of one picture: what each change would mean, before anything happens."""

from dataclasses import dataclass

from flask import Blueprint, render_template, request

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.units import Unit
from harnet.core.measure.wording import (
    length_text,
    memory_text,
    ppi_text,
    px_text,
    share_text,
    size_text,
)
from harnet.core.pictures.picture import Facts
from harnet.core.pictures.resampling import unpacked_bytes
from harnet.core.pictures.sizing import (
    PrintSize,
    with_density,
    with_height,
    with_other_pixels,
    with_width,
)
from harnet.core.targets.shipped import SHIPPED
from harnet.studio.common.errors import NotThere, sentence_of
from harnet.studio.pictures.picture import facts_of_picture, picture_with
from harnet.web.common.shared import studio
from harnet.web.common.values import figure, length

blueprint = Blueprint("calculator", __name__, url_prefix="/pictures/<int:picture_id>/calculator")
KEEP, CHANGE = "keep", "change"
UNITS = (Unit.MM, Unit.CM, Unit.INCH, Unit.POINT, Unit.PX)
_DIGITS = {Unit.MM: 1, Unit.CM: 2, Unit.INCH: 3, Unit.POINT: 1, Unit.PX: 0}


@dataclass(frozen=True, slots=True)
class Consequence:
    """What a change would mean, in words and figures."""

    before: str
    strong: str
    after: str
    is_warning: bool


@dataclass(frozen=True, slots=True)
class Calculator:
    """The three fields and what follows from them."""

    mode: str
    unit: Unit
    width: str
    height: str
    density: str
    consequence: Consequence
    failure: str = ""


def calculator_of(
    facts: Facts, mode: str, unit: Unit, size: PrintSize, failure: str = ""
) -> Calculator:
    """The calculator showing a size."""
    assert facts.px_w is not None and facts.px_h is not None
    said = _kept(facts, size, unit) if mode == KEEP else _changed(facts, size, unit)
    digits = _DIGITS[unit]
    return Calculator(
        mode,
        unit,
        length_text(size.width_pt, unit, digits=digits),
        length_text(size.height_pt, unit, digits=digits),
        f"{size.density_ppi:.1f}".removesuffix(".0"),
        said,
        failure,
    )


def first_size(facts: Facts) -> PrintSize:
    """What the calculator begins with: the picture's reach at the first target."""
    assert facts.px_w is not None and facts.px_h is not None
    return with_density(facts.px_w, facts.px_h, SHIPPED[0].density_ppi)


def _size(size: PrintSize, unit: Unit) -> str:
    return size_text(size.width_pt, size.height_pt, unit, digits=min(1, _DIGITS[unit]))


def _kept(facts: Facts, size: PrintSize, unit: Unit) -> Consequence:
    packed = "as many as now"
    if facts.density_x is not None and abs(size.density_ppi / facts.density_x - 1) > 0.001:
        packed = "packed closer" if size.density_ppi > facts.density_x else "spread wider"
    pixels = px_text(facts.px_w, facts.px_h)
    return Consequence(
        f"Same {pixels} pixels, {packed}: at {ppi_text(size.density_ppi)} ppi this picture is",
        _size(size, unit),
        "large. Nothing is resampled.",
        False,
    )


def _changed(facts: Facts, size: PrintSize, unit: Unit) -> Consequence:
    assert facts.px_w is not None and facts.px_h is not None
    change = with_other_pixels(facts.px_w, facts.px_h, size)
    needs = (
        f"{_size(size, unit)} at {ppi_text(size.density_ppi)} ppi needs"
        f" {px_text(change.px_w, change.px_h)} px, {change.edge_percent:.4g}\u00a0% of the edge:"
    )
    memory = (
        f"the unpacked size goes from {memory_text(facts.unpacked_bytes)} to"
        f" {memory_text(unpacked_bytes(change.px_w, change.px_h, facts.channels, facts.bits))}."
    )
    if change.interpolated_share > 0:
        return Consequence(
            needs,
            f"{share_text(change.interpolated_share)} of them would be interpolated",
            f"and {memory} It will not look sharper.",
            True,
        )
    if (change.px_w, change.px_h) == (facts.px_w, facts.px_h):
        return Consequence(needs, "exactly the pixels it has", "now.", False)
    given_up = 1 - change.px_w * change.px_h / (facts.px_w * facts.px_h)
    return Consequence(
        needs, f"{share_text(given_up)} of the pixels would be discarded", f"and {memory}", False
    )


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
