"""What the hand does to a frame: move it, size it by a handle, move the picture inside it."""

import math
from dataclasses import replace
from enum import Enum

from harnet.core.layout.placing import (
    LARGEST_LENGTH_PT,
    SMALLEST_FRAME_PT,
    Adjusts,
    Placement,
    deciding_width_pt,
    scaled_by,
    with_frame_size,
)
from harnet.core.layout.turned_box import TurnedBox
from harnet.core.measure.geometry import Box, Matrix, turned_about


class Handle(Enum):
    """A handle of a frame and its place as shares of width and height."""

    NW = (0.0, 0.0)
    N = (0.5, 0.0)
    NE = (1.0, 0.0)
    E = (1.0, 0.5)
    SE = (1.0, 1.0)
    S = (0.5, 1.0)
    SW = (0.0, 1.0)
    W = (0.0, 0.5)

    @property
    def is_corner(self) -> bool:
        """Corners scale the picture, edges crop it."""
        return 0.5 not in self.value


def moved(placement: Placement, dx_pt: float, dy_pt: float) -> Placement:
    """The frame and its picture moved on the page."""
    frame = placement.frame
    return replace(
        placement, frame=Box(frame.x + dx_pt, frame.y + dy_pt, frame.width, frame.height)
    )


def panned(placement: Placement, dx_pt: float, dy_pt: float) -> Placement:
    """The picture moved inside its frame, which stays."""
    dx, dy = _in_frame_axes(placement, dx_pt, dy_pt)
    content = placement.content
    return replace(
        placement,
        content=replace(content, offset_x=content.offset_x + dx, offset_y=content.offset_y + dy),
    )


def resized(placement: Placement, handle: Handle, dx_pt: float, dy_pt: float) -> Placement:
    """The frame pulled by a handle; the opposite handle keeps its place.

    A corner keeps the proportion and scales the picture with its frame; an edge crops.
    """
    dx, dy = _in_frame_axes(placement, dx_pt, dy_pt)
    share_x, share_y = handle.value
    frame = placement.frame
    width = _possible(frame.width + dx * (2 * share_x - 1))
    height = _possible(frame.height + dy * (2 * share_y - 1))
    anchor = (1 - share_x, 1 - share_y)
    if handle.is_corner:
        smallest = SMALLEST_FRAME_PT / min(frame.width, frame.height)
        largest = LARGEST_LENGTH_PT / max(frame.width, frame.height)
        factor = min(max(width / frame.width, height / frame.height, smallest), largest)
        scaled = scaled_by(placement, factor, factor, Adjusts.FRAME)
        at_anchor = with_frame_size(placement, frame.width * factor, frame.height * factor, anchor)
        return replace(scaled, frame=at_anchor.frame)
    cropped = with_frame_size(placement, width, height, anchor)
    content = placement.content
    return replace(
        cropped,
        content=replace(
            content,
            offset_x=content.offset_x + (width - frame.width) * (share_x == 0),
            offset_y=content.offset_y + (height - frame.height) * (share_y == 0),
        ),
    )


def turned_towards(
    rotation_deg: float, centre: tuple[float, float], pointer: tuple[float, float], step_deg: float
) -> float:
    """The rotation whose upper side looks at the pointer, in whole steps; 0 lets it be free.

    >>> turned_towards(0, (0, 0), (10, 0.4), 15)
    90.0
    """
    dx, dy = pointer[0] - centre[0], pointer[1] - centre[1]
    if dx == 0 and dy == 0:
        return rotation_deg
    angle = math.degrees(math.atan2(dy, dx)) + 90
    if step_deg > 0:
        angle = round(angle / step_deg) * step_deg
    return angle % 360


def flipped(placement: Placement, across: bool) -> Placement:
    """The picture mirrored in its frame, left for right or top for bottom; the frame stays."""
    content, frame = placement.content, placement.frame
    width, height = placement.drawn_size_pt
    if across:
        content = replace(
            content,
            flip_h=not content.flip_h,
            offset_x=frame.width - content.offset_x - width,
        )
    else:
        content = replace(
            content,
            flip_v=not content.flip_v,
            offset_y=frame.height - content.offset_y - height,
        )
    return replace(placement, content=content)


def moved_box(frame: TurnedBox, dx_pt: float, dy_pt: float) -> TurnedBox:
    """A frame without a picture moved on the page."""
    box = frame.box
    return replace(frame, box=Box(box.x + dx_pt, box.y + dy_pt, box.width, box.height))


def resized_box(frame: TurnedBox, handle: Handle, dx_pt: float, dy_pt: float) -> TurnedBox:
    """A frame without a picture pulled by a handle; corners move freely, the opposite one stays."""
    box = frame.box
    dx, dy = Matrix.rotation(-frame.rotation_deg).applied(dx_pt, dy_pt)
    share_x, share_y = handle.value
    width = _possible(box.width + dx * (2 * share_x - 1))
    height = _possible(box.height + dy * (2 * share_y - 1))
    turn = turned_about(frame.rotation_deg, box.centre)
    fixed = turn.applied(box.x + (1 - share_x) * box.width, box.y + (1 - share_y) * box.height)
    to_centre = Matrix.rotation(frame.rotation_deg).applied(
        (share_x - 0.5) * width, (share_y - 0.5) * height
    )
    centre = (fixed[0] + to_centre[0], fixed[1] + to_centre[1])
    return replace(frame, box=Box(centre[0] - width / 2, centre[1] - height / 2, width, height))


def scaled_to_width(placement: Placement, width_pt: float) -> Placement:
    """The whole picture drawn as wide as that where its axes are even; the frame follows.

    An uneven picture keeps its unevenness, and its worse axis decides.

    Raises:
        ValueOutOfRange: a vector picture, which has no density to scale by.
    """
    factor = _possible(width_pt) / deciding_width_pt(placement)
    smallest = SMALLEST_FRAME_PT / min(placement.frame.width, placement.frame.height)
    largest = LARGEST_LENGTH_PT / max(placement.frame.width, placement.frame.height)
    factor = min(max(factor, smallest), largest)
    return scaled_by(placement, factor, factor, Adjusts.FRAME)


def _possible(length_pt: float) -> float:
    """A frame's length, held between the smallest and the largest as the hand goes on."""
    return min(max(SMALLEST_FRAME_PT, length_pt), LARGEST_LENGTH_PT)


def _in_frame_axes(placement: Placement, dx_pt: float, dy_pt: float) -> tuple[float, float]:
    """A way on the page as a way along the frame's own axes."""
    return Matrix.rotation(-placement.rotation_deg).applied(dx_pt, dy_pt)
