"""Several items in line with each other, evenly apart, of one size: where each of them goes."""

from collections.abc import Sequence
from enum import Enum

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.geometry import Box


class Align(Enum):
    """What is brought in line, across or down."""

    LEFT = "left"
    CENTRE = "centre"
    RIGHT = "right"
    TOP = "top"
    MIDDLE = "middle"
    BOTTOM = "bottom"


class AlignTo(Enum):
    """What they are brought in line with."""

    SELECTION = "selection"
    """The box around all of them."""
    FIRST = "first"
    """The one that was selected first."""
    PAGE = "page"
    MARGINS = "margins"


class Spread(Enum):
    """The way along which gaps are made equal."""

    ACROSS = "across"
    DOWN = "down"


def aligned(boxes: Sequence[Box], align: Align, goal: Box) -> list[tuple[float, float]]:
    """How far each box moves, in points, so that it is in line with `goal`.

    >>> aligned([Box(10, 10, 20, 20)], Align.RIGHT, Box(0, 0, 100, 100))
    [(70.0, 0.0)]
    """
    return [_way(box, align, goal) for box in boxes]


def _way(box: Box, align: Align, goal: Box) -> tuple[float, float]:
    across = {
        Align.LEFT: goal.x - box.x,
        Align.CENTRE: goal.x + goal.width / 2 - box.x - box.width / 2,
        Align.RIGHT: goal.x + goal.width - box.x - box.width,
    }
    down = {
        Align.TOP: goal.y - box.y,
        Align.MIDDLE: goal.y + goal.height / 2 - box.y - box.height / 2,
        Align.BOTTOM: goal.y + goal.height - box.y - box.height,
    }
    return float(across.get(align, 0.0)), float(down.get(align, 0.0))


def distributed(boxes: Sequence[Box], spread: Spread) -> list[tuple[float, float]]:
    """How far each box moves so that the gaps between them are equal; the outer two stay.

    Raises:
        ValueOutOfRange: fewer than three.
    """
    if len(boxes) < 3:
        raise ValueOutOfRange("it takes at least three to make their gaps equal")
    is_across = spread is Spread.ACROSS

    def start(box: Box) -> float:
        return box.x if is_across else box.y

    def length(box: Box) -> float:
        return box.width if is_across else box.height

    order = sorted(range(len(boxes)), key=lambda index: start(boxes[index]))
    first, last = boxes[order[0]], boxes[order[-1]]
    room = start(last) + length(last) - start(first)
    gap = (room - sum(map(length, boxes))) / (len(boxes) - 1)
    ways = [(0.0, 0.0)] * len(boxes)
    at = start(first)
    for index in order:
        way = at - start(boxes[index])
        ways[index] = (way, 0.0) if is_across else (0.0, way)
        at += length(boxes[index]) + gap
    return ways
