"""TIFF headers (TIFF 6.0; BigTIFF), and the Exif block, which is a small TIFF."""

import math
import struct
import sys
from array import array
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from PIL import Image

from harnet.core.pictures.picture import Colour, DensityUnit
from harnet.media.facts.header import Header
from harnet.media.facts.source import HeaderSource
from harnet.media.limits import MAX_IFDS

_WIDTH, _HEIGHT, _BITS, _COMPRESSION, _PHOTOMETRIC = 256, 257, 258, 259, 262
_STRIP_OFFSETS, _ORIENTATION, _SAMPLES, _STRIP_BYTES = 273, 274, 277, 279
_X_DENSITY, _Y_DENSITY, _UNIT = 282, 283, 296
_TILE_OFFSETS, _TILE_BYTES, _EXTRA, _INK_SET, _ICC = 324, 325, 338, 332, 34675

_TYPES = {1: "B", 2: "c", 3: "H", 4: "I", 5: "II", 6: "b", 8: "h", 9: "i", 10: "ii", 11: "f"}
_TYPES |= {12: "d", 13: "I", 16: "Q", 17: "q", 18: "Q"}
_COMPRESSIONS = {
    1: "none",
    2: "CCITT RLE",
    3: "CCITT G3",
    4: "CCITT G4",
    5: "LZW",
    6: "JPEG",
    7: "JPEG",
    8: "Deflate",
    32946: "Deflate",
    32773: "PackBits",
    34925: "LZMA",
    50000: "Zstandard",
    22610: "JPEG XR",
    33003: "JPEG 2000",
    33005: "JPEG 2000",
    34712: "JPEG 2000",
    34892: "JPEG",
    34934: "JPEG XR",
    50001: "WebP",
    50002: "JPEG XL",
}
_LOSSY = {6, 7, 22610, 33003, 33005, 34712, 34892, 34934, 50001, 50002}
"""Those that lose, or may: the header does not say which of these kept every figure."""
_INCH, _CENTIMETRE = 2, 3
_UNITS = {_INCH: DensityUnit.INCH, _CENTIMETRE: DensityUnit.CENTIMETRE}
_MOST_BITS, _MOST_SAMPLES = 64, 64
_MOST_VALUES, _MOST_STRIPS = 1_000, 4_000_000
_STRIP_TAGS = frozenset({_STRIP_OFFSETS, _STRIP_BYTES, _TILE_OFFSETS, _TILE_BYTES})
_WANTED = _STRIP_TAGS | {
    *(_WIDTH, _HEIGHT, _BITS, _COMPRESSION, _PHOTOMETRIC, _ORIENTATION, _SAMPLES),
    *(_X_DENSITY, _Y_DENSITY, _UNIT, _EXTRA, _INK_SET, _ICC),
}
"""The tags that are read; of any other not a byte."""

Values = Sequence[float]


@dataclass(frozen=True, slots=True)
class Directory:
    """One image file directory: tag numbers to their values, and where the next one lies."""

    tags: dict[int, Values]
    next_offset: int
    icc: bytes | None = None

    def number(self, tag: int, default: int) -> int:
        """The first value of a tag as a whole number."""
        values = self.tags.get(tag)
        return int(values[0]) if values and math.isfinite(values[0]) else default

    @property
    def density_ppi(self) -> tuple[float | None, float | None]:
        """The density tag, None without one or where its unit says that it is only a ratio."""
        unit = self.density_unit
        found = (self.tags.get(_X_DENSITY), self.tags.get(_Y_DENSITY))
        if unit is None or not all(values and 0 < values[0] < math.inf for values in found):
            return None, None
        x, y = (values[0] * unit.per_inch for values in found if values)
        return x, y

    @property
    def density_unit(self) -> DensityUnit | None:
        """What the density tag counts by, inches unless it says otherwise; None for a ratio."""
        return _UNITS.get(self.number(_UNIT, _INCH))


def exif_directory(block: bytes) -> Directory | None:
    """The first directory of an Exif block (after `Exif\\0\\0`), None where it is not valid."""
    exif = Image.Exif()
    try:
        exif.load(b"Exif\0\0" + block)
        found = {tag: exif.get(tag) for tag in (_X_DENSITY, _Y_DENSITY, _UNIT, _ORIENTATION)}
    except Exception:
        # Whatever Pillow raises on an untrusted block, the picture has none that counts.
        return None
    figures = {tag: _figure(value) for tag, value in found.items()}
    return Directory({tag: (one,) for tag, one in figures.items() if one is not None}, 0)


def _figure(value: Any) -> float | None:
    """A tag's value, None where it is no single figure, or a ratio to nothing."""
    try:
        figure = float(value)
    except (TypeError, ValueError, ZeroDivisionError):
        return None
    return figure if math.isfinite(figure) else None


def next_directory(source: HeaderSource, order: str, offset: int, is_big: bool) -> int:
    """Where the directory behind the one at `offset` lies, 0 for nowhere; no entry is read."""
    layout, entry_size = ("Q", 20) if is_big else ("H", 12)
    (count,) = source.unpack(order + layout, offset)
    end = offset + struct.calcsize(order + layout) + count * entry_size
    return source.unpack(order + ("Q" if is_big else "I"), end)[0]


