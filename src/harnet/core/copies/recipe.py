"""Print copies: everything that turns a picture into its copy, and what that asks and costs."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from enum import Enum
from typing import Any

from harnet.core.errors import ValueOutOfRange
from harnet.core.pictures.picture import Colour, Facts
from harnet.core.pictures.resampling import Resampling, unpacked_bytes

LARGEST_COPY_PX = 400_000_000
_LARGEST_EDGE_PX = 300_000
_LARGEST_JPEG_EDGE_PX = 65_535
"""ITU-T T.81: a JPEG's width and height are 16-bit figures."""
_LOWEST_TAG_PPI, _HIGHEST_TAG_PPI = 1.0, 30_000.0


class Kernel(Enum):
    """How new pixels are measured from old ones."""

    AUTO = "auto"
    """The one that suits the change."""
    NEAREST = "nearest"
    LINEAR = "linear"
    CUBIC = "cubic"
    """Catmull-Rom."""
    MITCHELL = "mitchell"
    LANCZOS3 = "lanczos3"
    NOHALO = "nohalo"
    """An enlarging filter that keeps edges without bright or dark rims."""


class PadEdges(Enum):
    """What fills the area around a padded picture."""

    COLOUR = "colour"
    MIRROR = "mirror"
    """The picture's own edge, mirrored: for a bleed that is missing."""


class CopyColour(Enum):
    """The colour space of a copy."""

    KEEP = "keep"
    """As the original, with its profile."""
    SRGB = "sRGB"
    GREY = "grey"
    CMYK = "CMYK"


class CopyFormat(Enum):
    """The file format of a copy; the value is the file name's ending."""

    TIFF = "tif"
    PNG = "png"
    JPEG = "jpg"


class Compression(Enum):
    """Lossless compression inside a TIFF."""

    NONE = "none"
    LZW = "LZW"
    DEFLATE = "Deflate"


@dataclass(frozen=True, slots=True)
class PixelBox:
    """A part of an upright picture, in its pixels."""

    left: int
    """Pixels from the left edge."""
    top: int
    """Pixels from the top edge."""
    width: int
    """In pixels."""
    height: int
    """In pixels."""

    def clamped_to(self, whole: "PixelBox") -> "PixelBox":
        """The part that lies inside a whole picture, at least one pixel of it."""
        left = min(max(self.left, 0), whole.width - 1)
        top = min(max(self.top, 0), whole.height - 1)
        right = min(max(self.left + self.width, left + 1), whole.width)
        bottom = min(max(self.top + self.height, top + 1), whole.height)
        return PixelBox(left, top, right - left, bottom - top)


@dataclass(frozen=True, slots=True, kw_only=True)
class Padding:
    """Pixels of the copy added on each side."""

    left: int = 0
    """Pixels added on the left."""
    top: int = 0
    """Pixels added at the top."""
    right: int = 0
    """Pixels added on the right."""
    bottom: int = 0
    """Pixels added at the bottom."""
    edges: PadEdges = PadEdges.COLOUR
    """What they are filled with."""
    colour: str = "#ffffff"
    """Their colour, where they are filled with one."""

    @property
    def is_none(self) -> bool:
        """Whether nothing is added."""
        return not (self.left or self.top or self.right or self.bottom)


