"""How pictures go into a PDF: every pixel kept, the excess trimmed, or light to send."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum
from typing import Any

from harnet.core.errors import ValueOutOfRange
from harnet.core.picture import Colour, Facts
from harnet.core.placing import Placement
from harnet.core.resampling import px_for
from harnet.core.units import POINTS_PER_INCH

DEFAULT_THRESHOLD = 1.5
"""Common practice, no source: pictures up to half above the target are left alone."""
LIGHT_PPI, LIGHT_QUALITY, TRIM_QUALITY = 150.0, 70, 92
_LIGHT_THRESHOLD = 1.1
_AS_JPEG = (Colour.RGB, Colour.GREY)


class PictureMode(Enum):
    """What may happen to the pixels."""

    KEEP = "keep"
    """Every pixel is kept: JPEG data passes through, all else is lossless."""
    TRIM = "trim"
    """Only what lies above the threshold is downsampled, to the target."""
    LIGHT = "light"
    """Small enough for a message: downsampled and compressed, not for print."""


@dataclass(frozen=True, slots=True)
class PdfSettings:
    """How a PDF is to be made; `quality` is that of JPEG, None keeps what is downsampled lossless.

    Pictures denser than `threshold` times `to_ppi` are downsampled to `to_ppi`.
    """

    mode: PictureMode = PictureMode.KEEP
    to_ppi: float = 300.0
    threshold: float = DEFAULT_THRESHOLD
    quality: int | None = TRIM_QUALITY


def checked_settings(settings: PdfSettings) -> PdfSettings:
    """The settings, once they make sense.

    Raises:
        ValueOutOfRange: a figure outside its range; the text says which.
    """
    if not 10 <= settings.to_ppi <= 10_000:
        raise ValueOutOfRange(
            f"pictures are downsampled to 10 to 10 000 ppi, not to {settings.to_ppi:g}"
        )
    if not 1 <= settings.threshold <= 10:
        raise ValueOutOfRange(
            f"the threshold lies between 1 and 10 times the density, not at {settings.threshold:g}"
        )
    if settings.quality is not None and not 1 <= settings.quality <= 100:
        raise ValueOutOfRange(f"JPEG quality lies between 1 and 100, not at {settings.quality}")
    return settings


def settings_as_values(settings: PdfSettings) -> dict[str, Any]:
    """Settings as what JSON can hold."""
    return {
        "mode": settings.mode.value,
        "to_ppi": settings.to_ppi,
        "threshold": settings.threshold,
        "quality": settings.quality,
    }


def settings_from_values(values: Mapping[str, Any]) -> PdfSettings:
    """The settings that `settings_as_values` wrote."""
    return PdfSettings(
        PictureMode(values["mode"]), values["to_ppi"], values["threshold"], values["quality"]
    )


class Action(Enum):
    """What happens to a picture on its way into a file."""

    VECTOR = "stays vector"
    PASSES = "passes through"
    LOSSLESS = "lossless"
    COMPRESSED = "compressed as JPEG"
    DOWNSAMPLED = "downsampled"


@dataclass(frozen=True, slots=True)
class Fate:
    """What happens to one placed picture: its pixels afterwards, upright, and its compression."""

    action: Action
    px_w: int = 0
    px_h: int = 0
    quality: int | None = None


def fate_of(facts: Facts, placement: Placement, settings: PdfSettings) -> Fate:
    """What a PDF made by these settings does to a picture.

    1-bit art keeps its pixels, and palettes their colours: both only lose by downsampling.
    """
    if facts.px_w is None or facts.px_h is None:
        return Fate(Action.VECTOR)
    passes = facts.format == "jpeg" and facts.lossy and facts.bits == 8
    as_it_is = Fate(Action.PASSES if passes else Action.LOSSLESS, facts.px_w, facts.px_h)
    if settings.mode is PictureMode.KEEP or facts.colour in (Colour.BILEVEL, Colour.PALETTE):
        return as_it_is
    # CMYK is stored without loss: a JPEG of inks would be read with other inks by some readers.
    quality = settings.quality if facts.colour in _AS_JPEG else None
    is_light = settings.mode is PictureMode.LIGHT
    threshold = _LIGHT_THRESHOLD if is_light else settings.threshold
    smaller = downsampled(facts, placement, settings.to_ppi, threshold, quality)
    if smaller is not None:
        return smaller
    if is_light and not passes and quality is not None:
        return Fate(Action.COMPRESSED, facts.px_w, facts.px_h, quality)
    return as_it_is


def downsampled(
    facts: Facts,
    placement: Placement,
    to_ppi: float,
    threshold: float = 1.0,
    quality: int | None = None,
) -> Fate | None:
    """The fate of a picture that is denser than the threshold; None for any other."""
    density = placement.density
    if density is None or facts.px_w is None or facts.px_h is None:
        return None
    if min(density.x, density.y) <= to_ppi * threshold:
        return None
    width_pt, height_pt = placement.drawn_size_pt
    px_w, px_h = (
        min(px, px_for(max(length_pt, POINTS_PER_INCH / to_ppi), to_ppi))
        for px, length_pt in ((facts.px_w, width_pt), (facts.px_h, height_pt))
    )
    return Fate(Action.DOWNSAMPLED, px_w, px_h, quality)
