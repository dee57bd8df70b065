"""Page images: which pages, at how many pixels, in which format."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum
from typing import Any

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.units import POINTS_PER_INCH
from harnet.core.pictures.resampling import page_px

LOWEST_PPI, HIGHEST_PPI = 72.0, 1200.0
"""The densities that a page image is asked for by; by pixels any that gives an image will do."""
LOWEST_QUALITY, HIGHEST_QUALITY = 20, 96
_LARGEST_EDGE_PX = 60_000


class ImageFormat(Enum):
    """The file formats of page images."""

    PNG = "png"
    JPEG = "jpeg"
    TIFF = "tiff"

    @property
    def ending(self) -> str:
        """The ending of a file's name."""
        return {"jpeg": "jpg", "tiff": "tif"}.get(self.value, self.value)

    @property
    def media_type(self) -> str:
        """Its type on the web."""
        return f"image/{self.value}"


class SizeBy(Enum):
    """What decides about an image's pixels."""

    DENSITY = "density"
    WIDTH = "width"
    HEIGHT = "height"
    BYTES = "bytes"
    """The density, and a limit of bytes that JPEG's quality is searched for."""


class ImageColour(Enum):
    """The colours of a page image."""

    RGB = "rgb"
    CMYK = "cmyk"
    """Inks of a profile, which the file carries; TIFF alone."""


class TiffCompression(Enum):
    """Compression of TIFF, all without loss."""

    NONE = "none"
    LZW = "lzw"
    DEFLATE = "deflate"


@dataclass(frozen=True, slots=True, kw_only=True)
class ImageSettings:
    """How page images are to be made; `edge_px` and `limit_bytes` count where `size_by` says so."""

    format: ImageFormat = ImageFormat.PNG
    """The file format."""
    size_by: SizeBy = SizeBy.DENSITY
    """What decides about the pixels."""
    density_ppi: float = 300.0
    """Pixels per inch, where the density decides."""
    edge_px: int = 0
    """Width or height in pixels, where one of them decides."""
    limit_bytes: int = 0
    """The most bytes an image may have, where that decides."""
    quality: int = 90
    """Of JPEG, 1 to 100."""
    compression: TiffCompression = TiffCompression.DEFLATE
    """The compression of a TIFF."""
    pages: str = "all"
    """all, a page, or ranges such as 2-5."""
    names: str = "{title} page {page}"
    """File names; {title} and {page} are filled in."""
    colour: ImageColour = ImageColour.RGB
    """The colour of the image."""
    profile: str | None = None
    """The CMYK profile by its hash; None takes the generic one."""
    with_bleed: bool = False
    """Whether the bleed around the trim is part of the image."""

    def size_of(self, width_pt: float, height_pt: float, bleed_pt: float) -> tuple[float, float]:
        """Width and height of what leaves of a page, by its trim and its bleed."""
        beyond = 2 * bleed_pt if self.with_bleed else 0.0
        return width_pt + beyond, height_pt + beyond

    def density_for(self, width_pt: float, height_pt: float) -> float:
        """The density that a page of this size is exported at, in ppi."""
        if self.size_by is SizeBy.WIDTH:
            return self.edge_px * POINTS_PER_INCH / width_pt
        if self.size_by is SizeBy.HEIGHT:
            return self.edge_px * POINTS_PER_INCH / height_pt
        return self.density_ppi

    def px_for(self, width_pt: float, height_pt: float) -> tuple[int, int]:
        """The pixels that a page of this size leaves with.

        >>> ImageSettings(size_by=SizeBy.WIDTH, edge_px=1000).px_for(720, 360)
        (1000, 500)
        """
        return page_px(width_pt, height_pt, self.density_for(width_pt, height_pt))


