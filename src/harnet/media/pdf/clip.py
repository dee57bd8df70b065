"""Boxes on a page, and what clipping paths leave of them: bounds, on the safe side.

A clip's bounds are never smaller than the clip, so what they hide is hidden for certain.
"""

from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

from harnet.core.geometry import Matrix

Bounds = tuple[float, float, float, float]
"""Left, bottom, right, top."""

CLIP_OPERATORS = frozenset({"W", "W*"})
PATH_OPERATORS = frozenset({"m", "l", "c", "v", "y", "re"})
PAINT_OPERATORS = frozenset({"f", "F", "f*", "B", "B*", "b", "b*", "S", "s", "n"})
_LEAST_PT = 1e-6


def bounds_of(points: Iterable[tuple[float, float]]) -> Bounds | None:
    """The box around points; None around none."""
    listed = list(points)
    if not listed:
        return None
    xs, ys = zip(*listed, strict=True)
    return min(xs), min(ys), max(xs), max(ys)


def bounds_under(box: Bounds, matrix: Matrix) -> Bounds:
    """The box around a box that a matrix maps."""
    left, bottom, right, top = box
    corners = ((left, bottom), (right, bottom), (right, top), (left, top))
    found = bounds_of(matrix.applied(x, y) for x, y in corners)
    assert found is not None
    return found


def unit_bounds(matrix: Matrix) -> Bounds:
    """The box around the unit square that a matrix maps, where images are painted."""
    a, b, c, d, e, f = matrix.as_tuple()
    return (
        e + min(a, 0.0) + min(c, 0.0),
        f + min(b, 0.0) + min(d, 0.0),
        e + max(a, 0.0) + max(c, 0.0),
        f + max(b, 0.0) + max(d, 0.0),
    )


def shared(one: Bounds | None, other: Bounds | None) -> Bounds | None:
    """What two boxes have in common; None is everything. It may be turned inside out: nothing."""
    if one is None or other is None:
        return one or other
    return (
        max(one[0], other[0]),
        max(one[1], other[1]),
        min(one[2], other[2]),
        min(one[3], other[3]),
    )


def is_nothing(box: Bounds | None) -> bool:
    """Whether a box holds no area."""
    return box is not None and (box[2] - box[0] <= _LEAST_PT or box[3] - box[1] <= _LEAST_PT)


@dataclass(slots=True)
class Path:
    """The path under construction, and whether it is to clip."""

    parts: list[tuple[str, list[Any], Matrix]] = field(default_factory=list)
    clips: bool = False

    def add(self, name: str, operands: list[Any], ctm: Matrix) -> None:
        """Takes in an operator that builds a path; most paths never clip, and are not looked at."""
        self.parts.append((name, operands, ctm))

    def ended(self, clip: Bounds | None) -> Bounds | None:
        """The clip after the path was painted; the path begins anew."""
        if self.clips:
            # An empty path clips everything away (ISO 32000-2, 8.5.4).
            points = [point for part in self.parts for point in _points_of(*part)]
            clip = shared(clip, bounds_of(points) or (0.0, 0.0, 0.0, 0.0))
        self.parts, self.clips = [], False
        return clip


def _points_of(name: str, operands: list[Any], ctm: Matrix) -> list[tuple[float, float]]:
    """The points on the page that an operator adds to a path."""
    try:
        numbers = [float(number) for number in operands]
    except (TypeError, ValueError):
        return []
    if name == "re" and len(numbers) == 4:
        x, y, width, height = numbers
        corners = ((x, y), (x + width, y), (x + width, y + height), (x, y + height))
        return [ctm.applied(*corner) for corner in corners]
    return [ctm.applied(x, y) for x, y in zip(numbers[::2], numbers[1::2], strict=False)]
