"""What a slide or a drawn page holds beside its pictures, as far as a sketch shows it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import Enum
from typing import Any

from harnet.core.measure.geometry import Matrix


class MarkKind(Enum):
    """What a mark of a sketch stands for."""

    TEXT = "text"
    """A frame with text: shown as grey lines."""
    SHAPE = "shape"
    """A shape, a table, a chart: shown by its outline."""
    PICTURE = "picture"
    """A picture, shown as it is."""
    EMPTY = "empty"
    """A picture that cannot be drawn: linked, or in a format that is not decoded."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SketchMark:
    """One mark, in painting order; `matrix` maps the unit square to the page, in points, y upwards.

    `lines` is how many lines of text a frame holds. Of a picture, `part` is the file that holds
    it, and `crop` the shares cut off left, top, right and bottom.
    """

    kind: MarkKind
    matrix: Matrix
    lines: int = 0
    part: str = ""
    crop: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)


def mark_values(mark: SketchMark) -> list[Any]:
    """A mark as JSON keeps it."""
    matrix = [round(one, 3) for one in mark.matrix.as_tuple()]
    return [mark.kind.value, matrix, mark.lines, mark.part, [round(one, 6) for one in mark.crop]]


def mark_from(stored: Sequence[Any]) -> SketchMark:
    """A mark from what `mark_values` made."""
    kind, matrix, lines, part, crop = stored
    left, top, right, bottom = crop
    return SketchMark(
        kind=MarkKind(kind),
        matrix=Matrix(*matrix),
        lines=lines,
        part=part,
        crop=(left, top, right, bottom),
    )


def marks_in(stored: Mapping[str, Any]) -> tuple[SketchMark, ...]:
    """The marks of a page as JSON keeps it; a PDF's page has none."""
    return tuple(mark_from(one) for one in stored.get("marks", ()))
