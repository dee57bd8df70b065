"""The calculator of size and density: one locked triple, or other pixels."""

from dataclasses import dataclass

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.density import reach_pt
from harnet.core.measure.units import POINTS_PER_INCH
from harnet.core.pictures.resampling import Resampling, resampled

_LARGEST_PX = 300_000


@dataclass(frozen=True, slots=True)
class PrintSize:
    """A size on paper and the density that the picture has there; lengths in points."""

    width_pt: float
    height_pt: float
    density_ppi: float


def _positive(figure: float, what: str) -> float:
    if not 0 < figure < float("inf"):
        raise ValueOutOfRange(f"the {what} must be above 0, not {figure:g}")
    return figure


def with_width(px_w: int, px_h: int, width_pt: float) -> PrintSize:
    """Keeps the pixels: the width decides height and density.

    >>> with_width(3600, 2400, 18 * 72).density_ppi
    200.0
    """
    density = px_w * POINTS_PER_INCH / _positive(width_pt, "width")
    return PrintSize(width_pt, width_pt * px_h / px_w, density)


def with_height(px_w: int, px_h: int, height_pt: float) -> PrintSize:
    """Keeps the pixels: the height decides width and density."""
    density = px_h * POINTS_PER_INCH / _positive(height_pt, "height")
    return PrintSize(height_pt * px_w / px_h, height_pt, density)


def with_density(px_w: int, px_h: int, density_ppi: float) -> PrintSize:
    """Keeps the pixels: the density decides width and height."""
    _positive(density_ppi, "density")
    return PrintSize(reach_pt(px_w, density_ppi), reach_pt(px_h, density_ppi), density_ppi)


def with_other_pixels(px_w: int, px_h: int, size: PrintSize) -> Resampling:
    """Changes the pixels: what a size at a density would need of a picture of `px_w × px_h`.

    Raises:
        ValueOutOfRange: less than one pixel, or more than any picture has.
    """
    change = resampled(
        px_w,
        px_h,
        _positive(size.width_pt, "width"),
        _positive(size.height_pt, "height"),
        _positive(size.density_ppi, "density"),
    )
    if max(change.px_w, change.px_h) > _LARGEST_PX:
        raise ValueOutOfRange(
            f"that would be {change.px_w} × {change.px_h} pixels; no picture is that large"
        )
    return change
