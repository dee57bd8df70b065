"""Boxes on a page, and what clipping paths leave of them: bounds, on the safe side.

A clip's bounds are never smaller than the clip, so what they hide is hidden for certain.
"""

from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

from harnet.core.measure.geometry import Matrix

Bounds = tuple[float, float, float, float]
"""Left, bottom, right, top."""

CLIP_OPERATORS = frozenset({"W", "W*"})
PATH_OPERATORS = frozenset({"m", "l", "c", "v", "y", "re"})
PAINT_OPERATORS = frozenset({"f", "F", "f*", "B", "B*", "b", "b*", "S", "s", "n"})
_OPERANDS = {"m": 2, "l": 2, "c": 6, "v": 4, "y": 4, "re": 4}
_LEAST_PT = 1e-6
_FLAT = 1e-6


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


def is_axis_aligned(matrix: Matrix) -> bool:
    """Whether a matrix maps upright rectangles to upright ones, quarter turns included."""
    if matrix.b == 0 and matrix.c == 0:
        return True
    a, b, c, d = (abs(value) for value in matrix.as_tuple()[:4])
    most = max(a, b, c, d) * _FLAT
    return (b <= most and c <= most) or (a <= most and d <= most)


def holds(box: Bounds, other: Bounds, hair: float) -> bool:
    """Whether a box holds all of another, but for a hair."""
    return (
        box[0] - hair <= other[0]
        and box[1] - hair <= other[1]
        and box[2] + hair >= other[2]
        and box[3] + hair >= other[3]
    )


@dataclass(slots=True)
class Path:
    """The path under construction, and whether it is to clip."""

    parts: list[tuple[str, list[Any], Matrix]] = field(default_factory=list)
    clips: bool = False

    def add(self, name: str, operands: list[Any], ctm: Matrix) -> None:
        """Imports an operator that builds a path; most paths never clip, and are not looked at."""
        self.parts.append((name, operands, ctm))

    @property
    def bounds(self) -> Bounds | None:
        """The box around the path; None around none."""
        return bounds_of(point for part in self.parts for point in _points_of(*part))

    def ended(self, clip: Bounds | None, is_exact: bool) -> tuple[Bounds | None, bool]:
        """The clip after the path was painted, and whether it is exact; the path begins again."""
        if self.clips:
            # An empty path clips everything away (ISO 32000-2, 8.5.4).
            clip = shared(clip, self.bounds or (0.0, 0.0, 0.0, 0.0))
            is_box = len(self.parts) == 1 and self.parts[0][0] == "re"
            is_exact = is_exact and is_box and is_axis_aligned(self.parts[0][2])
        self.parts, self.clips = [], False
        return clip, is_exact


def _points_of(name: str, operands: list[Any], ctm: Matrix) -> list[tuple[float, float]]:
    """The points on the page that an operator adds to a path; surplus operands are passed over."""
    count = _OPERANDS[name]
    try:
        numbers = [float(number) for number in list(operands)[-count:]]
    except (TypeError, ValueError):
        return []
    if len(numbers) < count:
        return []
    if name == "re":
        x, y, width, height = numbers
        corners = ((x, y), (x + width, y), (x + width, y + height), (x, y + height))
        return [ctm.applied(*corner) for corner in corners]
    return [ctm.applied(x, y) for x, y in zip(numbers[::2], numbers[1::2], strict=True)]