def checked_image_settings(settings: ImageSettings) -> ImageSettings:
    """The settings, once they make sense.

    Raises:
        ValueOutOfRange: a figure outside its range; the text says which.
    """
    if settings.size_by in (SizeBy.DENSITY, SizeBy.BYTES):
        if not LOWEST_PPI <= settings.density_ppi <= HIGHEST_PPI:
            raise ValueOutOfRange(
                f"a page image is written at {LOWEST_PPI:g} to {HIGHEST_PPI:g} ppi,"
                f" not at {settings.density_ppi:g}"
            )
    elif not 1 <= settings.edge_px <= _LARGEST_EDGE_PX:
        raise ValueOutOfRange(f"an edge has 1 to {_LARGEST_EDGE_PX} pixels, not {settings.edge_px}")
    if settings.size_by is SizeBy.BYTES:
        if settings.format is not ImageFormat.JPEG:
            raise ValueOutOfRange("only JPEG can be kept under a byte limit")
        if settings.limit_bytes < 1000:
            raise ValueOutOfRange(
                f"a limit of {settings.limit_bytes} bytes is too small for an image"
            )
    if settings.colour is ImageColour.CMYK and settings.format is not ImageFormat.TIFF:
        raise ValueOutOfRange(f"{settings.format.value.upper()} is written in RGB; CMYK needs TIFF")
    if not 1 <= settings.quality <= 100:
        raise ValueOutOfRange(f"JPEG quality is between 1 and 100, not {settings.quality}")
    if "{page}" not in settings.names:
        raise ValueOutOfRange(
            f"the names must contain {{page}}, so that each page has its own; “{settings.names}”"
            " does not"
        )
    return settings


def page_numbers(text: str, count: int) -> list[int]:
    """The pages meant by `all` or by numbers and ranges, in order and each once.

    Raises:
        ValueOutOfRange: no such page, or nothing that can be understood.

    >>> page_numbers("1-3, 7", 12)
    [1, 2, 3, 7]
    """
    wanted = text.strip().lower().replace("–", "-")
    if wanted in ("all", ""):
        return list(range(1, count + 1))
    numbers: set[int] = set()
    for part in filter(None, re.split(r"[,;\s]+(?!-)(?<!-)", re.sub(r"\s*-\s*", "-", wanted))):
        match = re.fullmatch(r"(\d+)(?:-(\d+))?", part)
        if match is None:
            raise ValueOutOfRange(
                f"“{part}” is not a page; write numbers and ranges such as 1-3, 7"
            )
        first, last = int(match[1]), int(match[2] or match[1])
        if not 1 <= first <= last <= count:
            raise ValueOutOfRange(f"there are pages 1 to {count}, not {part}")
        numbers.update(range(first, last + 1))
    return sorted(numbers)


def image_name(settings: ImageSettings, title: str, number: int, count: int, ppi: float) -> str:
    """A page's file name; numbers are as long as the last page's, so that names sort by page."""
    name = settings.names.replace("{title}", title)
    name = name.replace("{page}", str(number).zfill(len(str(count))))
    return f"{name.replace('{ppi}', f'{ppi:.4g}')}.{settings.format.ending}"


def plain_title(title: str) -> str:
    """A title without what file names must not hold."""
    return title.replace(": ", " ")


def image_settings_as_values(settings: ImageSettings) -> dict[str, Any]:
    """Settings as what JSON can hold."""
    return {
        "format": settings.format.value,
        "size_by": settings.size_by.value,
        "density_ppi": settings.density_ppi,
        "edge_px": settings.edge_px,
        "limit_bytes": settings.limit_bytes,
        "quality": settings.quality,
        "compression": settings.compression.value,
        "pages": settings.pages,
        "names": settings.names,
        "colour": settings.colour.value,
        "profile": settings.profile,
        "with_bleed": settings.with_bleed,
    }


def image_settings_from_values(values: Mapping[str, Any]) -> ImageSettings:
    """The settings that `image_settings_as_values` wrote; what is missing has its usual value.

    Raises:
        ValueError: a word that is none of those known.
    """
    known = image_settings_as_values(ImageSettings())
    chosen = {name: values[name] for name in known if name in values}
    kinds = {
        "format": ImageFormat,
        "size_by": SizeBy,
        "compression": TiffCompression,
        "colour": ImageColour,
    }
    for name, kind in kinds.items():
        if name in chosen:
            chosen[name] = kind(chosen[name])
    return ImageSettings(**chosen)
