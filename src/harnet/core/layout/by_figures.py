"""Setting by figures where an item stands, how large it is and how its picture lies inside it."""

from dataclasses import dataclass, replace

from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.placing import Adjusts, Placement, scaled_by, with_frame_size
from harnet.core.layout.turned_box import TurnedBox
from harnet.core.measure.geometry import Box


@dataclass(frozen=True, slots=True, kw_only=True)
class FrameFigures:
    """The figures to set, lengths in points; what is None stays as it is.

    `density_ppi` and `native_share`, 1 being the native size, scale the picture inside its frame.
    `picture_…` is its top left corner, from the frame's. Where the frame `keeps_proportion` its
    picture is scaled with it.
    """

    x_pt: float | None = None
    y_pt: float | None = None
    width_pt: float | None = None
    height_pt: float | None = None
    rotation_deg: float | None = None
    density_ppi: float | None = None
    native_share: float | None = None
    picture_x_pt: float | None = None
    picture_y_pt: float | None = None
    keeps_proportion: bool = False

    @classmethod
    def of_box(cls, box: Box) -> "FrameFigures":
        """The figures of a whole frame."""
        return cls(x_pt=box.x, y_pt=box.y, width_pt=box.width, height_pt=box.height)

    def box(self, before: Box) -> Box:
        """A frame with these figures; its corner stays where only its size changes."""
        width = before.width if self.width_pt is None else self.width_pt
        height = before.height if self.height_pt is None else self.height_pt
        if self.keeps_proportion and self.width_pt is not None:
            height = before.height * width / before.width
        elif self.keeps_proportion and self.height_pt is not None:
            width = before.width * height / before.height
        x = before.x if self.x_pt is None else self.x_pt
        y = before.y if self.y_pt is None else self.y_pt
        return Box(x, y, width, height)


def placement_with(placement: Placement, figures: FrameFigures) -> Placement:
    """The placement with these figures.

    Raises:
        ValueOutOfRange: a frame or a scale that cannot be.
    """
    before = placement.frame
    frame = figures.box(before)
    found = placement
    if figures.keeps_proportion and frame.width != before.width:
        by = frame.width / before.width
        found = scaled_by(placement, by, by, Adjusts.FRAME) if by > 0 else placement
    found = replace(with_frame_size(found, frame.width, frame.height), frame=frame)
    inside = _scaled_by(found, figures)
    if inside is not None:
        found = scaled_by(found, inside, inside, Adjusts.CROP)
    content = found.content
    if figures.picture_x_pt is not None:
        content = replace(content, offset_x=figures.picture_x_pt)
    if figures.picture_y_pt is not None:
        content = replace(content, offset_y=figures.picture_y_pt)
    found = replace(found, content=content)
    if figures.rotation_deg is not None:
        found = replace(found, rotation_deg=figures.rotation_deg % 360)
    return found


def box_with(turned: TurnedBox, figures: FrameFigures) -> TurnedBox:
    """A frame without a picture with these figures.

    Raises:
        ValueOutOfRange: a side that is not above 0.
    """
    box = figures.box(turned.box)
    for side in (box.width, box.height):
        if not side > 0:
            raise ValueOutOfRange(f"a frame measures more than 0 pt a side, not {side:g} pt")
    rotation = turned.rotation_deg if figures.rotation_deg is None else figures.rotation_deg % 360
    return TurnedBox(box, rotation)


def _scaled_by(placement: Placement, figures: FrameFigures) -> float | None:
    """The factor that a density or a share of the native size asks for.

    An uneven scale keeps its unevenness: the lower density is the one that is given.

    Raises:
        ValueOutOfRange: neither can be below or at 0.
    """
    if figures.density_ppi is not None and placement.density is not None:
        now = placement.density
        if not figures.density_ppi > 0:
            raise ValueOutOfRange(f"a density must be above 0 ppi, not {figures.density_ppi:g}")
        return min(now.x, now.y) / figures.density_ppi
    if figures.native_share is not None:
        if not figures.native_share > 0:
            percent = figures.native_share * 100
            raise ValueOutOfRange(f"a picture’s scale must be above 0 %, not {percent:g} %")
        return figures.native_share / placement.native_share
    return None