@dataclass(frozen=True, slots=True, kw_only=True)
class Recipe:
    """How a print copy is made: crop, resample to `px_w × px_h`, convert, pad, write.

    `profile` is the SHA-256 of the CMYK profile to convert to, None for the generic one. `bits`
    counts per channel, None keeps them. `flatten` is the colour that alpha is laid onto, None
    keeps it. Densities are those of the tag, in ppi.
    """

    crop: PixelBox
    """The crop, in pixels of the original."""
    px_w: int
    """The width that the crop is resampled to, in pixels."""
    px_h: int
    """The height that the crop is resampled to, in pixels."""
    density_x: float
    """The density tag across, in pixels per inch."""
    density_y: float
    """The density tag down, in pixels per inch."""
    kernel: Kernel = Kernel.AUTO
    """The filter that resamples."""
    padding: Padding = Padding()
    """Pixels added around."""
    colour: CopyColour = CopyColour.KEEP
    """The colour it is converted to."""
    profile: str | None = None
    """The CMYK profile by the SHA-256 of its bytes; none is the generic one."""
    bits: int | None = None
    """Bits a channel; none keeps them."""
    flatten: str | None = None
    """The colour that transparency is laid onto; none keeps it."""
    format: CopyFormat = CopyFormat.TIFF
    """The file format."""
    compression: Compression = Compression.DEFLATE
    """The compression of a TIFF."""
    is_big_endian: bool = False
    """Whether a TIFF starts with the highest byte."""
    quality: int = 92
    """Of JPEG, 1 to 100."""
    may_interpolate: bool = False
    """Whether it may have more pixels than the crop has."""

    @property
    def change(self) -> Resampling:
        """What happens to the cropped part's pixels."""
        return Resampling(self.crop.width, self.crop.height, self.px_w, self.px_h)

    @property
    def file_px(self) -> tuple[int, int]:
        """Width and height of the finished file, padding included."""
        pad = self.padding
        return self.px_w + pad.left + pad.right, self.px_h + pad.top + pad.bottom

    @property
    def used_kernel(self) -> Kernel:
        """The kernel that really works; mitchell and lanczos3 are shrinking filters here.

        Enlarging uses cubic in their place; `auto` takes lanczos3 to shrink, the sharper one, and
        nohalo to enlarge, which keeps detail.
        """
        if self.change.is_enlarging:
            if self.kernel is Kernel.AUTO:
                return Kernel.NOHALO
            if self.kernel in (Kernel.MITCHELL, Kernel.LANCZOS3):
                return Kernel.CUBIC
            return self.kernel
        return Kernel.LANCZOS3 if self.kernel in (Kernel.AUTO, Kernel.NOHALO) else self.kernel


def whole_picture(facts: Facts) -> PixelBox:
    """The crop that crops nothing.

    Raises:
        ValueOutOfRange: a vector picture, which has no pixels.
    """
    if facts.px_w is None or facts.px_h is None:
        raise ValueOutOfRange("a vector picture is sharp at any size and needs no print copy")
    return PixelBox(0, 0, facts.px_w, facts.px_h)


def bits_of_copy(recipe: Recipe, facts: Facts) -> int:
    """Bits per channel of the copy; 1-bit art stays 1-bit unless more bits or colour are asked."""
    if recipe.bits is not None:
        return recipe.bits
    keeps = recipe.colour is CopyColour.KEEP
    if facts.colour is Colour.BILEVEL and keeps and recipe.format is not CopyFormat.JPEG:
        return 1
    return max(8, facts.bits)


def channels_of_copy(recipe: Recipe, facts: Facts) -> int:
    """Channels of the copy, alpha included."""
    colour = {
        CopyColour.SRGB: 3,
        CopyColour.GREY: 1,
        CopyColour.CMYK: 4,
    }.get(recipe.colour) or {
        Colour.GREY: 1,
        Colour.BILEVEL: 1,
        Colour.CMYK: 4,
    }.get(facts.colour, 3)
    return colour + (1 if facts.alpha and recipe.flatten is None else 0)


def copy_bytes(recipe: Recipe, facts: Facts) -> int:
    """Unpacked bytes of the copy."""
    width, height = recipe.file_px
    channels, bits = channels_of_copy(recipe, facts), bits_of_copy(recipe, facts)
    return unpacked_bytes(width, height, channels, bits)


def checked(recipe: Recipe, facts: Facts) -> Recipe:
    """The recipe, if this picture can be made into such a copy.

    Raises:
        ValueOutOfRange: it cannot; the text says why and what would do.
    """
    box = whole_picture(facts)
    crop = recipe.crop
    if crop.width < 1 or crop.height < 1:
        raise ValueOutOfRange(f"a crop has at least 1 × 1 pixels, not {_size(crop)}")
    is_inside = crop.left >= 0 and crop.top >= 0
    is_inside = is_inside and crop.left + crop.width <= box.width
    if not is_inside or crop.top + crop.height > box.height:
        raise ValueOutOfRange(
            f"the crop {_size(crop)} from {crop.left}, {crop.top} extends beyond the picture,"
            f" which has {box.width} × {box.height} pixels"
        )
    _check_size(recipe)
    for ppi in (recipe.density_x, recipe.density_y):
        if not _LOWEST_TAG_PPI <= ppi <= _HIGHEST_TAG_PPI:
            raise ValueOutOfRange(
                f"a density tag is between {_LOWEST_TAG_PPI:g} and {_HIGHEST_TAG_PPI:g} ppi,"
                f" not {ppi:g}"
            )
    if not 1 <= recipe.quality <= 100:
        raise ValueOutOfRange(f"the JPEG quality is between 1 and 100, not {recipe.quality}")
    if recipe.bits not in (None, 8, 16):
        raise ValueOutOfRange(f"a copy has 8 or 16 bits per channel, not {recipe.bits}")
    _check_format(recipe, facts)
    if recipe.change.is_enlarging and not recipe.may_interpolate:
        percent = round(recipe.change.interpolated_share * 100)
        raise ValueOutOfRange(
            f"{recipe.px_w} × {recipe.px_h} pixels from {crop.width} × {crop.height}"
            f" interpolates {percent} % of them; allow interpolated pixels, or make the copy"
            " smaller"
        )
    return recipe