def read_directory(source: HeaderSource, order: str, offset: int, is_big: bool) -> Directory:
    """The directory at `offset`, as far as its tags are of interest."""
    count_layout, entry_layout, entry_size = ("Q", "HHQ", 20) if is_big else ("H", "HHI", 12)
    (count,) = source.unpack(order + count_layout, offset)
    if count > 65_535:
        raise source.failure("its TIFF directory is invalid")
    base = offset + struct.calcsize(order + count_layout)
    found: dict[int, Values] = {}
    icc = None
    for index in range(count):
        at = base + index * entry_size
        tag, kind, number = source.unpack(order + entry_layout, at)
        if kind not in (*_TYPES, 7) or tag not in _WANTED or tag in found:
            continue
        size = number * (1 if kind == 7 else struct.calcsize("=" + _TYPES[kind]))
        value_at = at + (12 if is_big else 8)
        if size > (8 if is_big else 4):
            (value_at,) = source.unpack(order + ("Q" if is_big else "I"), value_at)
        most = _MOST_STRIPS if tag in _STRIP_TAGS else _MOST_VALUES
        if tag == _ICC:
            icc = icc or source.at(value_at, size)
        elif tag in _STRIP_TAGS and kind in _WHOLE and number <= most:
            found[tag] = _whole_numbers(source.at(value_at, size), order, kind)
        elif kind not in (2, 7) and 0 < number <= most:
            raw = struct.unpack(
                f"{order}{number * len(_TYPES[kind])}{_TYPES[kind][0]}", source.at(value_at, size)
            )
            found[tag] = _ratios(raw) if kind in (5, 10) else raw
    (following,) = source.unpack(order + ("Q" if is_big else "I"), base + count * entry_size)
    return Directory(found, following, icc)


_WHOLE = {1: "B", 3: "H", 4: "I", 13: "I", 16: "Q", 18: "Q"}


def _whole_numbers(data: bytes, order: str, kind: int) -> Values:
    """Many numbers without an object for each."""
    numbers = array(_WHOLE[kind], data)
    if (order == ">") != (sys.byteorder == "big"):
        numbers.byteswap()
    return numbers


def _ratios(raw: tuple[int, ...]) -> Values:
    pairs = zip(raw[::2], raw[1::2], strict=True)
    return tuple(top / bottom if bottom else 0.0 for top, bottom in pairs)


def _start(source: HeaderSource) -> tuple[str, bool, int]:
    """Byte order, whether it is a BigTIFF, and the offset of the first directory."""
    order = {b"II": "<", b"MM": ">"}.get(source.at(0, 2))
    if order is None:
        raise source.failure("its TIFF header is invalid")
    (magic,) = source.unpack(order + "H", 2)
    if magic == 43:
        return order, True, source.unpack(order + "Q", 8)[0]
    return order, False, source.unpack(order + "I", 4)[0]


def read_tiff(source: HeaderSource) -> Header:
    """Facts of a TIFF's first directory, and how many there are."""
    order, is_big, offset = _start(source)
    first = read_directory(source, order, offset, is_big)
    frames, seen, following = 1, {offset}, first.next_offset
    while following and following not in seen and frames < MAX_IFDS:
        seen.add(following)
        following = next_directory(source, order, following, is_big)
        frames += 1
    width, height = first.number(_WIDTH, 0), first.number(_HEIGHT, 0)
    if width < 1 or height < 1:
        raise source.failure("its TIFF header gives no size")
    _require_all_data(source, first)
    samples = first.number(_SAMPLES, 1)
    bits = first.number(_BITS, 1)
    if not 1 <= bits <= _MOST_BITS or not 1 <= samples <= _MOST_SAMPLES:
        raise source.failure(f"its header gives {samples} channels of {bits} bits")
    extra = first.tags.get(_EXTRA, ())
    compression = first.number(_COMPRESSION, 1)
    x, y = first.density_ppi
    return Header(
        format="tiff",
        stored_w=width,
        stored_h=height,
        colour=_colour(first.number(_PHOTOMETRIC, 1), bits, samples),
        bits=bits,
        channels=samples,
        alpha=any(kind in (1, 2) for kind in extra),
        lossy=compression in _LOSSY,
        compression=_COMPRESSIONS.get(compression, f"type {compression}"),
        density_x=x,
        density_y=y,
        density_unit=first.density_unit,
        icc=first.icc,
        frames=frames,
        orientation=first.number(_ORIENTATION, 1),
    )


def _colour(photometric: int, bits: int, samples: int) -> Colour:
    if photometric in (0, 1):
        return Colour.BILEVEL if bits == 1 and samples == 1 else Colour.GREY
    return {
        3: Colour.PALETTE,
        4: Colour.BILEVEL,
        5: Colour.CMYK,
        8: Colour.LAB,
        9: Colour.LAB,
        10: Colour.LAB,
    }.get(photometric, Colour.RGB)


def _require_all_data(source: HeaderSource, directory: Directory) -> None:
    for offsets_tag, bytes_tag in ((_STRIP_OFFSETS, _STRIP_BYTES), (_TILE_OFFSETS, _TILE_BYTES)):
        offsets = directory.tags.get(offsets_tag, ())
        lengths = directory.tags.get(bytes_tag, ())
        for offset, length in zip(offsets, lengths, strict=False):
            if offset + length > source.size_bytes:
                raise source.broken_off()
