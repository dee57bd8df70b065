"""The press loupe: what a sample of a picture looks like as it prints, beside the target."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from enum import Enum
from pathlib import Path

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.density import density_from_distance, effective_density
from harnet.core.measure.geometry import Matrix
from harnet.core.measure.units import CSS_PX_PER_INCH, POINTS_PER_INCH
from harnet.core.pictures.halftone import DOT_GAIN, Angles, Press, checked_press
from harnet.core.pictures.picture import Colour, Facts
from harnet.core.targets.target import Target
from harnet.media.pixels.halftone import Lens, PrintedPicture, printed_sample

GLASS = 8
"""How many times larger than true size the glass shows paper."""
SAMPLE_PX = 220
"""Edge of each of the two drawings."""
_FAR_ARC_MINUTES = 60
"""Edge of the sample as seen from afar: a degree of sight, so that what an eye separates shows."""
_SAME_WITHIN = 0.01
LEAST_SCREEN_PPI, MOST_SCREEN_PPI = 40.0, 800.0


class LoupeView(Enum):
    """How close one looks."""

    GLASS = "glass"
    TRUE_SIZE = "true"
    FAR = "far"


@dataclass(frozen=True, slots=True, kw_only=True)
class LoupeSettings:
    """How one looks, and the press; `screen_ppi` are the pixels per inch of the screen.

    `lpi` is the line screen where it is not the target's own. `profile` is the CMYK profile's
    file, None the generic one.
    """

    view: LoupeView = LoupeView.GLASS
    screen_ppi: float = CSS_PX_PER_INCH
    distance_in: float = 2000 / 25.4
    lpi: float | None = None
    angles: Angles = field(default_factory=Angles)
    dot_gain: float = DOT_GAIN
    profile: Path | None = None

    def press(self, target: Target) -> Press:
        """The press that prints a target.

        Raises:
            ValueOutOfRange: figures that no press has.
        """
        lpi = target.screen_lpi if self.lpi is None else self.lpi
        return checked_press(Press(lpi, self.angles, self.dot_gain))

    def lens(self, x_pt: float = 0.0, y_pt: float = 0.0) -> Lens:
        """The sample's edge and scale; its middle lies at a place on the paper, in points.

        Raises:
            ValueOutOfRange: a screen or a distance that cannot be.
        """
        if not LEAST_SCREEN_PPI <= self.screen_ppi <= MOST_SCREEN_PPI:
            raise ValueOutOfRange(
                f"a screen has between {LEAST_SCREEN_PPI:g} and {MOST_SCREEN_PPI:g} pixels per"
                f" inch, not {self.screen_ppi:g}"
            )
        per_inch, blur_in = self.screen_ppi, 0.0
        if self.view is LoupeView.GLASS:
            per_inch *= GLASS
        elif self.view is LoupeView.FAR:
            blur_in = 1 / density_from_distance(self.distance_in)
            per_inch = SAMPLE_PX / (_FAR_ARC_MINUTES * blur_in)
        return Lens(SAMPLE_PX, per_inch, blur_in, x_pt / POINTS_PER_INCH, y_pt / POINTS_PER_INCH)


@dataclass(frozen=True, slots=True, kw_only=True)
class Sample:
    """A picture under the loupe, as JPEGs: as it prints now and at the target's density.

    `now_ppi` and `target_ppi` are what the two show. `target_share` is the size that the picture
    has in the second against the first: 1 where it has pixels enough, less where it reaches the
    target only when printed that much smaller.
    """

    now: bytes
    at_target: bytes
    now_ppi: float
    target_ppi: float
    target_share: float
    edge_pt: float
    lpi: float


def prints_black_only(facts: Facts) -> bool:
    """Whether a picture is printed in black ink alone."""
    return facts.colour in (Colour.GREY, Colour.BILEVEL)


def sampled(
    pictures: Sequence[PrintedPicture],
    px: tuple[int, int],
    target: Target,
    is_bilevel: bool,
    settings: LoupeSettings,
    at: tuple[float, float] = (0.0, 0.0),
) -> Sample:
    """The sample as it prints, and the topmost of the pictures alone at the target's density.

    `px` are that picture's pixels; `at` is the sample's middle on the paper, in points, and the
    pictures' matrices lead to points from there.

    Raises:
        ValueOutOfRange: settings that cannot be.
    """
    lens, press = settings.lens(*at), settings.press(target)
    top = pictures[-1]
    density = effective_density(*px, top.matrix)
    wanted_ppi = target.for_bits(is_bilevel).density_ppi
    share = min(1.0, density.worst / wanted_ppi)
    if share > 1 - _SAME_WITHIN:
        share = 1.0
    smaller = replace(
        top,
        matrix=top.matrix.then(Matrix.scaling(share, share)),
        outline=tuple((x * share, y * share) for x, y in top.outline),
        most_ppi=(wanted_ppi, wanted_ppi),
    )
    return Sample(
        now=printed_sample(pictures, lens, press, settings.profile),
        at_target=printed_sample([smaller], lens, press, settings.profile),
        now_ppi=density.worst,
        target_ppi=min(wanted_ppi, density.worst / share),
        target_share=share,
        edge_pt=SAMPLE_PX / lens.px_per_inch * POINTS_PER_INCH,
        lpi=press.lpi,
    )
