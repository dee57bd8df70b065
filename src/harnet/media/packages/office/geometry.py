"""Places of shapes in DrawingML: boxes, groups, rotation, flips (ISO/IEC 29500-1, 20.1.7)."""

from dataclasses import dataclass

from harnet.core.measure.geometry import Matrix
from harnet.media.packages.gathering import box_matrix
from harnet.media.packages.xml import Element, child, is_on, number, points

_PER_DEGREE = 60_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Frame:
    """An `xfrm`: a box in points, y downwards, turned clockwise about its middle."""

    x: float
    y: float
    width: float
    height: float
    turn_deg: float = 0.0
    is_mirrored: bool = False
    is_upside_down: bool = False

    @property
    def matrix(self) -> Matrix:
        """The map from the unit square to the space that the box stands in."""
        return box_matrix(
            self.x,
            self.y,
            self.width,
            self.height,
            turn_deg=self.turn_deg,
            is_mirrored=self.is_mirrored,
            is_upside_down=self.is_upside_down,
        )


def frame_of(xfrm: Element | None) -> Frame | None:
    """The frame of an `xfrm`; None where it states no place."""
    if xfrm is None:
        return None
    offset, extent = child(xfrm, "off"), child(xfrm, "ext")
    if offset is None or extent is None:
        return None
    return Frame(
        x=points(offset.get("x")),
        y=points(offset.get("y")),
        width=max(0.0, points(extent.get("cx"))),
        height=max(0.0, points(extent.get("cy"))),
        turn_deg=number(xfrm.get("rot")) / _PER_DEGREE,
        is_mirrored=is_on(xfrm.get("flipH")),
        is_upside_down=is_on(xfrm.get("flipV")),
    )


def group_matrix(xfrm: Element | None, frame: Frame | None = None) -> Matrix:
    """The map from a group's child space to the space that the group stands in.

    `frame` is where the group stands, if not where it says. A child space without an extent is as
    large as the group.
    """
    own = frame or frame_of(xfrm)
    if own is None or xfrm is None:
        return Matrix()
    offset, extent = child(xfrm, "chOff"), child(xfrm, "chExt")
    x = points(offset.get("x")) if offset is not None else own.x
    y = points(offset.get("y")) if offset is not None else own.y
    width = points(extent.get("cx")) if extent is not None else 0.0
    height = points(extent.get("cy")) if extent is not None else 0.0
    # Through the unit square: the child space becomes it, and it becomes the group's box.
    across, down = width if width > 0 else own.width, height if height > 0 else own.height
    if across <= 0 or down <= 0:
        return Matrix(0, 0, 0, 0, own.x, own.y)
    to_unit = Matrix(1 / across, 0, 0, 1 / down, -x / across, -y / down)
    return to_unit.then(own.matrix)
