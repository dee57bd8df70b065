"""How a PDF's user space comes onto its page as it is seen (ISO 32000-2, 8.3.2.3)."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import atan2, degrees

from harnet.core.layout.placing import Fit, Placement, Source, fitted
from harnet.core.measure.geometry import Box, Matrix


@dataclass(frozen=True, slots=True)
class SeenSpace:
    """A page as it is seen, in points after its turn; `matrix` maps user space to it, y down."""

    width_pt: float
    height_pt: float
    matrix: Matrix


def seen_space(box: Sequence[float], turn_deg: int) -> SeenSpace:
    """The space of what lies in a box (left, bottom, right, top), turned clockwise by quarters."""
    left, bottom, right, top = box
    width, height = right - left, top - bottom
    upright = Matrix(1, 0, 0, -1, -left, top)
    if turn_deg == 90:
        return SeenSpace(height, width, upright.then(Matrix(0, 1, -1, 0, height, 0)))
    if turn_deg == 180:
        return SeenSpace(width, height, upright.then(Matrix(-1, 0, 0, -1, width, height)))
    if turn_deg == 270:
        return SeenSpace(height, width, upright.then(Matrix(0, -1, 1, 0, 0, width)))
    return SeenSpace(width, height, upright)


_LEAST_BLEED_PT = 1.0
"""Boxes that differ by less have no bleed between them."""


def bleed_between(trim: Sequence[float], outer: Sequence[float]) -> float:
    """How far a box reaches beyond the trim on its narrowest side, in points."""
    left, bottom = trim[0] - outer[0], trim[1] - outer[1]
    right, top = outer[2] - trim[2], outer[3] - trim[3]
    bleed = min(left, bottom, right, top)
    return bleed if bleed >= _LEAST_BLEED_PT else 0.0


def placement_from(
    source: Source, matrix: Matrix, crop: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
) -> Placement:
    """A painted picture as a placement: `matrix` maps what is seen of it to a space, y downwards.

    `crop` is what is cut off left, top, right and bottom, as shares of the whole. Lengths of edges
    and so densities are the matrix's own; a skew is straightened about the middle.
    """
    width, height = matrix.u_length, matrix.v_length
    x, y = matrix.applied(0.5, 0.5)
    frame = Box(x - width / 2, y - height / 2, width, height)
    turn = degrees(atan2(matrix.b, matrix.a))
    content = fitted(source, frame, Fit.STRETCH)
    left, top, right, bottom = crop
    across, down = 1 - left - right, 1 - top - bottom
    if min(across, down) > 0 and (across, down) != (1.0, 1.0):
        content = replace(
            content,
            scale_x=content.scale_x / across,
            scale_y=content.scale_y / down,
            offset_x=-left * width / across,
            offset_y=-top * height / down,
        )
    return Placement(source=source, frame=frame, content=content, rotation_deg=turn)
