"""CCITT fax data of a PDF as a TIFF, byte for byte (TIFF 6.0, sections 10 and 11, from memory)."""

import struct
from collections.abc import Mapping
from typing import Any

_SHORT, _LONG, _RATIONAL = 3, 4, 5
_GROUP_3, _GROUP_4 = 3, 4
_WHITE_IS_ZERO, _BLACK_IS_ZERO = 0, 1


def is_plain_ccitt(parms: Mapping[str, Any]) -> bool:
    """Whether TIFF can say the same: rows that begin anywhere, and no end of line of its own."""
    return not parms.get("/EncodedByteAlign", False)


def tiff_of_ccitt(
    data: bytes,
    size: tuple[int, int],
    parms: Mapping[str, Any],
    *,
    density_ppi: tuple[float, float] | None = None,
    is_turned: bool = False,
) -> bytes:
    """The same data in a TIFF; `size` in pixels, `is_turned` where `Decode` turns black to white.

    `parms` are those of `CCITTFaxDecode` (ISO 32000-2, table 11).
    """
    k = int(parms.get("/K", 0))
    turned = bool(parms.get("/BlackIs1", False)) != is_turned
    width = int(parms.get("/Columns", 1728))
    entries: list[tuple[int, int, list[int]]] = [
        (256, _LONG, [width]),
        (257, _LONG, [size[1]]),
        (258, _SHORT, [1]),
        (259, _SHORT, [_GROUP_4 if k < 0 else _GROUP_3]),
        (262, _SHORT, [_BLACK_IS_ZERO if turned else _WHITE_IS_ZERO]),
        (277, _SHORT, [1]),
        (278, _LONG, [size[1]]),
    ]
    if k >= 0:
        entries.append((292, _LONG, [1 if k > 0 else 0]))
    across, down = (round(one * 1000) for one in density_ppi or (72, 72))
    entries += [
        (282, _RATIONAL, [across, 1000]),
        (283, _RATIONAL, [down, 1000]),
        (296, _SHORT, [2]),
    ]
    count = len(entries) + 2
    values_at = 8 + 2 + 12 * count + 4
    rationals = sum(kind == _RATIONAL for _, kind, _ in entries)
    data_at = values_at + 8 * rationals
    entries += [(273, _LONG, [data_at]), (279, _LONG, [len(data)])]
    directory, beyond = b"", b""
    for tag, kind, values in sorted(entries):
        if kind == _RATIONAL:
            field = struct.pack("<HHII", tag, kind, 1, values_at + len(beyond))
            beyond += struct.pack("<II", *values)
        elif kind == _SHORT:
            field = struct.pack("<HHIHH", tag, kind, 1, values[0], 0)
        else:
            field = struct.pack("<HHII", tag, kind, 1, values[0])
        directory += field
    header = struct.pack("<2sHI", b"II", 42, 8) + struct.pack("<H", count)
    return header + directory + struct.pack("<I", 0) + beyond + data
