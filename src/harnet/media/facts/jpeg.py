"""JPEG headers (ITU-T T.81), with their JFIF, Exif and ICC segments."""

import re
import struct

from harnet.core.pictures.picture import Colour, DensityUnit
from harnet.media.beginning import FETCH_AGAIN
from harnet.media.facts.header import Header
from harnet.media.facts.source import HeaderSource
from harnet.media.facts.tiff import Directory, exif_directory

_START_OF_FRAME = frozenset(range(0xC0, 0xD0)) - {0xC4, 0xC8, 0xCC}
_START_OF_SCAN, _END, _TABLES = 0xDA, 0xD9, 0xDB
_APP0, _APP1, _APP2 = 0xE0, 0xE1, 0xE2
_STANDALONE = frozenset({0x01, *range(0xD0, 0xD8)})
_MARKER = re.compile(rb"\xff[^\x00\xff]", re.DOTALL)
_BLOCK, _MOST_JUNK = 64, 1_000_000
"""Markers usually follow at once; some writers leave padding before them."""
_UNITS = {1: DensityUnit.INCH, 2: DensityUnit.CENTIMETRE}
"""JFIF (ISO/IEC 10918-5) density units; 0 states only an aspect ratio."""

# ITU-T T.81, table K.1, in zigzag order (from memory): the luminance table most writers scale.
_K1 = (
    16, 11, 12, 14, 12, 10, 16, 14, 13, 14, 18, 17, 16, 19, 24, 40,
    26, 24, 22, 22, 24, 49, 35, 37, 29, 40, 58, 51, 61, 60, 57, 51,
    56, 55, 64, 72, 92, 78, 64, 68, 87, 69, 55, 56, 80, 109, 81, 87,
    95, 98, 103, 104, 103, 62, 77, 113, 121, 112, 100, 120, 92, 101, 103, 99,
)  # fmt: skip


def read_jpeg(source: HeaderSource) -> Header:
    """Facts of a JPEG up to its first scan, and whether its end is there."""
    offset = 2
    frame: tuple[int, int, int, int, bool] | None = None
    jfif: tuple[float, float] | None = None
    exif: Directory | None = None
    icc_parts: dict[int, bytes] = {}
    quality = None
    written: DensityUnit | None = None
    while True:
        marker, offset = _next_marker(source, offset)
        if marker in _STANDALONE:
            continue
        if marker == _END:
            raise source.failure("it is a JPEG without an image")
        (length,) = source.unpack(">H", offset)
        body_at, body_size = offset + 2, length - 2
        if marker == _START_OF_SCAN:
            break
        body = source.at(body_at, max(0, body_size))
        offset += length
        if marker in _START_OF_FRAME and len(body) >= 6:
            bits, height, width, components = struct.unpack(">BHHB", body[:6])
            frame = (width, height, bits, components, marker in (0xC3, 0xC7, 0xCB, 0xCF))
        elif marker == _APP0 and body[:5] == b"JFIF\0" and len(body) >= 12:
            unit, x, y = struct.unpack(">BHH", body[7:12])
            if unit in _UNITS and x > 0 and y > 0:
                written = _UNITS[unit]
                jfif = (x * written.per_inch, y * written.per_inch)
        elif marker == _APP1 and body[:6] == b"Exif\0\0" and exif is None:
            exif = exif_directory(body[6:])
        elif marker == _APP2 and body[:12] == b"ICC_PROFILE\0" and len(body) > 14:
            icc_parts[body[12]] = body[14:]
        elif marker == _TABLES and quality is None:
            quality = _quality(body)
    if frame is None:
        raise source.failure("it is a JPEG without an image")
    # Inside the scans every FF is followed by 00, so FF D9 can only be the end.
    if source.last_index_of(b"\xff\xd9", offset) < 0:
        raise source.broken_off()
    width, height, bits, components, is_lossless = frame
    density = jfif or (exif.density_ppi if exif else (None, None))
    if jfif is None and exif is not None:
        written = exif.density_unit
    return Header(
        format="jpeg",
        stored_w=width,
        stored_h=height,
        colour={1: Colour.GREY, 4: Colour.CMYK}.get(components, Colour.RGB),
        bits=bits,
        channels=components,
        lossy=not is_lossless,
        compression="JPEG",
        density_x=density[0],
        density_y=density[1],
        density_unit=written,
        icc=b"".join(icc_parts[key] for key in sorted(icc_parts)) or None,
        orientation=exif.number(274, 1) if exif else 1,
        jpeg_quality=None if is_lossless else quality,
    )


def _next_marker(source: HeaderSource, offset: int) -> tuple[int, int]:
    """The marker at or after `offset`, and where its segment's length stands."""
    end = min(source.size_bytes, offset + _MOST_JUNK)
    while offset + 1 < end:
        block = source.at(offset, min(_BLOCK, source.size_bytes - offset))
        found = _MARKER.search(block)
        if found is not None:
            return found[0][-1], offset + found.end()
        offset += len(block) - 1
    if end == source.size_bytes:
        raise source.broken_off()
    raise source.failure("it has stray data between its JPEG segments", FETCH_AGAIN)


def estimated_quality(data: bytes) -> int | None:
    """The estimated quality of a JPEG, 1 to 100; None where its tables say nothing."""
    at = data.find(b"\xff\xdb")
    if at < 0 or len(data) < at + 4:
        return None
    length = int.from_bytes(data[at + 2 : at + 4], "big")
    return _quality(data[at + 4 : at + 2 + length])


def _quality(tables: bytes) -> int | None:
    """Estimated quality of the usual scale 1 to 100, from the luminance table's mean scaling."""
    if len(tables) < 65 or tables[0] & 0x0F:
        return None
    is_wide = tables[0] >> 4
    layout = ">64H" if is_wide else ">64B"
    if len(tables) < 1 + struct.calcsize(layout):
        return None
    values: tuple[int, ...] = struct.unpack(layout, tables[1 : 1 + struct.calcsize(layout)])
    percent = 100 * sum(values) / sum(_K1)
    quality = (200 - percent) / 2 if percent <= 100 else 5000 / percent
    return max(1, min(100, round(quality)))
