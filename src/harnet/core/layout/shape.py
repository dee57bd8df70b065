"""Frame shapes: rectangle, rounded corners and ellipse, as one outline for screen and paper."""

from dataclasses import dataclass
from enum import Enum

from harnet.core.measure.geometry import Box, Matrix

_ARC = 0.5522847498
"""How far a cubic curve's handles reach for a quarter of a circle: 4/3 · (√2 − 1)."""

Point = tuple[float, float]


class Shape(Enum):
    """The outline of a frame."""

    RECTANGLE = "rectangle"
    ROUNDED = "rounded"
    """A rectangle with quarter circles for corners."""
    ELLIPSE = "ellipse"


@dataclass(frozen=True, slots=True)
class Outline:
    """A closed path: where it begins, then straight lines (one point) and curves (three)."""

    start: Point
    steps: tuple[tuple[Point, ...], ...]

    def mapped(self, matrix: Matrix) -> "Outline":
        """The same path after a map of the plane; cubic curves map by their points."""
        return Outline(
            matrix.applied(*self.start),
            tuple(tuple(matrix.applied(*point) for point in step) for step in self.steps),
        )


def outline_of(box: Box, shape: Shape, radius_pt: float) -> Outline:
    """A frame's outline, clockwise; a radius is at most half of the shorter side."""
    if shape is Shape.RECTANGLE:
        corners = box.corners()
        return Outline(corners[0], tuple((corner,) for corner in corners[1:]))
    if shape is Shape.ELLIPSE:
        return _rounded(box, box.width / 2, box.height / 2)
    radius = max(0.0, min(radius_pt, box.width / 2, box.height / 2))
    return _rounded(box, radius, radius)


def _rounded(box: Box, across: float, down: float) -> Outline:
    left, top, right, bottom = box.x, box.y, box.x + box.width, box.y + box.height
    x, y = across * (1 - _ARC), down * (1 - _ARC)
    return Outline(
        (left + across, top),
        (
            ((right - across, top),),
            ((right - x, top), (right, top + y), (right, top + down)),
            ((right, bottom - down),),
            ((right, bottom - y), (right - x, bottom), (right - across, bottom)),
            ((left + across, bottom),),
            ((left + x, bottom), (left, bottom - y), (left, bottom - down)),
            ((left, top + down),),
            ((left, top + y), (left + x, top), (left + across, top)),
        ),
    )


def path_text(outline: Outline) -> str:
    """The outline as the path of an SVG."""
    parts = [f"M{_text(outline.start)}"]
    for step in outline.steps:
        parts.append(f"{'L' if len(step) == 1 else 'C'}{' '.join(map(_text, step))}")
    return "".join(parts) + "Z"


def _text(point: Point) -> str:
    return f"{point[0]:.4f} {point[1]:.4f}"
