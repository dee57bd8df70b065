"""Pixels, colour and bits of an image in a PDF, from its dictionary (ISO 32000-2, 8.9)."""

from dataclasses import dataclass

import pikepdf

from harnet.core.picture import Colour

_DEVICE = {
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
_BY_CHANNELS = {1: Colour.GREY, 3: Colour.RGB, 4: Colour.CMYK}


@dataclass(frozen=True, slots=True)
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


def image_facts(image: pikepdf.Object, resources: pikepdf.Object) -> ImageFacts | None:
    """Facts of an image XObject or of an inline image, whose keys may be abbreviated.

    None where the dictionary gives no size: nothing can be painted then.
    """
    try:
        px_w = int(_entry(image, "/Width", "/W") or 0)
        px_h = int(_entry(image, "/Height", "/H") or 0)
        is_mask = bool(_entry(image, "/ImageMask", "/IM") or False)
        stated_bits = _entry(image, "/BitsPerComponent", "/BPC")
        bits = int(stated_bits) if stated_bits is not None else 8
    except (TypeError, ValueError):
        return None
    if px_w < 1 or px_h < 1:
        return None
    number, filters = image.objgen[0] if image.is_indirect else 0, _filters(image)
    if is_mask:
        return ImageFacts(px_w, px_h, Colour.BILEVEL, 1, number, False, filters)
    space = _entry(image, "/ColorSpace", "/CS")
    colour = _colour(space, resources)
    if _is_jpeg2000(image):
        channels, jpx_bits = _jpeg2000_header(image)
        bits = jpx_bits or bits
        if space is None:
            colour = _BY_CHANNELS.get(1 if channels == 2 else channels, Colour.RGB)
    if colour is Colour.GREY and bits == 1:
        colour = Colour.BILEVEL
    return ImageFacts(px_w, px_h, colour, bits, number, _has_profile(space, resources), filters)


def _entry(image: pikepdf.Object, name: str, short: str) -> pikepdf.Object | None:
    value = image.get(name)
    return image.get(short) if value is None else value


def _colour(space: pikepdf.Object | None, resources: pikepdf.Object, depth: int = 0) -> Colour:
    if space is None or depth > 4:
        return Colour.GREY
    if isinstance(space, pikepdf.Name):
        known = _DEVICE.get(str(space))
        if known:
            return known
        named = resources.get("/ColorSpace", pikepdf.Dictionary()).get(str(space))
        return _colour(named, resources, depth + 1)
    if not isinstance(space, pikepdf.Array) or not len(space):
        return Colour.GREY
    family = str(space[0])
    if family == "/ICCBased" and len(space) > 1:
        profile = space[1]
        alternate = profile.get("/Alternate")
        if isinstance(alternate, pikepdf.Array) and str(alternate[0]) == "/Lab":
            return Colour.LAB
        return _BY_CHANNELS.get(int(profile.get("/N", 3)), Colour.RGB)
    return _DEVICE.get(family, Colour.GREY)


def _has_profile(space: pikepdf.Object | None, resources: pikepdf.Object, depth: int = 0) -> bool:
    """Whether an ICC profile says what the samples mean, also behind a palette."""
    if isinstance(space, pikepdf.Name):
        space = resources.get("/ColorSpace", pikepdf.Dictionary()).get(str(space))
    if not isinstance(space, pikepdf.Array) or len(space) < 2 or depth > 4:
        return False
    if str(space[0]) in ("/Indexed", "/I"):
        return _has_profile(space[1], resources, depth + 1)
    return str(space[0]) == "/ICCBased"


def _filters(image: pikepdf.Object) -> tuple[str, ...]:
    filters = _entry(image, "/Filter", "/F")
    names = [filters] if isinstance(filters, pikepdf.Name) else list(filters or [])
    return tuple(str(name).lstrip("/") for name in names)


def _is_jpeg2000(image: pikepdf.Object) -> bool:
    return "JPXDecode" in _filters(image)


def _jpeg2000_header(image: pikepdf.Object) -> tuple[int, int | None]:
    """Channels and bits from the `ihdr` box (ISO/IEC 15444-1, I.5.3.1, from memory)."""
    data = image.read_raw_bytes()[:4096]
    at = data.find(b"ihdr")
    if at < 0 or len(data) < at + 15:
        return 3, None
    channels = int.from_bytes(data[at + 12 : at + 14], "big")
    bits = data[at + 14]
    return channels, None if bits == 255 else (bits & 0x7F) + 1
