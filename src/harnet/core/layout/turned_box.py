"""A frame without a picture, and the upright box around what is turned."""

from collections.abc import Iterable
from dataclasses import dataclass

from harnet.core.measure.geometry import Box, turned_about


def bounds_of(points: Iterable[tuple[float, float]]) -> Box:
    """The upright box around points."""
    xs, ys = zip(*points, strict=True)
    return Box(min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys))


@dataclass(frozen=True, slots=True)
class TurnedBox:
    """A frame without a picture: its box and its rotation about its middle."""

    box: Box
    rotation_deg: float = 0.0

    @property
    def corners(self) -> list[tuple[float, float]]:
        """Its corners on the page, clockwise from its own top left."""
        turn = turned_about(self.rotation_deg, self.box.centre)
        return [turn.applied(x, y) for x, y in self.box.corners()]
