"""Snapping: a box that is moved or sized comes to rest on lines that are near."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from harnet.core.measure.geometry import Box


@dataclass(frozen=True, slots=True)
class Guide:
    """A line that something came to rest on, in points of the page."""

    is_vertical: bool
    at: float
    start: float
    end: float


@dataclass(frozen=True, slots=True)
class Lines:
    """Where things may come to rest: places across and down, each with the stretch it spans."""

    across: tuple[tuple[float, float, float], ...]
    down: tuple[tuple[float, float, float], ...]


def lines_of_page(
    width_pt: float,
    height_pt: float,
    margin_pt: float,
    bleed_pt: float,
    others: Iterable[Box],
    drawn: tuple[Sequence[float], Sequence[float]] = ((), ()),
) -> Lines:
    """The page's edges, middle, margins and bleed, and the edges and middles of the neighbours.

    `drawn` are the places of guides, columns and grid across and down.
    """
    xs = [*_edges(width_pt, margin_pt, bleed_pt), *drawn[0]]
    ys = [*_edges(height_pt, margin_pt, bleed_pt), *drawn[1]]
    across = [(x, 0.0, height_pt) for x in xs]
    down = [(y, 0.0, width_pt) for y in ys]
    for box in others:
        right, bottom = box.x + box.width, box.y + box.height
        across += [(x, box.y, bottom) for x in (box.x, box.centre[0], right)]
        down += [(y, box.x, right) for y in (box.y, box.centre[1], bottom)]
    return Lines(tuple(across), tuple(down))


def _edges(length: float, margin: float, bleed: float) -> list[float]:
    places = [0.0, length / 2, length]
    if 0 < margin < length / 2:
        places += [margin, length - margin]
    if bleed > 0:
        places += [-bleed, length + bleed]
    return places


def snapped_move(box: Box, lines: Lines, reach_pt: float) -> tuple[float, float, list[Guide]]:
    """How far a moved box goes on to rest on the nearest lines, and those lines.

    Its edges and its middle are tried; nothing farther than `reach_pt` attracts.
    """
    xs = (box.x, box.centre[0], box.x + box.width)
    ys = (box.y, box.centre[1], box.y + box.height)
    dx, dy = _nearest(xs, lines.across, reach_pt), _nearest(ys, lines.down, reach_pt)
    rested = Box(box.x + dx, box.y + dy, box.width, box.height)
    return dx, dy, guides_of(rested, lines)


def snapped_edge(
    place: float, lines: Sequence[tuple[float, float, float]], reach_pt: float
) -> float:
    """How far a single edge goes on to rest on the nearest line."""
    return _nearest((place,), lines, reach_pt)


def _nearest(
    places: Sequence[float], lines: Sequence[tuple[float, float, float]], reach_pt: float
) -> float:
    ways = [line[0] - place for place in places for line in lines]
    return min((way for way in ways if abs(way) <= reach_pt), key=abs, default=0.0)


def guides_of(box: Box, lines: Lines) -> list[Guide]:
    """The lines that a box rests on, each once, as long as both together."""
    guides: dict[tuple[bool, float], Guide] = {}
    right, bottom = box.x + box.width, box.y + box.height
    sides = (
        (True, (box.x, box.centre[0], right), lines.across, box.y, bottom),
        (False, (box.y, box.centre[1], bottom), lines.down, box.x, right),
    )
    for is_vertical, places, ways, start, end in sides:
        for at, line_start, line_end in ways:
            if any(abs(place - at) < 0.01 for place in places):
                key = (is_vertical, round(at, 2))
                known = guides.get(key)
                low = min(start, line_start, known.start if known else start)
                high = max(end, line_end, known.end if known else end)
                guides[key] = Guide(is_vertical, at, low, high)
    return list(guides.values())
