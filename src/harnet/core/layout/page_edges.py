"""How what is on a page meets its edges, and what lies over it.

All take outlines as convex polygons in points, the page's trim from (0, 0); they are the same
corners that the screen and the PDF are drawn from.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum
from functools import cached_property

from harnet.core.layout.placing import Placement
from harnet.core.measure.geometry import Box

Point = tuple[float, float]

AT_EDGE_PT = 72 / 25.4 / 2
"""Common practice, no source: what ends within half a millimetre of the trim is to meet it."""
_SAME_PT = 0.05


class Side(Enum):
    """An edge of the page."""

    LEFT = "left"
    TOP = "top"
    RIGHT = "right"
    BOTTOM = "bottom"


def clipped(polygon: Sequence[Point], by: Sequence[Point]) -> list[Point]:
    """The part of a polygon inside a convex one, both clockwise as seen on the page."""
    kept = list(polygon)
    for start, end in zip(by, [*by[1:], by[0]], strict=True):
        kept = _inside_of(kept, start, end)
    return kept


def _inside_of(polygon: list[Point], start: Point, end: Point) -> list[Point]:
    """What lies to the inner side of a line (Sutherland and Hodgman, 1974, from memory)."""
    (x0, y0), (x1, y1) = start, end

    def side(point: Point) -> float:
        return (x1 - x0) * (point[1] - y0) - (y1 - y0) * (point[0] - x0)

    kept: list[Point] = []
    for here, after in zip(polygon, [*polygon[1:], *polygon[:1]], strict=True):
        one, other = side(here), side(after)
        if one >= 0:
            kept.append(here)
        if one * other < 0:
            share = one / (one - other)
            kept.append(
                (here[0] + share * (after[0] - here[0]), here[1] + share * (after[1] - here[1]))
            )
    return kept


def area_of(polygon: Sequence[Point]) -> float:
    """The area of a polygon, in square points."""
    twice = sum(
        one[0] * other[1] - other[0] * one[1]
        for one, other in zip(polygon, [*polygon[1:], *polygon[:1]], strict=True)
    )
    return abs(twice) / 2


def seen_corners(placement: Placement) -> list[Point]:
    """The corners of what a frame shows of its picture: the frame's box and the picture's meet."""
    frame, content = placement.frame, placement.content
    width, height = placement.drawn_size_pt
    left = max(frame.x, frame.x + content.offset_x)
    top = max(frame.y, frame.y + content.offset_y)
    right = min(frame.x + frame.width, frame.x + content.offset_x + width)
    bottom = min(frame.y + frame.height, frame.y + content.offset_y + height)
    if right <= left or bottom <= top:
        return []
    seen = Box(left, top, right - left, bottom - top)
    turn = placement.turn
    return [turn.applied(x, y) for x, y in seen.corners()]


def is_off_page(corners: Sequence[Point], page_w: float, page_h: float) -> bool:
    """Whether nothing of it lies inside the trim."""
    if all(0 <= x <= page_w and 0 <= y <= page_h for x, y in corners):
        return area_of(corners) <= _SAME_PT
    return area_of(clipped(corners, Box(0, 0, page_w, page_h).corners())) <= _SAME_PT


def sides_without_bleed(
    corners: Sequence[Point], page_w: float, page_h: float, bleed_pt: float
) -> dict[Side, float]:
    """The edges that something meets without reaching their bleed, and how far it is short."""
    if not corners or bleed_pt <= 0:
        return {}
    xs, ys = [x for x, _ in corners], [y for _, y in corners]
    beyond = {
        Side.LEFT: -min(xs),
        Side.TOP: -min(ys),
        Side.RIGHT: max(xs) - page_w,
        Side.BOTTOM: max(ys) - page_h,
    }
    short = {
        side: bleed_pt - reach
        for side, reach in beyond.items()
        if -AT_EDGE_PT <= reach < bleed_pt - _SAME_PT
    }
    return {} if short and is_off_page(corners, page_w, page_h) else short


@dataclass(frozen=True)
class Region:
    """A convex polygon, with what tells quickly whether another one can lie inside it."""

    corners: Sequence[Point]

    @cached_property
    def extent(self) -> tuple[float, float, float, float]:
        """Left, top, right and bottom, in points."""
        xs, ys = zip(*self.corners, strict=True)
        return min(xs), min(ys), max(xs), max(ys)

    @cached_property
    def area(self) -> float:
        """In square points."""
        return area_of(self.corners)

    def is_covered_by(self, other: "Region") -> bool:
        """Whether all of it lies under another region."""
        if len(other.corners) < 3 or not self.corners:
            return False
        left, top, right, bottom = self.extent
        their_left, their_top, their_right, their_bottom = other.extent
        if (
            left < their_left - 1
            or top < their_top - 1
            or right > their_right + 1
            or bottom > their_bottom + 1
        ):
            # More than a point hangs out, however thin the rest is.
            return self.area <= _SAME_PT
        return self.area - area_of(clipped(self.corners, other.corners)) <= _SAME_PT
