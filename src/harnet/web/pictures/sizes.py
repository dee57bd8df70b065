"""Size and density of a picture as the calculator shows them."""

from dataclasses import dataclass

from harnet.core.measure.units import Unit
from harnet.core.measure.wording import (
    exact_length_text,
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
    with_other_pixels,
)
from harnet.core.targets.shipped import SHIPPED

KEEP, CHANGE = "keep", "change"


UNITS = (Unit.MM, Unit.CM, Unit.INCH, Unit.POINT, Unit.PX)


@dataclass(frozen=True, slots=True)
class Consequence:
    """What a change would mean, in words and figures."""

    before: str
    strong: str
    after: str
    is_warning: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Calculator:
    """The three fields and what follows from them."""

    mode: str
    unit: Unit
    size: PrintSize
    width: str
    height: str
    density: str
    consequence: Consequence
    failure: str = ""

    @property
    def copy_fields(self) -> dict[str, str]:
        """The copy that has this size, as its form's address has it."""
        figures = {"width": f"{self.size.width_pt} pt", "density": f"{self.size.density_ppi}"}
        return figures | {"unit": Unit.MM.value if self.unit is Unit.PX else self.unit.value}


def calculator_of(
    facts: Facts, mode: str, unit: Unit, size: PrintSize, failure: str = ""
) -> Calculator:
    """The calculator showing a size."""
    assert facts.px_w is not None and facts.px_h is not None
    consequence = _kept(facts, size, unit) if mode == KEEP else _changed(facts, size, unit)
    return Calculator(
        mode=mode,
        unit=unit,
        size=size,
        width=exact_length_text(size.width_pt, unit, size.density_ppi),
        height=exact_length_text(size.height_pt, unit, size.density_ppi),
        density=f"{size.density_ppi:.1f}".removesuffix(".0"),
        consequence=consequence,
        failure=failure,
    )


def first_size(facts: Facts) -> PrintSize:
    """What the calculator begins with: the picture's reach at the first target."""
    assert facts.px_w is not None and facts.px_h is not None
    return with_density(facts.px_w, facts.px_h, SHIPPED[0].density_ppi)


def _size(size: PrintSize, unit: Unit) -> str:
    return size_text(size.width_pt, size.height_pt, unit, size.density_ppi)


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
