"""Pixels, colour and bits of an image in a PDF, from its dictionary (ISO 32000-2, 8.9)."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import pikepdf

from harnet.core.pictures.picture import Colour
from harnet.media.pdf.reading.transparency import has_soft_mask
from harnet.media.pdf.walking.content import NONSENSE, dictionary_in, entry, name_text

FAMILIES = {
    "/DeviceGray": Colour.GREY,
    "/G": Colour.GREY,
    "/CalGray": Colour.GREY,
    "/DeviceRGB": Colour.RGB,
    "/RGB": Colour.RGB,
    "/CalRGB": Colour.RGB,
    "/DeviceCMYK": Colour.CMYK,
    "/CMYK": Colour.CMYK,
    "/Lab": Colour.LAB,
    "/Indexed": Colour.PALETTE,
    "/I": Colour.PALETTE,
    "/Separation": Colour.SPOT,
    "/DeviceN": Colour.SPOT,
}
"""Families of colour spaces, also by their short names in inline images, and their colours."""
_DEFAULTS = {
    "/DeviceGray": "/DefaultGray",
    "/G": "/DefaultGray",
    "/DeviceRGB": "/DefaultRGB",
    "/RGB": "/DefaultRGB",
    "/DeviceCMYK": "/DefaultCMYK",
    "/CMYK": "/DefaultCMYK",
}
Stated = Mapping[str, Any]
"""What an image's dictionary states, by its keys."""
_MOST_FILTERS = 8
_MOST_PX = 2**31 - 1
_BITS = (1, 2, 4, 8, 16)
"""ISO 32000-2, table 87."""
_BY_CHANNELS = {1: Colour.GREY, 3: Colour.RGB, 4: Colour.CMYK}


@dataclass(frozen=True, slots=True, kw_only=True)
class ImageFacts:
    """What an image dictionary says."""

    px_w: int
    px_h: int
    colour: Colour
    bits: int
    number: int = 0
    """Its object number in the PDF; 0 for an inline image."""
    has_profile: bool = False
    filters: tuple[str, ...] = ()
    has_alpha: bool = False
    """Whether a soft mask makes it see-through."""
    is_stencil: bool = False
    """Whether it lets colour through where its samples say so (8.9.6.2)."""
    is_opaque: bool = False
    """Whether it hides all that lies below it: no mask of any kind."""
    inline: Any = field(default=None, compare=False, repr=False)
    """An inline image itself, with the resources that its names are looked up in; else None."""


def image_facts(image: pikepdf.Object, resources: pikepdf.Object) -> ImageFacts | None:
    """Facts of an image XObject or of an inline image, whose keys may be abbreviated.

    None where the dictionary gives no size: nothing can be painted then.
    """
    try:
        # All at once: asking pikepdf for one key after the other takes longer.
        stated = dict(image.items())
        px_w = int(_entry(stated, "/Width", "/W") or 0)
        px_h = int(_entry(stated, "/Height", "/H") or 0)
        is_mask = bool(_entry(stated, "/ImageMask", "/IM") or False)
        stated_bits = _entry(stated, "/BitsPerComponent", "/BPC")
        bits = int(stated_bits) if stated_bits is not None else 8
    except NONSENSE:
        return None
    if not (1 <= px_w <= _MOST_PX and 1 <= px_h <= _MOST_PX):
        return None
    bits = bits if bits in _BITS else 8
    number, filters = image.objgen[0] if image.is_indirect else 0, _filters(stated)
    if is_mask:
        return ImageFacts(
            px_w=px_w,
            px_h=px_h,
            colour=Colour.BILEVEL,
            bits=1,
            number=number,
            has_profile=False,
            filters=filters,
            is_stencil=True,
        )
    space = _entry(stated, "/ColorSpace", "/CS")
    colour = _colour(space, resources)
    if "JPXDecode" in filters:
        channels, jpx_bits = _jpeg2000_header(image)
        bits = jpx_bits or bits
        if space is None:
            colour = _BY_CHANNELS.get(1 if channels == 2 else channels, Colour.RGB)
    if colour is Colour.GREY and bits == 1:
        colour = Colour.BILEVEL
    profiled, alpha = _has_profile(space, resources), has_soft_mask(stated)
    is_opaque = not alpha and "/Mask" not in stated
    return ImageFacts(
        px_w=px_w,
        px_h=px_h,
        colour=colour,
        bits=bits,
        number=number,
        has_profile=profiled,
        filters=filters,
        has_alpha=alpha,
        is_opaque=is_opaque,
    )


def _entry(image: Stated, name: str, short: str) -> Any:
    value = image.get(name)
    return image.get(short) if value is None else value


def _colour(space: pikepdf.Object | None, resources: pikepdf.Object, depth: int = 0) -> Colour:
    if space is None or depth > 4:
        return Colour.GREY
    if isinstance(space, pikepdf.Name):
        known = FAMILIES.get(name_text(space))
        if known:
            return known
        named = dictionary_in(resources, "/ColorSpace").get(space)
        return _colour(named, resources, depth + 1)
    if not isinstance(space, pikepdf.Array) or not len(space):
        return Colour.GREY
    family = name_text(space[0])
    if family == "/ICCBased" and len(space) > 1:
        profile = space[1]
        if not isinstance(profile, pikepdf.Stream):
            return Colour.RGB
        alternate, channels = profile.get("/Alternate"), profile.get("/N", 3)
        if isinstance(alternate, pikepdf.Array) and len(alternate) and alternate[0] == "/Lab":
            return Colour.LAB
        return _BY_CHANNELS.get(channels if isinstance(channels, int) else 3, Colour.RGB)
    return FAMILIES.get(family, Colour.GREY)


def _has_profile(space: pikepdf.Object | None, resources: pikepdf.Object, depth: int = 0) -> bool:
    """Whether an ICC profile says what the samples mean, also behind a palette."""
    if isinstance(space, pikepdf.Name):
        # A device's colours may stand for others by default (8.6.5.6).
        spaces, default = dictionary_in(resources, "/ColorSpace"), _DEFAULTS.get(name_text(space))
        space = entry(spaces, default) if default else spaces.get(space)
    if not isinstance(space, pikepdf.Array) or len(space) < 2 or depth > 4:
        return False
    if name_text(space[0]) in ("/Indexed", "/I"):
        return _has_profile(space[1], resources, depth + 1)
    return name_text(space[0]) == "/ICCBased"


def _filters(image: Stated) -> tuple[str, ...]:
    filters = _entry(image, "/Filter", "/F")
    if isinstance(filters, pikepdf.Name):
        return (name_text(filters).lstrip("/"),)
    names = list(filters)[:_MOST_FILTERS] if isinstance(filters, pikepdf.Array) else []
    return tuple(name_text(name).lstrip("/") for name in names if isinstance(name, pikepdf.Name))


def _jpeg2000_header(image: pikepdf.Object) -> tuple[int, int | None]:
    """Channels and bits from the `ihdr` box (ISO/IEC 15444-1, I.5.3.1, from memory)."""
    data = image.read_raw_bytes()[:4096]
    at = data.find(b"ihdr")
    if at < 0 or len(data) < at + 15:
        return 3, None
    channels = int.from_bytes(data[at + 12 : at + 14], "big")
    bits = data[at + 14]
    return channels, None if bits == 255 else (bits & 0x7F) + 1
