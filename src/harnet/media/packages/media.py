"""The picture files inside a document: raster, vector, or something that is not read."""

import gzip
import hashlib
import io
import struct
from collections import defaultdict
from dataclasses import dataclass, field
from typing import Any

from harnet.core.documents.document import Repeated
from harnet.core.pictures.picture import Facts
from harnet.media.errors import UnreadableFile
from harnet.media.facts.read import facts_of_beginning, raster_facts_of
from harnet.media.facts.source import NeedsMore
from harnet.media.packages.archive import MOST_MEDIA_BYTES, PartStore, UnreadablePart

_RASTER = {"png", "jpg", "jpeg", "jpe", "jfif", "gif", "bmp", "dib", "tif", "tiff", "webp"}
_RARE = {"heic", "heif", "avif", "jp2", "j2k", "wdp", "jxr", "hdp", "pcx", "tga", "ico"}
_VECTOR = {"emf", "emz", "wmf", "wmz", "svg", "svgz", "eps", "pct", "pict"}
_ENDINGS = frozenset(_RASTER | _RARE | _VECTOR)
_EMF_BITMAP = frozenset({76, 77, 78, 79, 80, 81, 94, 114, 116})
"""Records of an enhanced metafile that hold a bitmap (from memory)."""
_MOST_RECORDS = 200_000
_BEGINNINGS = (1 << 13, 1 << 18)
"""Most headers end before the first, all but those with huge profiles before the second; larger
files are not unpacked to their ends."""


@dataclass(frozen=True, slots=True, kw_only=True)
class MediaFile:
    """A picture file: `facts` of a raster one; `vector` names the format of a vector one.

    `holds_pixels` says that a vector file has raster data in it. `failure` says why it is neither.
    """

    part: str
    size_bytes: int
    facts: Facts | None = None
    vector: str = ""
    holds_pixels: bool = False
    failure: str = ""

    @property
    def px(self) -> tuple[int, int]:
        """Pixels across and down as they are stored, whatever way up they are to be shown."""
        if self.facts is None or self.facts.px_w is None or self.facts.px_h is None:
            return 0, 0
        size = self.facts.px_w, self.facts.px_h
        return (size[1], size[0]) if self.facts.orientation > 4 else size

    @property
    def upright_px(self) -> tuple[int, int]:
        """Pixels as browsers show them, turned by the orientation tag."""
        width, height = self.px
        is_turned = self.facts is not None and self.facts.orientation > 4
        return (height, width) if is_turned else (width, height)

    @property
    def tag_ppi(self) -> tuple[float, float] | None:
        """The density tag across and down, as it is stored."""
        if self.facts is None or self.facts.density_x is None or self.facts.density_y is None:
            return None
        tags = self.facts.density_x, self.facts.density_y
        return (tags[1], tags[0]) if self.facts.orientation > 4 else tags


def looks_like_picture(part: str) -> bool:
    """Whether a part's name has the ending of a picture file."""
    return part.rpartition(".")[2].lower() in _ENDINGS


def media_of(data: bytes, part: str) -> MediaFile:
    """What a picture file is, told by its content."""
    size = len(data)
    if data[:2] == b"\x1f\x8b":
        try:
            data = gzip.GzipFile(fileobj=io.BytesIO(data)).read(MOST_MEDIA_BYTES)
        except (OSError, EOFError):
            return MediaFile(part=part, size_bytes=size, failure="it is damaged")
    vector = _vector_format(data)
    if vector:
        holds = vector == "emf" and _has_bitmap(data)
        holds = holds or (vector == "svg" and b"<image" in data)
        return MediaFile(part=part, size_bytes=size, vector=vector, holds_pixels=holds)
    try:
        facts = raster_facts_of(data, part)
    except UnreadableFile as error:
        return MediaFile(part=part, size_bytes=size, failure=error.reason)
    if facts is None:
        return MediaFile(
            part=part, size_bytes=size, failure="it is in a format that Harnet does not read"
        )
    return MediaFile(part=part, size_bytes=size, facts=facts)


def _vector_format(data: bytes) -> str:
    if data[:4] == b"\1\0\0\0" and data[40:44] == b" EMF":
        return "emf"
    if data[:4] == b"\xd7\xcd\xc6\x9a" or data[:6] in (b"\1\0\x09\0\0\3", b"\1\0\x09\0\0\1"):
        return "wmf"
    if data[:6] == b"VCLMTF":
        return "svm"
    if data[:5] == b"%PDF-":
        return "pdf"
    if data[:4] in (b"%!PS", b"\xc5\xd0\xd3\xc6"):
        return "eps"
    start = data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    return "svg" if start.startswith(b"<") and b"<svg" in data[:65536] else ""


def _has_bitmap(data: bytes) -> bool:
    """Whether an enhanced metafile paints a bitmap: records are a type, a length and the rest."""
    at = 0
    for _ in range(_MOST_RECORDS):
        if at + 8 > len(data):
            return False
        kind, length = struct.unpack_from("<II", data, at)
        if kind in _EMF_BITMAP and length > 100:
            return True
        if length < 8:
            return False
        at += length
    return False


@dataclass(slots=True)
class MediaStore:
    """The picture files of a package, each looked at once."""

    package: PartStore
    used: set[str] = field(default_factory=set)
    edited: set[str] = field(default_factory=set)
    _known: dict[str, MediaFile] = field(default_factory=dict)

    def file(self, part: str) -> MediaFile:
        """What a part is; it counts as used."""
        self.used.add(part)
        return self.look_at(part)

    def look_at(self, part: str) -> MediaFile:
        """What a part is."""
        if part not in self._known:
            try:
                self._known[part] = self._looked_at(part)
            except UnreadablePart as error:
                self._known[part] = MediaFile(part=part, size_bytes=0, failure=str(error))
        return self._known[part]

    def _looked_at(self, part: str) -> MediaFile:
        """What a part is: the beginning of a large one is enough for most."""
        size = self.package.unpacked_size_of(part)
        for length in _BEGINNINGS:
            if not length < size <= MOST_MEDIA_BYTES:
                break
            try:
                data = self.package.beginning(part, length)
                facts = facts_of_beginning(data, part, size)
                return MediaFile(part=part, size_bytes=size, facts=facts)
            except UnreadableFile as error:
                return MediaFile(part=part, size_bytes=size, failure=error.reason)
            except NeedsMore:
                continue
        return media_of(self.package.read(part, MOST_MEDIA_BYTES), part)

    def repeated_values(self) -> list[dict[str, Any]]:
        """Picture files with the same bytes, as JSON keeps them."""
        found = self.repeated()
        return [{"parts": list(one.parts), "size_bytes": one.size_bytes} for one in found]

    def repeated(self) -> list[Repeated]:
        """Picture files with the same bytes; sizes and checksums tell which to compare."""
        alike: dict[tuple[int, int], list[str]] = defaultdict(list)
        for part in self.package.names:
            if looks_like_picture(part) or part in self.used:
                alike[self.package.fingerprint(part)].append(part)
        found = []
        for parts in alike.values():
            if len(parts) > 1:
                found += self._same(parts)
        return found

    def _same(self, parts: list[str]) -> list[Repeated]:
        by_hash: dict[bytes, list[str]] = defaultdict(list)
        for part in parts:
            try:
                data = self.package.read(part, MOST_MEDIA_BYTES)
            except UnreadablePart:
                continue
            by_hash[hashlib.sha256(data).digest()].append(part)
        return [
            Repeated(parts=tuple(one), size_bytes=self.package.unpacked_size_of(one[0]))
            for one in by_hash.values()
            if len(one) > 1
        ]
