"""PNG headers (ISO/IEC 15948): IHDR, pHYs, iCCP, tRNS, acTL and eXIf."""

import zlib

from harnet.core.pictures.picture import Colour, DensityUnit
from harnet.media.facts.header import Header
from harnet.media.facts.source import HeaderSource
from harnet.media.facts.tiff import exif_directory

_GREY, _RGB, _PALETTE, _GREY_ALPHA, _RGB_ALPHA = 0, 2, 3, 4, 6
_CHANNELS = {_GREY: 1, _RGB: 3, _PALETTE: 1, _GREY_ALPHA: 2, _RGB_ALPHA: 4}
_FRAME_BYTES = 38
"""A frame's control chunk alone; no file holds more frames than it has room for."""
_MOST_ICC_BYTES = 10_000_000


def read_png(source: HeaderSource) -> Header:
    """Facts of a PNG from the chunks before its pixels, and whether its end is there."""
    if source.at(12, 4) != b"IHDR":
        raise source.failure("its PNG header is invalid")
    width, height, bits, kind = source.unpack(">IIBB", 16)
    if kind not in _CHANNELS or width < 1 or height < 1:
        raise source.failure("its PNG header is invalid")
    chunks: dict[bytes, bytes] = {}
    offset = 8
    is_ended = False
    while offset < source.size_bytes:
        (length,) = source.unpack(">I", offset)
        name = source.at(offset + 4, 4)
        if name in (b"pHYs", b"iCCP", b"tRNS", b"acTL", b"eXIf"):
            chunks.setdefault(name, source.at(offset + 8, length))
        elif name == b"IEND":
            is_ended = True
            break
        offset += 12 + length
    if not is_ended:
        raise source.broken_off()
    exif = exif_directory(chunks[b"eXIf"]) if b"eXIf" in chunks else None
    density = _density(chunks.get(b"pHYs", b""))
    unit: DensityUnit | None = DensityUnit.METRE
    if density == (None, None) and exif:
        density, unit = exif.density_ppi, exif.density_unit
    is_bilevel = kind == _GREY and bits == 1
    return Header(
        format="png",
        stored_w=width,
        stored_h=height,
        colour=Colour.BILEVEL
        if is_bilevel
        else Colour.PALETTE
        if kind == _PALETTE
        else Colour.GREY
        if kind in (_GREY, _GREY_ALPHA)
        else Colour.RGB,
        bits=bits,
        channels=_CHANNELS[kind],
        alpha=kind in (_GREY_ALPHA, _RGB_ALPHA) or b"tRNS" in chunks,
        compression="Deflate",
        density_x=density[0],
        density_y=density[1],
        density_unit=unit,
        icc=_profile(chunks.get(b"iCCP", b"")),
        frames=_frames(chunks.get(b"acTL", b""), source.size_bytes),
        orientation=exif.number(274, 1) if exif else 1,
    )


def _frames(control: bytes, size_bytes: int) -> int:
    """acTL begins with the number of frames, 1 to 2³¹ − 1 (PNG, third edition, 11.3.6.1)."""
    stated = int.from_bytes(control[:4], "big")
    return stated if 1 <= stated <= size_bytes // _FRAME_BYTES else 1


def _density(phys: bytes) -> tuple[float | None, float | None]:
    """pHYs counts pixels per metre when its unit is 1; unit 0 is only an aspect ratio."""
    if len(phys) != 9 or phys[8] != 1:
        return None, None
    x, y = int.from_bytes(phys[:4], "big"), int.from_bytes(phys[4:8], "big")
    if x == 0 or y == 0:
        return None, None
    return x * DensityUnit.METRE.per_inch, y * DensityUnit.METRE.per_inch


def _profile(chunk: bytes) -> bytes | None:
    name_end = chunk.find(b"\0")
    if name_end < 0:
        return None
    try:
        return zlib.decompressobj().decompress(chunk[name_end + 2 :], _MOST_ICC_BYTES)
    except zlib.error:
        return None
