"""The name of an ICC profile (ICC.1:2022, clauses 7.2, 7.3 and 10, from memory)."""

import struct

_UNNAMED = "unnamed profile"
_MOST_BYTES = 100_000


def profile_name(profile: bytes | None) -> str | None:
    """The profile's description, or None where there is no usable profile.

    >>> profile_name(b"") is None
    True
    """
    if not profile or len(profile) < 132 or profile[36:40] != b"acsp":
        return None
    (count,) = struct.unpack(">I", profile[128:132])
    for index in range(min(count, 200)):
        entry = profile[132 + 12 * index : 144 + 12 * index]
        if len(entry) < 12:
            break
        signature, offset, size = struct.unpack(">4sII", entry)
        if signature == b"desc":
            return _text(profile[offset : offset + min(size, _MOST_BYTES)]) or _UNNAMED
    return _UNNAMED


def _text(tag: bytes) -> str:
    if tag[:4] == b"desc" and len(tag) >= 12:
        (length,) = struct.unpack(">I", tag[8:12])
        return tag[12 : 12 + length].split(b"\0")[0].decode("latin-1").strip()
    if tag[:4] == b"mluc" and len(tag) >= 28:
        length, offset = struct.unpack(">II", tag[20:28])
        return tag[offset : offset + length].decode("utf-16-be", "replace").strip("\0 ")
    return ""
