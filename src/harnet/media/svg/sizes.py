"""Viewports, viewBoxes and fitting of SVG 1.1 and 2 (7.7, 7.8) and CSS Images (5.5)."""

from dataclasses import dataclass

from harnet.core.measure.geometry import Matrix
from harnet.media.packages.gathering import NO_CROP, Fitting
from harnet.media.packages.xml import length_pt, number

PT_PER_PX = 0.75
"""1 CSS px is 1/96 in (CSS Values and Units Level 3, 6.2)."""
USUAL_PX = (300.0, 150.0)
"""CSS 2.2, 10.3.2: a replaced element without any size of its own."""
_ALIGNED = {"min": 0.0, "mid": 0.5, "max": 1.0}


def length_px(text: str | None, whole_px: float | None = None) -> float | None:
    """A length in CSS px; a percentage is one of `whole_px`. None where it is none."""
    if text is None:
        return None
    text = text.strip()
    if text.endswith("%"):
        return None if whole_px is None else number(text[:-1]) * whole_px / 100
    points = length_pt(text, PT_PER_PX)
    return None if points is None else points / PT_PER_PX


@dataclass(frozen=True, slots=True)
class ViewBox:
    """The part of the plane that a viewport shows."""

    x: float
    y: float
    width: float
    height: float


def view_box(text: str | None) -> ViewBox | None:
    """A viewBox with an area; None for anything else."""
    words = (text or "").replace(",", " ").split()
    if len(words) != 4:
        return None
    x, y, width, height = (number(one) for one in words)
    return ViewBox(x, y, width, height) if min(width, height) > 0 else None


@dataclass(frozen=True, slots=True)
class Aspect:
    """`preserveAspectRatio`: how something is aligned, and whether it is stretched, or cut."""

    x: float = 0.5
    y: float = 0.5
    is_stretched: bool = False
    is_cut: bool = False


def aspect_of(text: str | None) -> Aspect:
    """What a `preserveAspectRatio` says; the usual where it says nothing that is known."""
    words = (text or "").split()
    if words[:1] == ["defer"]:
        words = words[1:]
    if not words:
        return Aspect()
    if words[0] == "none":
        return Aspect(is_stretched=True)
    align = words[0].lower()
    x, y = align[1:4], align[5:8]
    is_cut = words[1:2] == ["slice"]
    return Aspect(_ALIGNED.get(x, 0.5), _ALIGNED.get(y, 0.5), is_cut=is_cut)


def view_matrix(
    box: ViewBox | None, aspect: Aspect, x: float, y: float, width: float, height: float
) -> Matrix:
    """The map from what a viewBox shows to the viewport around it."""
    if box is None:
        return Matrix.translation(x, y)
    across, down = width / box.width, height / box.height
    if not aspect.is_stretched:
        both = max(across, down) if aspect.is_cut else min(across, down)
        across = down = both
    left = x + aspect.x * (width - box.width * across) - box.x * across
    top = y + aspect.y * (height - box.height * down) - box.y * down
    return Matrix(across, 0, 0, down, left, top)


def fitting_for(aspect: Aspect, px: tuple[int, int], width: float, height: float) -> Fitting:
    """How a picture is fitted into a box of so many units: stretched, whole, or cut."""
    if aspect.is_stretched or min(px) <= 0 or min(width, height) <= 0:
        return Fitting()
    across, down = width / px[0], height / px[1]
    if aspect.is_cut:
        scale = max(across, down)
        over_x, over_y = 1 - width / (px[0] * scale), 1 - height / (px[1] * scale)
        crop = (
            aspect.x * over_x,
            aspect.y * over_y,
            (1 - aspect.x) * over_x,
            (1 - aspect.y) * over_y,
        )
        return Fitting(source_crop=crop)
    scale = min(across, down)
    room_x, room_y = 1 - px[0] * scale / width, 1 - px[1] * scale / height
    inset = (
        aspect.x * room_x,
        aspect.y * room_y,
        (1 - aspect.x) * room_x,
        (1 - aspect.y) * room_y,
    )
    return Fitting(target_inset=inset if any(inset) else NO_CROP)


def filled_in(
    width: float | None, height: float | None, px: tuple[int, int]
) -> tuple[float, float]:
    """A size with what is not stated taken from the pixels: one CSS px each, or in proportion."""
    if width is not None and height is not None:
        return width, height
    if min(px) <= 0:
        return width or 0.0, height or 0.0
    if width is not None:
        return width, width * px[1] / px[0]
    if height is not None:
        return height * px[0] / px[1], height
    return float(px[0]), float(px[1])
