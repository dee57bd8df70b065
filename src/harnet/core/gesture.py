"""What the hand does to a frame: move it, size it by a handle, move the picture inside it."""

from dataclasses import replace
from enum import Enum

from harnet.core.geometry import Box, Matrix
from harnet.core.placing import (
    LARGEST_LENGTH_PT,
    SMALLEST_FRAME_PT,
    GivesWay,
    Placement,
    scaled_by,
    with_frame_size,
)


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
        scaled = scaled_by(placement, factor, factor, GivesWay.FRAME)
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


def resized_box(frame: Box, handle: Handle, dx_pt: float, dy_pt: float) -> Box:
    """An upright frame without a picture pulled by a handle; corners move freely."""
    share_x, share_y = handle.value
    width = _possible(frame.width + dx_pt * (2 * share_x - 1))
    height = _possible(frame.height + dy_pt * (2 * share_y - 1))
    x = frame.x + (frame.width - width if share_x == 0 else 0)
    y = frame.y + (frame.height - height if share_y == 0 else 0)
    return Box(x, y, width, height)


def _possible(length_pt: float) -> float:
    """A frame's length, held between the smallest and the largest as the hand goes on."""
    return min(max(SMALLEST_FRAME_PT, length_pt), LARGEST_LENGTH_PT)


def _in_frame_axes(placement: Placement, dx_pt: float, dy_pt: float) -> tuple[float, float]:
    """A way on the page as a way along the frame's own axes."""
    return Matrix.rotation(-placement.rotation_deg).applied(dx_pt, dy_pt)
