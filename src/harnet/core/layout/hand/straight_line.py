"""A line from one point to another, as the turned box that an item is kept as."""

import math

from harnet.core.layout.turned_box import TurnedBox
from harnet.core.measure.geometry import Box

THICKNESS_PT = 2.0
"""How thick the box of a line is, so that it can be taken hold of."""


def line_between(
    start: tuple[float, float], end: tuple[float, float], step_deg: float = 0.0
) -> TurnedBox:
    """The box of a line between two points, turned about its middle; lengths in points.

    With a `step_deg` its direction is the nearest multiple of that; it keeps its start and length.

    >>> line = line_between((10, 10), (10, 50))
    >>> (round(line.box.width, 6), line.rotation_deg)
    (40.0, 90.0)
    """
    dx, dy = end[0] - start[0], end[1] - start[1]
    length = math.hypot(dx, dy)
    angle = math.degrees(math.atan2(dy, dx))
    if step_deg > 0:
        angle = round(angle / step_deg) * step_deg
    radians = math.radians(angle)
    middle = (
        start[0] + math.cos(radians) * length / 2,
        start[1] + math.sin(radians) * length / 2,
    )
    box = Box(middle[0] - length / 2, middle[1] - THICKNESS_PT / 2, length, THICKNESS_PT)
    return TurnedBox(box, angle % 360)
