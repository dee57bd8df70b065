"""The targets that ship with Harnet, each with the reason for its figures."""

from collections.abc import Iterable

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.density import density_from_distance, density_from_screen
from harnet.core.measure.units import MM_PER_INCH
from harnet.core.pictures.picture import Colour
from harnet.core.targets.target import (
    CEILING_SHARE,
    DEFAULT_TOLERANCE,
    FLOOR_SHARE,
    Expectations,
    Target,
    own_target,
)

_PRESS_FORMATS = ("jpeg", "png", "tiff", "svg", "pdf")
_PRESS = Expectations(
    colours=(Colour.GREY, Colour.RGB, Colour.CMYK, Colour.LAB, Colour.BILEVEL, Colour.PALETTE),
    formats=_PRESS_FORMATS,
    profiled=(Colour.CMYK,),
    # Common practice, no source: below this, blocks show around edges in print.
    least_jpeg_quality=60,
)
_NEWSPRINT = Expectations(
    colours=_PRESS.colours,
    formats=_PRESS_FORMATS,
    profiled=(Colour.CMYK,),
    allows_transparency=False,
    least_jpeg_quality=50,
)
_LIGHT = Expectations(
    colours=(Colour.GREY, Colour.RGB, Colour.LAB, Colour.BILEVEL, Colour.PALETTE),
)
_BANNER_SEEN_FROM_MM = 600.0


def _target(
    key: str,
    name: str,
    density_ppi: float,
    bilevel_ppi: float,
    reason: str,
    expects: Expectations,
    tolerance: float = DEFAULT_TOLERANCE,
    screen_lpi: float = 0.0,
) -> Target:
    return Target(
        key=key,
        name=name,
        density_ppi=density_ppi,
        bilevel_ppi=bilevel_ppi,
        floor_ppi=density_ppi * FLOOR_SHARE,
        ceiling_ppi=density_ppi * CEILING_SHARE,
        tolerance=tolerance,
        screen_lpi=screen_lpi,
        reason=reason,
        expects=expects,
    )


SHIPPED: tuple[Target, ...] = (
    # The densities, the 1-bit densities and the line screens are common practice, no source.
    _target(
        "coated",
        "Coated press",
        300,
        1200,
        "Common practice for sheets printed at up to 200 lines per inch, 1.5 pixels per line.",
        _PRESS,
        screen_lpi=175,
    ),
    _target(
        "uncoated",
        "Uncoated press",
        density_from_screen(150, 1.5),
        1200,
        "150 lines per inch, 1.5 pixels per line: uncoated paper spreads finer dots.",
        _PRESS,
        screen_lpi=150,
    ),
    _target(
        "newsprint",
        "Newsprint",
        density_from_screen(100, 1.5),
        600,
        "100 lines per inch, 1.5 pixels per line; newspaper presses allow no transparency.",
        _NEWSPRINT,
        screen_lpi=100,
    ),
    _target(
        "office",
        "Office printer",
        220,
        600,
        "Common practice for laser and ink printers; 150 ppi still passes.",
        _LIGHT,
        0.32,
        screen_lpi=106,
    ),
    _target(
        "large",
        "Large format",
        150,
        300,
        "Common practice for banners seen from an arm’s length and more; at"
        f" {_BANNER_SEEN_FROM_MM / 10:.0f} cm the eye resolves"
        f" {density_from_distance(_BANNER_SEEN_FROM_MM / MM_PER_INCH):.0f} ppi.",
        Expectations(colours=_PRESS.colours, profiled=(Colour.CMYK,)),
    ),
    _target(
        "slides", "Slides", 96, 96, "Common practice: a projector’s pixels at 96 an inch.", _LIGHT
    ),
    _target("screen", "Web screen", 72, 72, "Common practice: one pixel per point.", _LIGHT),
)


def shipped(key: str) -> Target | None:
    """The shipped target of that key."""
    return next((target for target in SHIPPED if target.key == key), None)


def target_named(text: str, among: Iterable[Target] = SHIPPED, base: Target = SHIPPED[0]) -> Target:
    """The target meant by a key, a name or a figure in ppi.

    A figure replaces the density of `base` for tone pictures; coated press where none is given.

    Raises:
        ValueOutOfRange: neither a known target nor a figure.

    >>> target_named("office").density_ppi
    220
    """
    known = list(among)
    wanted = text.strip().lower()
    for target in known:
        if wanted in (target.key.lower(), target.name.lower()):
            return target
    try:
        figure = float(wanted.removesuffix("ppi").strip().replace(",", "."))
    except ValueError:
        keys = ", ".join(target.key for target in known)
        raise ValueOutOfRange(
            f"“{text}” is not a target; use a figure in ppi or one of {keys}"
        ) from None
    return own_target(figure, base)
