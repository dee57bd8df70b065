"""Another picture in the same frame: what is seen stays as well as its proportion allows."""

import math
from dataclasses import dataclass, replace

from harnet.core.layout.figures import Figures, figures_of
from harnet.core.layout.placing import Content, Fit, Placement, Source, fitted
from harnet.core.measure.geometry import Box
from harnet.core.pictures.detail import Detail
from harnet.core.targets.target import Target

_SAME_PROPORTION = 0.005
"""Two crops of one shot that differ by less are laid over each other exactly."""
SAME_SHOT_WITHIN_BITS = 10
"""Common practice, no source: of a perceptual hash's 64 bits, at most ten differ between sizes
and compressions of one shot."""


def swapped(placement: Placement, source: Source) -> Placement:
    """The placement with another picture; its frame stays, and what the frame shows nearly so.

    A picture of the same proportion takes the other's place exactly, stretching included. Any
    other is scaled evenly, covers as large an area, keeps the spot in the frame's middle, and
    leaves no part of the frame empty that was filled.
    """
    width, height = placement.drawn_size_pt
    if abs(source.px_w / source.px_h / (placement.source.px_w / placement.source.px_h) - 1) <= (
        _SAME_PROPORTION
    ):
        content = replace(
            placement.content, scale_x=width / source.px_w, scale_y=height / source.px_h
        )
        return replace(placement, source=source, content=content)
    frame, old = placement.frame, placement.content
    scale = math.sqrt(width * height / (source.px_w * source.px_h))
    covers_x = old.offset_x <= 0 and old.offset_x + width >= frame.width
    covers_y = old.offset_y <= 0 and old.offset_y + height >= frame.height
    if covers_x:
        scale = max(scale, frame.width / source.px_w)
    if covers_y:
        scale = max(scale, frame.height / source.px_h)
    new_w, new_h = source.px_w * scale, source.px_h * scale
    offset_x = _offset(frame.width, old.offset_x, width, new_w, covers_x)
    offset_y = _offset(frame.height, old.offset_y, height, new_h, covers_y)
    content = Content(scale, scale, offset_x, offset_y, old.flip_h, old.flip_v)
    return replace(placement, source=source, content=content)


def _offset(frame: float, old_offset: float, old: float, new: float, covers: bool) -> float:
    """Where the new picture begins, so that the spot in the frame's middle stays there."""
    middle = (frame / 2 - old_offset) / old
    offset = frame / 2 - middle * new
    return min(0.0, max(frame - new, offset)) if covers else offset


@dataclass(frozen=True, slots=True)
class Match:
    """A picture that could take another's place: its figures there, and how alike the two are."""

    placement: Placement
    figures: Figures
    bits_apart: int | None
    detail: Detail | None = None

    @property
    def is_enlarged(self) -> bool:
        """Whether it holds much less detail than its pixels promise."""
        return self.detail is not None and self.detail.is_much_lower

    @property
    def honest_headroom(self) -> float | None:
        """The headroom by the pixels that carry detail; None where there is no end."""
        headroom = self.figures.headroom
        if headroom is None or self.detail is None or not self.is_enlarged:
            return headroom
        return (1 + headroom) * self.detail.share - 1

    @property
    def is_same_shot(self) -> bool:
        """Whether it shows the same as the picture in place."""
        return self.bits_apart is not None and self.bits_apart <= SAME_SHOT_WITHIN_BITS

    @property
    def rank(self) -> tuple[bool, float]:
        """The same shot first, then the most headroom by detail; vector art counts as endless."""
        headroom = self.honest_headroom
        return (not self.is_same_shot, -(headroom if headroom is not None else math.inf))


def match_of(
    placement: Placement,
    source: Source,
    target: Target,
    bits_apart: int | None,
    detail: Detail | None = None,
) -> Match:
    """What a picture would be in the place of another."""
    after = swapped(placement, source)
    return Match(after, figures_of(after, target), bits_apart, detail)


def filling_of(
    frame: Box, rotation_deg: float, source: Source, target: Target, detail: Detail | None = None
) -> Match:
    """What a picture would be that covers an empty frame."""
    content = fitted(source, frame, Fit.COVER)
    laid = Placement(source=source, frame=frame, content=content, rotation_deg=rotation_deg)
    return Match(laid, figures_of(laid, target), None, detail)


def bits_apart(one: str, other: str) -> int | None:
    """In how many bits two perceptual hashes differ, written as hexadecimal; None without one.

    >>> bits_apart("ff00", "ff01")
    1
    """
    if not one or not other or len(one) != len(other):
        return None
    return (int(one, 16) ^ int(other, 16)).bit_count()


def is_same_orientation(source: Source, width: float, height: float) -> bool:
    """Whether a picture lies or stands as a frame does; nearly square ones suit both."""
    one, other = source.px_w / source.px_h, width / height
    return (one - 1) * (other - 1) >= 0 or min(abs(one - 1), abs(other - 1)) < 0.1
