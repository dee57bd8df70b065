"""The size of a print copy: its pixels, its size on paper and its density, one leading the others.

The proportion is the crop's throughout.
"""

from dataclasses import dataclass
from enum import Enum

from harnet.core.copies.recipe import PixelBox
from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.density import reach_pt
from harnet.core.measure.rounding import half_up
from harnet.core.pictures.resampling import px_for

_MOST_PX = 1_000_000


class ChangedField(Enum):
    """The figure that was changed, which the others follow."""

    PX_W = "px_w"
    PX_H = "px_h"
    WIDTH = "width"
    HEIGHT = "height"
    SHARE = "share"
    """The crop was changed: pixels stay the same share of the original's."""


@dataclass(frozen=True, slots=True)
class CopySize:
    """Pixels of the resampled crop and their density; lengths follow."""

    px_w: int
    px_h: int
    density_ppi: float

    @property
    def width_pt(self) -> float:
        """Width on paper."""
        return reach_pt(self.px_w, self.density_ppi)

    @property
    def height_pt(self) -> float:
        """Height on paper."""
        return reach_pt(self.px_h, self.density_ppi)


def at_density(size: CopySize, density_ppi: float) -> CopySize:
    """The same size on paper at another density: twice the density is twice the pixels.

    Raises:
        ValueOutOfRange: a density that is not above 0, or pixels beyond any picture.

    >>> at_density(CopySize(2480, 1653, 300), 600)
    CopySize(px_w=4960, px_h=3306, density_ppi=600)
    """
    if not 0 < density_ppi < float("inf"):
        raise ValueOutOfRange(f"the density of a copy must be above 0, not {density_ppi:g}")
    by = density_ppi / size.density_ppi
    px_w, px_h = max(1, half_up(size.px_w * by)), max(1, half_up(size.px_h * by))
    _require_possible(px_w, px_h)
    return CopySize(px_w, px_h, density_ppi)


def _require_possible(px_w: float, px_h: float) -> None:
    if max(px_w, px_h) > _MOST_PX:
        raise ValueOutOfRange(f"that would be {px_w:.0f} × {px_h:.0f} pixels, too many for a copy")


def copy_size(crop: PixelBox, leads: ChangedField, figure: float, density_ppi: float) -> CopySize:
    """The size after one figure was changed.

    `figure` is in pixels for PX_W and PX_H, in points for WIDTH and HEIGHT, and new over old pixels
    for SHARE.

    Raises:
        ValueOutOfRange: a figure that is not above 0, or beyond any picture.
    """
    for value, what in ((figure, "size"), (density_ppi, "density")):
        if not 0 < value < float("inf"):
            raise ValueOutOfRange(f"the {what} of a copy must be above 0, not {value:g}")
    ratio = crop.height / crop.width
    if leads is ChangedField.SHARE:
        px_w = max(1.0, half_up(crop.width * figure))
        px_h = max(1.0, half_up(crop.height * figure))
    elif leads is ChangedField.PX_W:
        px_w, px_h = figure, max(1.0, half_up(figure * ratio))
    elif leads is ChangedField.PX_H:
        px_w, px_h = max(1.0, half_up(figure / ratio)), figure
    elif leads is ChangedField.HEIGHT:
        px_h = px_for(figure, density_ppi)
        px_w = px_for(figure / ratio, density_ppi)
    else:
        px_w = px_for(figure, density_ppi)
        px_h = px_for(figure * ratio, density_ppi)
    _require_possible(px_w, px_h)
    if px_w != round(px_w) or px_h != round(px_h):
        raise ValueOutOfRange(f"a copy has whole pixels, not {figure:g}")
    return CopySize(round(px_w), round(px_h), density_ppi)
