"""What the header readers of the raster formats hand over."""

from dataclasses import dataclass

from harnet.core.pictures.picture import Colour, DensityUnit


@dataclass(frozen=True, slots=True, kw_only=True)
class Header:
    """A raster file's header as stored, before its orientation is taken into account."""

    format: str
    stored_w: int
    stored_h: int
    colour: Colour
    bits: int
    channels: int
    alpha: bool = False
    lossy: bool = False
    compression: str = ""
    density_x: float | None = None
    density_y: float | None = None
    density_unit: DensityUnit | None = None
    icc: bytes | None = None
    frames: int = 1
    orientation: int = 1
    jpeg_quality: int | None = None