def _check_size(recipe: Recipe) -> None:
    pad = recipe.padding
    width, height = recipe.file_px
    if recipe.px_w < 1 or recipe.px_h < 1:
        raise ValueOutOfRange(
            f"a copy has at least 1 × 1 pixels, not {recipe.px_w} × {recipe.px_h}"
        )
    if min(pad.left, pad.top, pad.right, pad.bottom) < 0:
        raise ValueOutOfRange("padding adds pixels; to remove some, crop")
    if pad.edges is PadEdges.MIRROR and (
        max(pad.left, pad.right) > recipe.px_w or max(pad.top, pad.bottom) > recipe.px_h
    ):
        raise ValueOutOfRange("a mirrored edge is at most as wide as the picture itself")
    if max(width, height) > _LARGEST_EDGE_PX or width * height > LARGEST_COPY_PX:
        raise ValueOutOfRange(
            f"a copy of {width} × {height} pixels is too large; the limit is"
            f" {LARGEST_COPY_PX // 10**6} megapixels"
        )


def _check_format(recipe: Recipe, facts: Facts) -> None:
    is_cmyk = recipe.colour is CopyColour.CMYK
    is_cmyk = is_cmyk or (recipe.colour is CopyColour.KEEP and facts.colour is Colour.CMYK)
    is_lab = recipe.colour is CopyColour.KEEP and facts.colour is Colour.LAB
    if recipe.format is CopyFormat.PNG and (is_cmyk or is_lab):
        raise ValueOutOfRange("PNG cannot hold CMYK or Lab; choose TIFF, or convert the colour")
    if is_cmyk and facts.alpha and recipe.flatten is None:
        raise ValueOutOfRange("a CMYK copy cannot hold alpha; flatten it onto a colour")
    if recipe.format is CopyFormat.JPEG:
        if is_lab:
            raise ValueOutOfRange("JPEG cannot hold Lab; choose TIFF, or convert the colour")
        if facts.colour is Colour.BILEVEL and recipe.bits is None:
            raise ValueOutOfRange(
                "JPEG cannot hold 1-bit art; choose TIFF or PNG, or convert to 8-bit grey"
            )
        if bits_of_copy(recipe, facts) != 8:
            raise ValueOutOfRange("JPEG holds 8 bits per channel; choose 8 bits, TIFF or PNG")
        if facts.alpha and recipe.flatten is None:
            raise ValueOutOfRange(
                "JPEG cannot hold alpha; flatten it onto a colour, or choose TIFF"
            )
        if max(recipe.file_px) > _LARGEST_JPEG_EDGE_PX:
            raise ValueOutOfRange(
                f"a JPEG's edge has at most {_LARGEST_JPEG_EDGE_PX} pixels; choose TIFF"
            )


def _size(box: PixelBox) -> str:
    return f"{box.width} × {box.height}"


def recipe_as_values(recipe: Recipe) -> dict[str, Any]:
    """A recipe as plain values."""
    return asdict(
        recipe,
        dict_factory=lambda pairs: {
            name: value.value if isinstance(value, Enum) else value for name, value in pairs
        },
    )


def recipe_from_values(row: Mapping[str, Any]) -> Recipe:
    """The recipe that `recipe_as_values` wrote."""
    padding = Padding(**{**row["padding"], "edges": PadEdges(row["padding"]["edges"])})
    enums = {
        "kernel": Kernel(row["kernel"]),
        "colour": CopyColour(row["colour"]),
        "format": CopyFormat(row["format"]),
        "compression": Compression(row["compression"]),
    }
    return Recipe(**{**row, **enums, "crop": PixelBox(**row["crop"]), "padding": padding})


def plain_copy(facts: Facts, density_ppi: float) -> Recipe:
    """The recipe that keeps every pixel and only states a density."""
    box = whole_picture(facts)
    recipe = Recipe(
        crop=box, px_w=box.width, px_h=box.height, density_x=density_ppi, density_y=density_ppi
    )
    is_photo = facts.lossy and facts.bits == 8 and not facts.alpha
    return replace(recipe, format=CopyFormat.JPEG) if is_photo else recipe
