"""What happens to one placed picture on its way into a PDF or a page image."""

import math
from dataclasses import dataclass, replace
from enum import Enum

from harnet.core.copies.frame_copy import visible_part
from harnet.core.copies.recipe import PixelBox
from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.placing import Placement
from harnet.core.measure.rounding import half_up
from harnet.core.measure.units import POINTS_PER_INCH
from harnet.core.output.pdf_settings import LIGHT_THRESHOLD, PdfColour, PdfSettings, PictureMode
from harnet.core.pictures.picture import Colour, Facts
from harnet.core.pictures.resampling import px_for

_AS_JPEG = (Colour.RGB, Colour.GREY, Colour.CMYK)
_INKED = (Colour.RGB, Colour.PALETTE, Colour.LAB)
"""The colours that are converted to the output intent; grey and 1-bit are ink already."""
_MARGIN_PX = 2
"""Kept around what a frame shows, so that readers that smooth have neighbours to look at."""


class TreatmentKind(Enum):
    """What happens to a picture on its way into a file."""

    VECTOR = "vector"
    PASSES = "passes"
    LOSSLESS = "lossless"
    COMPRESSED = "compressed"
    DOWNSAMPLED = "downsampled"


@dataclass(frozen=True, slots=True, kw_only=True)
class Treatment:
    """What happens to one placed picture: its pixels afterwards and its compression.

    `part` is what is left of it where the cropped-off rest is dropped, in pixels of the picture as
    it is seen; None leaves it whole. `is_inked` where its colours become those of the output
    intent.
    """

    action: TreatmentKind
    px_w: int = 0
    px_h: int = 0
    quality: int | None = None
    part: PixelBox | None = None
    is_inked: bool = False


def treatment_of(facts: Facts, placement: Placement, settings: PdfSettings) -> Treatment:
    """What a PDF made by these settings does to a picture.

    1-bit art keeps its pixels, and palettes their colours: both only lose by downsampling.
    """
    if facts.px_w is None or facts.px_h is None:
        return Treatment(action=TreatmentKind.VECTOR)
    is_inked = settings.colour is PdfColour.INTENT and is_converted(facts)
    passes = facts.format == "jpeg" and facts.lossy and facts.bits == 8 and not is_inked
    treatment = Treatment(
        action=TreatmentKind.PASSES if passes else TreatmentKind.LOSSLESS,
        px_w=facts.px_w,
        px_h=facts.px_h,
    )
    if settings.mode is not PictureMode.KEEP and facts.colour not in (
        Colour.BILEVEL,
        Colour.PALETTE,
    ):
        quality = settings.quality if facts.colour in _AS_JPEG or is_inked else None
        is_light = settings.mode is PictureMode.LIGHT
        threshold = LIGHT_THRESHOLD if is_light else settings.threshold
        smaller = downsampled(facts, placement, settings.to_ppi, threshold, quality)
        if smaller is not None:
            treatment = smaller
        elif is_light and not passes and quality is not None:
            treatment = Treatment(
                action=TreatmentKind.COMPRESSED, px_w=facts.px_w, px_h=facts.px_h, quality=quality
            )
    if settings.drops_cropped and treatment.action is not TreatmentKind.PASSES:
        treatment = _without_cropped(treatment, facts, placement)
    return replace(treatment, is_inked=is_inked) if is_inked else treatment


def is_converted(facts: Facts) -> bool:
    """Whether converting to the output intent changes this picture: its colours are not inks, or
    inks of a profile of its own.
    """
    return facts.colour in _INKED or (facts.colour is Colour.CMYK and facts.icc is not None)


def downsampled(
    facts: Facts,
    placement: Placement,
    to_ppi: float,
    threshold: float = 1.0,
    quality: int | None = None,
) -> Treatment | None:
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
    return Treatment(action=TreatmentKind.DOWNSAMPLED, px_w=px_w, px_h=px_h, quality=quality)


def _without_cropped(treatment: Treatment, facts: Facts, placement: Placement) -> Treatment:
    """The fate with only what the frame shows; the same where that saves next to nothing."""
    part = shown_pixels(facts, placement)
    assert facts.px_w is not None and facts.px_h is not None
    if part is None or part.width * part.height > 0.98 * facts.px_w * facts.px_h:
        return treatment
    px_w = max(1, half_up(treatment.px_w * part.width / facts.px_w))
    px_h = max(1, half_up(treatment.px_h * part.height / facts.px_h))
    return replace(treatment, px_w=px_w, px_h=px_h, part=part)


def shown_pixels(facts: Facts, placement: Placement) -> PixelBox | None:
    """The upright pixels that a frame shows, rounded outwards; None where it shows nothing.

    A flipped picture is shown from its other side, so the part is taken there.
    """
    assert facts.px_w is not None and facts.px_h is not None
    try:
        seen = visible_part(placement)
    except ValueOutOfRange:
        return None
    content = placement.content
    left, right = _along(
        (seen.left_pt, seen.right_pt),
        (content.offset_x, placement.drawn_size_pt[0], content.flip_h),
        facts.px_w,
    )
    top, bottom = _along(
        (seen.top_pt, seen.bottom_pt),
        (content.offset_y, placement.drawn_size_pt[1], content.flip_v),
        facts.px_h,
    )
    return PixelBox(left, top, right - left, bottom - top)


def _along(seen: tuple[float, float], drawn: tuple[float, float, bool], px: int) -> tuple[int, int]:
    """From and to in pixels on one axis; `drawn` is where the picture begins, its length, flip."""
    offset, length, is_flipped = drawn
    first, last = ((edge - offset) / length for edge in seen)
    if is_flipped:
        first, last = 1 - last, 1 - first
    return (
        max(0, math.floor(first * px + 1e-6) - _MARGIN_PX),
        min(px, math.ceil(last * px - 1e-6) + _MARGIN_PX),
    )
