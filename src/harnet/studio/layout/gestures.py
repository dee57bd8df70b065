"""What the hand does to items on a page: where it leads, and keeping it as one edit."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.hand.gesture import (
    Handle,
    moved,
    moved_box,
    panned,
    resized,
    resized_box,
    scaled_to_width,
    turned_towards,
)
from harnet.core.layout.hand.snapping import (
    Guide,
    Lines,
    guides_of,
    lines_of_page,
    snapped_edge,
    snapped_move,
)
from harnet.core.layout.placing import LARGEST_LENGTH_PT, Placement
from harnet.core.layout.turned_box import TurnedBox, bounds_of
from harnet.core.measure.geometry import Box
from harnet.store.tables.jobs import Item, Job
from harnet.studio.common.errors import Refused, sentence_of
from harnet.studio.layout.guides import snapping_places
from harnet.studio.layout.placed import PICTURE, frame_of, placement_of

Geometry = Placement | TurnedBox
STEP_DEG = 15.0
"""What a frame is turned by in steps."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Gesture:
    """What the hand did: `move`, `pan`, `size` by a handle, `turn`, or `width` on the reach bar.

    `dx_pt` and `dy_pt` are the way it went; for `turn` the pointer's place on the page, for
    `width` the width wanted. Within `snap_pt` things come to rest on lines; 0 lets them be free.
    """

    kind: str
    dx_pt: float
    dy_pt: float
    handle: str = ""
    snap_pt: float = 0.0
    in_steps: bool = False


@dataclass(frozen=True, slots=True)
class GestureResult:
    """Where a gesture leads: a geometry for each item, and the lines it rests on."""

    geometries: tuple[tuple[Item, Geometry], ...]
    guides: tuple[Guide, ...]
    snap_pt: tuple[float, float]
    """How much farther than the hand it went to rest on them."""


def geometry_of(item: Item) -> Geometry:
    """An item's geometry as it stands."""
    if item.kind == PICTURE:
        return placement_of(item)
    return TurnedBox(frame_of(item), item.rotation_deg or 0.0)


def gesture_result(job: Job, items: Sequence[Item], gesture: Gesture) -> GestureResult:
    """Where a gesture leads the selected items; nothing is written.

    Raises:
        Refused: a frame would get impossible, or there is no such gesture.
    """
    if not items:
        raise Refused("Select something first.")
    if max(abs(gesture.dx_pt), abs(gesture.dy_pt)) > LARGEST_LENGTH_PT:
        raise Refused("That is farther than any page is wide.")
    before = [(item, geometry_of(item)) for item in items]
    lines = _lines(job, items) if gesture.snap_pt > 0 else None
    guides: list[Guide] = []
    hand = gesture
    try:
        if lines and gesture.kind == "move":
            box = bounds_of(corner for _, one in before for corner in one.corners)
            gone = Box(box.x + gesture.dx_pt, box.y + gesture.dy_pt, box.width, box.height)
            dx, dy, guides = snapped_move(gone, lines, gesture.snap_pt)
            gesture = replace(gesture, dx_pt=gesture.dx_pt + dx, dy_pt=gesture.dy_pt + dy)
        elif lines and gesture.kind == "size" and not items[0].rotation_deg:
            gesture = _snapped_size(before[0][1], gesture, lines)
        after = tuple((item, _after(one, gesture)) for item, one in before)
        if lines and gesture.kind == "size":
            guides = guides_of(bounds_of(after[0][1].corners), lines)
    except ValueOutOfRange as error:
        raise Refused(sentence_of(error)) from None
    snap = (gesture.dx_pt - hand.dx_pt, gesture.dy_pt - hand.dy_pt)
    return GestureResult(after, tuple(guides), snap)


def _after(before: Geometry, gesture: Gesture) -> Geometry:
    dx, dy = gesture.dx_pt, gesture.dy_pt
    if gesture.kind == "turn":
        centre = before.box.centre if isinstance(before, TurnedBox) else before.frame.centre
        step = STEP_DEG if gesture.in_steps else 0.0
        angle = turned_towards(before.rotation_deg, centre, (dx, dy), step)
        return replace(before, rotation_deg=angle)
    if isinstance(before, TurnedBox):
        if gesture.kind == "size":
            return resized_box(before, _handle(gesture), dx, dy)
        if gesture.kind == "move":
            return moved_box(before, dx, dy)
    else:
        if gesture.kind == "move":
            return moved(before, dx, dy)
        if gesture.kind == "pan":
            return panned(before, dx, dy)
        if gesture.kind == "size":
            return resized(before, _handle(gesture), dx, dy)
        if gesture.kind == "width":
            return scaled_to_width(before, dx)
    raise Refused(f"“{gesture.kind}” is not something that can be done to it.")


def _handle(gesture: Gesture) -> Handle:
    try:
        return Handle[gesture.handle.upper()]
    except KeyError:
        raise Refused(f"There is no handle named “{gesture.handle}”.") from None


def _lines(job: Job, items: Sequence[Item]) -> Lines:
    page = items[0].page
    others = [bounds_of(geometry_of(other).corners) for other in page.items if other not in items]
    places = snapping_places(job, page)
    return lines_of_page(
        page.width_pt,
        page.height_pt,
        job.margin_pt,
        job.bleed_pt,
        others,
        (places["x"], places["y"]),
    )


def _snapped_size(before: Geometry, gesture: Gesture, lines: Lines) -> Gesture:
    """A size gesture that goes on until the pulled edge rests on a line near it."""
    box = before.box if isinstance(before, TurnedBox) else before.frame
    share_x, share_y = _handle(gesture).value
    dx, dy = gesture.dx_pt, gesture.dy_pt
    if share_x != 0.5:
        edge = box.x + share_x * box.width + dx
        dx += snapped_edge(edge, lines.across, gesture.snap_pt)
    if share_y != 0.5:
        edge = box.y + share_y * box.height + dy
        dy += snapped_edge(edge, lines.down, gesture.snap_pt)
    return replace(gesture, dx_pt=dx, dy_pt=dy)
