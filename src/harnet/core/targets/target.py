"""Targets: what an output needs of a picture."""

from dataclasses import dataclass, replace

from harnet.core.errors import ValueOutOfRange
from harnet.core.pictures.halftone import Press, checked_press
from harnet.core.pictures.picture import Colour
from harnet.core.targets.severity import Severity

DEFAULT_TOLERANCE = 0.10
"""Common practice, no source: 279 ppi in a job of 300 ppi is fine."""
LOWEST_PPI, HIGHEST_PPI = 1.0, 10_000.0
FLOOR_SHARE, CEILING_SHARE = 1 / 3, 3.0
"""Common practice, no source: at a third pixels show as steps, above three times nobody gains."""
OWN, OWN_NAME = "own", "Custom figure"
"""Key and name of a target that is another with a figure of one's own."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Expectations:
    """What a target expects of a picture besides its density.

    Empty `colours` and `formats` allow any. Pictures in one of `profiled` colours need an ICC
    profile. A lossy picture is to have at least `least_jpeg_quality`, 0 to 100 as estimated.
    """

    colours: tuple[Colour, ...] = ()
    formats: tuple[str, ...] = ()
    profiled: tuple[Colour, ...] = ()
    allows_transparency: bool = True
    least_jpeg_quality: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Target:
    """A wanted density with its limits, in ppi.

    Below `floor_ppi` a picture is unusable, above `ceiling_ppi` its pixels are wasted; 1-bit
    pictures are judged against `bilevel_ppi`. `severities` holds rule ids and the severities that
    differ from the rules' own; `reason` says where the figures come from. `screen_lpi` is the line
    screen that a press prints it with, 0 where there is none.
    """

    key: str
    name: str
    density_ppi: float
    bilevel_ppi: float
    floor_ppi: float
    ceiling_ppi: float
    tolerance: float = DEFAULT_TOLERANCE
    screen_lpi: float = 0.0
    reason: str = ""
    expects: Expectations = Expectations()
    severities: tuple[tuple[str, Severity], ...] = ()

    @property
    def spoken(self) -> str:
        """Its name in the middle of a sentence; an own figure has none of its own."""
        return "this target" if self.key == OWN else self.name

    @property
    def passes_from_ppi(self) -> float:
        """The lowest density within tolerance."""
        return self.density_ppi * (1 - self.tolerance)

    def for_bits(self, is_bilevel: bool) -> "Target":
        """The limits that apply to a picture: a 1-bit one has its own, in proportion."""
        if not is_bilevel or self.bilevel_ppi == self.density_ppi:
            return self
        factor = self.bilevel_ppi / self.density_ppi
        return replace(
            self,
            density_ppi=self.bilevel_ppi,
            floor_ppi=self.floor_ppi * factor,
            ceiling_ppi=self.ceiling_ppi * factor,
        )

    def severity_of(self, rule_id: str, default: Severity) -> Severity:
        """How much a rule's finding matters here."""
        return dict(self.severities).get(rule_id, default)


def checked_target(target: Target) -> Target:
    """The target, once its figures make sense together.

    Raises:
        ValueOutOfRange: a figure out of its range; the text says which.
    """
    for what, figure in (("density", target.density_ppi), ("1-bit density", target.bilevel_ppi)):
        if not LOWEST_PPI <= figure <= HIGHEST_PPI:
            raise ValueOutOfRange(
                f"the {what} is between {LOWEST_PPI:g} and {HIGHEST_PPI:g} ppi, not {figure:g}"
            )
    if not 0 <= target.tolerance < 1:
        raise ValueOutOfRange(
            f"the tolerance is between 0 and 99 %, not {100 * target.tolerance:g} %"
        )
    if not 0 < target.floor_ppi <= target.passes_from_ppi + 1e-6:
        raise ValueOutOfRange(
            "the floor is above 0 and at most the lowest density that passes,"
            f" {target.passes_from_ppi:g} ppi, not {target.floor_ppi:g}"
        )
    if not target.density_ppi <= target.ceiling_ppi <= 100 * HIGHEST_PPI:
        raise ValueOutOfRange(
            f"the ceiling is at or above the density, {target.density_ppi:g} ppi, not"
            f" {target.ceiling_ppi:g}"
        )
    checked_press(Press(target.screen_lpi))
    if not 0 <= target.expects.least_jpeg_quality <= 100:
        raise ValueOutOfRange(
            "the minimum JPEG quality is between 0 and 100, not"
            f" {target.expects.least_jpeg_quality}"
        )
    if not target.name.strip():
        raise ValueOutOfRange("a target needs a name")
    return target


def own_target(density_ppi: float, base: Target) -> Target:
    """A target with another density for tone pictures; all else is the base target's.

    The 1-bit density, its limits, the tolerance, the expectations and the severities stay; floor
    and ceiling keep their proportion to the density.

    Raises:
        ValueOutOfRange: the figure lies outside 1 to 10 000 ppi.
    """
    if not LOWEST_PPI <= density_ppi <= HIGHEST_PPI:
        raise ValueOutOfRange(
            f"a target is between {LOWEST_PPI:g} and {HIGHEST_PPI:g} ppi, not {density_ppi:g}"
        )
    factor = density_ppi / base.density_ppi
    reason = base.reason
    if base.key != OWN:
        reason = f"A custom figure; 1-bit art and everything else as for {base.name}."
    return replace(
        base,
        key=OWN,
        name=OWN_NAME,
        density_ppi=density_ppi,
        floor_ppi=base.floor_ppi * factor,
        ceiling_ppi=base.ceiling_ppi * factor,
        reason=reason,
    )
