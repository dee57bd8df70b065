"""A picture's facts, as its file's header states them."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from enum import Enum
from typing import Any

from harnet.core.measure.units import MM_PER_INCH
from harnet.core.pictures.resampling import unpacked_bytes


class Kind(Enum):
    """What a picture is made of."""

    RASTER = "raster"
    """Pixels."""
    VECTOR = "vector"
    """Outlines, sharp at any size."""


class Colour(Enum):
    """The colour model of a picture's samples."""

    GREY = "grey"
    RGB = "rgb"
    CMYK = "cmyk"
    LAB = "lab"
    PALETTE = "palette"
    """Index numbers into a list of colours."""
    BILEVEL = "bilevel"
    """One bit a pixel: ink or paper."""
    VECTOR = "vector"
    """No samples: the colours stand in the drawing."""
    SPOT = "spot"
    """Named inks; only in a PDF."""


class DensityUnit(Enum):
    """The length that a file's density tag counts its pixels by."""

    INCH = "in"
    CENTIMETRE = "cm"
    METRE = "m"

    @property
    def per_inch(self) -> float:
        """Its share of an inch's count: pixels per this length times it are ppi."""
        return {"in": 1.0, "cm": MM_PER_INCH / 10, "m": MM_PER_INCH / 1000}[self.value]


MOST_INNER_IMAGES = 60
"""So many images inside a drawing are kept with its facts, those of the lowest density."""


@dataclass(frozen=True, slots=True)
class InnerImage:
    """A raster image inside a vector picture.

    `matrix` maps its unit square to the picture at its natural size, in points: the six numbers
    that `Matrix` has.
    """

    px_w: int
    px_h: int
    matrix: tuple[float, float, float, float, float, float]
    is_bilevel: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Facts:
    """What a picture file says of itself.

    `px_w` and `px_h` are upright, after the orientation tag, and None for a vector picture, which
    has `width_pt` and `height_pt` instead; `images` are the raster images inside it, and
    `loose_fonts` the fonts that it uses by name alone. `density_x` and `density_y` are the density
    tag in ppi, None without a usable one, and `density_unit` what the file counts by. `bits` counts
    per channel, of a palette those of an index; `channels` includes alpha.
    """

    kind: Kind
    format: str
    px_w: int | None
    px_h: int | None
    density_x: float | None
    density_y: float | None
    colour: Colour
    bits: int
    channels: int
    alpha: bool
    lossy: bool
    icc: str | None
    frames: int
    size_bytes: int
    orientation: int = 1
    compression: str = ""
    jpeg_quality: int | None = None
    density_unit: DensityUnit | None = None
    width_pt: float | None = None
    height_pt: float | None = None
    images: tuple[InnerImage, ...] = ()
    image_count: int = 0
    """How many images are inside; `images` holds the least dense of them."""
    unembedded_fonts: tuple[str, ...] = ()

    @property
    def is_vector(self) -> bool:
        """Whether the picture has no pixels."""
        return self.kind is Kind.VECTOR

    @property
    def unpacked_bytes(self) -> int:
        """Memory of the unpacked pixels, 0 for a vector picture."""
        if self.px_w is None or self.px_h is None:
            return 0
        return unpacked_bytes(self.px_w, self.px_h, self.channels, self.bits)

    @property
    def megapixels(self) -> float:
        """Millions of pixels."""
        return (self.px_w or 0) * (self.px_h or 0) / 1e6


def oriented_size(width: int, height: int, orientation: int) -> tuple[int, int]:
    """Stored width and height after an Exif orientation; 5 to 8 lie on their side."""
    return (height, width) if orientation in (5, 6, 7, 8) else (width, height)


def facts_as_values(facts: Facts) -> dict[str, object]:
    """Facts as plain values, for a database row or another process."""
    unit = facts.density_unit.value if facts.density_unit else None
    enums = {"kind": facts.kind.value, "colour": facts.colour.value, "density_unit": unit}
    return asdict(facts) | enums


def facts_from_values(row: Mapping[str, Any]) -> Facts:
    """The facts that `facts_as_values` wrote; what an older form lacks has its usual value."""
    images = tuple(
        InnerImage(**{**one, "matrix": tuple(one["matrix"])}) for one in row.get("images", ())
    )
    return Facts(
        **{
            **row,
            "kind": Kind(row["kind"]),
            "colour": Colour(row["colour"]),
            "images": images,
            "density_unit": DensityUnit(row["density_unit"]) if row.get("density_unit") else None,
            "unembedded_fonts": tuple(row.get("unembedded_fonts", ())),
        }
    )
