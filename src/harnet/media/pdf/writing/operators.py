"""Content operators of a PDF page (ISO 32000-2, 8.5): matrices, paths, lines, rectangles."""

from collections.abc import Sequence

from harnet.core.layout.shape import Outline
from harnet.core.measure.geometry import Box, Matrix, turned_about
from harnet.media.pagedrawing.plan import LinePart, RectanglePart
from harnet.media.pdf.writing.paint import Paint


def number(value: float) -> str:
    """A figure as PDF writes it, to eight decimals."""
    return f"{value:.8f}".rstrip("0").rstrip(".")


def cm(matrix: Matrix) -> str:
    """The operator that puts a matrix before the current one."""
    return " ".join(number(value) for value in matrix.as_tuple()) + " cm"


def outline_path(outline: Outline) -> str:
    """A frame's outline as a closed path."""

    def text(point: tuple[float, float]) -> str:
        return f"{number(point[0])} {number(point[1])}"

    parts = [f"{text(outline.start)} m"]
    for step in outline.steps:
        parts.append(f"{' '.join(map(text, step))} {'l' if len(step) == 1 else 'c'}")
    return " ".join([*parts, "h"])


def polygon(points: Sequence[tuple[float, float]]) -> str:
    """A closed path through points."""
    corners = [f"{number(x)} {number(y)}" for x, y in points]
    return " ".join([f"{corners[0]} m", *(f"{corner} l" for corner in corners[1:]), "h"])


def segment(start: tuple[float, float], end: tuple[float, float]) -> str:
    """An open path from point to point."""
    return f"{number(start[0])} {number(start[1])} m {number(end[0])} {number(end[1])} l"


def rectangle(part: RectanglePart, to_pdf: Matrix, paint: Paint) -> list[str]:
    """A rectangle, filled and stroked as it says."""
    turn = turned_about(part.rotation_deg, part.frame.centre).then(to_pdf)
    path = polygon([turn.applied(x, y) for x, y in part.frame.corners()])
    operators = []
    if part.fill:
        operators.append(f"{paint.fill(part.fill)} {path} f")
    if part.stroke:
        operators.append(f"{paint.stroke(part.stroke)} {number(part.stroke_pt)} w {path} S")
    return operators


def line(part: LinePart, to_pdf: Matrix, paint: Paint) -> list[str]:
    """A straight line along the middle of its frame."""
    turn = turned_about(part.rotation_deg, part.frame.centre).then(to_pdf)
    middle = part.frame.centre[1]
    start, end = (turn.applied(x, middle) for x in (part.frame.x, part.frame.x + part.frame.width))
    return [f"{paint.stroke(part.stroke)} {number(part.stroke_pt)} w {segment(start, end)} S"]


def missing_mark(frame: Box, to_pdf: Matrix, paint: Paint) -> list[str]:
    """The crossed box that stands where a picture's file is missing."""
    corners = [to_pdf.applied(x, y) for x, y in frame.corners()]
    return [
        f"{paint.fill('#e0e0e0')} {polygon(corners)} f",
        f"{paint.stroke('#7a1f3d')} 1 w {polygon(corners)} S",
        *(f"{segment(corners[one], corners[other])} S" for one, other in ((0, 2), (1, 3))),
    ]
