"""From a frame: the print copy that has exactly the pixels its frame needs, placed at 100 %."""

import math
from dataclasses import dataclass, replace

from harnet.core.copies.recipe import PixelBox, Recipe
from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.placing import Content, Placement, Source, with_frame_size
from harnet.core.measure.density import judged_ppi, pixels_needed
from harnet.core.measure.units import POINTS_PER_INCH
from harnet.core.targets.target import Target

_HAIR_PT = 0.1
"""Common practice, no source: a gap of a thirtieth of a millimetre is not seen."""


@dataclass(frozen=True, slots=True)
class VisiblePart:
    """What a frame shows of its picture: from, to on each axis, in points from the frame's corner.

    The picture may leave a part of its frame empty.
    """

    left_pt: float
    top_pt: float
    right_pt: float
    bottom_pt: float

    @property
    def width_pt(self) -> float:
        """Its width on the page."""
        return self.right_pt - self.left_pt

    @property
    def height_pt(self) -> float:
        """Its height on the page."""
        return self.bottom_pt - self.top_pt


@dataclass(frozen=True, slots=True)
class FrameCopy:
    """A frame's copy: its recipe, and the pixels that the frame would need at the target."""

    recipe: Recipe
    needed_px_w: int
    needed_px_h: int
    is_too_small: bool
    """Whether the visible part has fewer pixels than needed; the recipe then keeps them all."""


def visible_part(placement: Placement) -> VisiblePart:
    """The part of the frame that the picture covers.

    Raises:
        ValueOutOfRange: the frame shows no part of its picture.
    """
    content, frame = placement.content, placement.frame
    width, height = placement.drawn_size_pt
    part = VisiblePart(
        max(0.0, content.offset_x),
        max(0.0, content.offset_y),
        min(frame.width, content.offset_x + width),
        min(frame.height, content.offset_y + height),
    )
    if part.width_pt <= 0 or part.height_pt <= 0:
        raise ValueOutOfRange("the frame shows no part of its picture")
    return part


def empty_share(placement: Placement) -> float:
    """The share of a frame that its picture leaves empty; 0 where less than a hair is.

    Rounded and elliptical frames are judged by their box.
    """
    try:
        part = visible_part(placement)
    except ValueOutOfRange:
        return 1.0
    frame = placement.frame
    if frame.width - part.width_pt <= _HAIR_PT and frame.height - part.height_pt <= _HAIR_PT:
        return 0.0
    return 1 - part.width_pt * part.height_pt / (frame.width * frame.height)


def frame_on_picture(placement: Placement) -> Placement:
    """The frame cut down to what its picture covers; the picture stays where it is on the page.

    Raises:
        ValueOutOfRange: the frame shows no part of its picture, or too little to hold.
    """
    part, frame, content = visible_part(placement), placement.frame, placement.content
    anchor = (
        part.left_pt / (frame.width - part.width_pt) if frame.width > part.width_pt else 0.0,
        part.top_pt / (frame.height - part.height_pt) if frame.height > part.height_pt else 0.0,
    )
    cut = with_frame_size(placement, part.width_pt, part.height_pt, anchor)
    moved = replace(
        content,
        offset_x=content.offset_x - part.left_pt,
        offset_y=content.offset_y - part.top_pt,
    )
    return replace(cut, content=moved)


def frame_copy(placement: Placement, target: Target) -> FrameCopy:
    """The copy of the visible part, shrunk to the pixels needed; nothing is ever invented.

    Raises:
        ValueOutOfRange: a vector picture, or a frame that shows nothing.
    """
    source, content = placement.source, placement.content
    if source.is_vector:
        raise ValueOutOfRange("a vector picture is sharp at any size and needs no print copy")
    part = visible_part(placement)
    limits = target.for_bits(source.is_bilevel)
    needed_w = pixels_needed(part.width_pt, limits.density_ppi)
    needed_h = pixels_needed(part.height_pt, limits.density_ppi)
    left, width = _pixels(
        part.left_pt - content.offset_x,
        part.width_pt,
        content.scale_x,
        int(source.px_w),
        content.flip_h,
    )
    top, height = _pixels(
        part.top_pt - content.offset_y,
        part.height_pt,
        content.scale_y,
        int(source.px_h),
        content.flip_v,
    )
    crop = PixelBox(left, top, width, height)
    density = placement.density
    if density is not None and density.judged >= judged_ppi(limits.density_ppi):
        # What is judged to be enough is enough, whatever a tag's rounding makes of it.
        needed_w, needed_h = min(needed_w, width), min(needed_h, height)
    if needed_w > width or needed_h > height:
        # Its own pixels, tagged so that 100 % is the size it has on the page now.
        recipe = Recipe(
            crop=crop,
            px_w=width,
            px_h=height,
            density_x=POINTS_PER_INCH / content.scale_x,
            density_y=POINTS_PER_INCH / content.scale_y,
        )
        return FrameCopy(recipe, needed_w, needed_h, True)
    ppi = limits.density_ppi
    return FrameCopy(
        Recipe(crop=crop, px_w=needed_w, px_h=needed_h, density_x=ppi, density_y=ppi),
        needed_w,
        needed_h,
        False,
    )


def _pixels(
    from_pt: float, length_pt: float, scale: float, px: int, is_flipped: bool
) -> tuple[int, int]:
    """First pixel and number of pixels under a stretch of the drawn picture, whole ones."""
    first = max(0, math.floor(from_pt / scale + 1e-6))
    last = min(px, math.ceil((from_pt + length_pt) / scale - 1e-6))
    return (px - last if is_flipped else first), max(1, last - first)


def with_copy(placement: Placement, copy: Source) -> Placement:
    """The placement with its copy in place of the original, at exactly 100 % of its native size.

    The copy lies centred over the part that was visible; it reaches less than a pixel beyond it.
    """
    part = visible_part(placement)
    scale_x, scale_y = POINTS_PER_INCH / copy.native_x, POINTS_PER_INCH / copy.native_y
    content = Content(
        scale_x,
        scale_y,
        part.left_pt + (part.width_pt - copy.px_w * scale_x) / 2,
        part.top_pt + (part.height_pt - copy.px_h * scale_y) / 2,
        placement.content.flip_h,
        placement.content.flip_v,
    )
    return replace(placement, source=copy, content=content)
