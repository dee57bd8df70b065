"""What changing the pixels would mean, and pages as images: formulas 8 and 11."""

from dataclasses import dataclass

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.rounding import half_up
from harnet.core.measure.units import POINTS_PER_INCH


@dataclass(frozen=True, slots=True)
class Resampling:
    """The consequences of giving a picture other pixels, before anything happens."""

    old_px_w: int
    old_px_h: int
    px_w: int
    px_h: int

    @property
    def edge_percent(self) -> float:
        """New width over old width, in percent."""
        return 100 * self.px_w / self.old_px_w

    @property
    def is_enlarging(self) -> bool:
        """Whether either edge gets more pixels than it had."""
        return self.px_w > self.old_px_w or self.px_h > self.old_px_h

    @property
    def interpolated_share(self) -> float:
        """Share of the new pixels that the old ones do not back; 0 when shrinking.

        An edge that shrinks does not make up for one that grows.
        """
        backed_w, backed_h = (
            min(1.0, self.old_px_w / self.px_w),
            min(1.0, self.old_px_h / self.px_h),
        )
        return 1 - backed_w * backed_h


def resampled(
    px_w: int, px_h: int, width_pt: float, height_pt: float, density_ppi: float
) -> Resampling:
    """Pixels for a size at a density, from a picture of `px_w × px_h`.

    Raises:
        ValueOutOfRange: less than one pixel would be left.
    """
    new_w, new_h = px_for(width_pt, density_ppi), px_for(height_pt, density_ppi)
    return Resampling(px_w, px_h, new_w, new_h)


def px_for(length_pt: float, density_ppi: float) -> int:
    """Whole pixels nearest to a length at a density.

    >>> px_for(960, 96)
    1280

    Raises:
        ValueOutOfRange: it would be less than one pixel.
    """
    px = half_up(length_pt / POINTS_PER_INCH * density_ppi)
    if px < 1:
        raise ValueOutOfRange(f"{length_pt:g} pt at {density_ppi:g} ppi is less than one pixel")
    return px


def page_px(width_pt: float, height_pt: float, density_ppi: float) -> tuple[int, int]:
    """Pixels of a page that is exported as an image."""
    return px_for(width_pt, density_ppi), px_for(height_pt, density_ppi)


def unpacked_bytes(px_w: int, px_h: int, channels: int, bits: int) -> int:
    """Memory of the unpacked pixels; a channel takes whole bytes, 1-bit pixels eight to a byte.

    Rows of 1-bit pixels begin at a byte.

    >>> round(unpacked_bytes(4928, 3264, 3, 8) / 2**20, 1)
    46.0
    """
    if bits == 1:
        return -(-px_w * channels // 8) * px_h
    return px_w * px_h * channels * -(-bits // 8)
