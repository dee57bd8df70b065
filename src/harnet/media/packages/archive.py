"""A ZIP package that anyone may have sent: its parts by name, nothing unpacked beyond bounds."""

import posixpath
import zipfile
import zlib
from collections.abc import Iterator
from pathlib import Path
from types import TracebackType
from typing import Protocol
from urllib.parse import unquote

from harnet.media.errors import UnreadableFile

MOST_PARTS = 50_000
MOST_XML_BYTES, MOST_MEDIA_BYTES, MOST_READ_BYTES = 64_000_000, 300_000_000, 3_000_000_000
"""Of one XML part, of one picture, and of all that is unpacked from one document."""
FETCH_AGAIN = "Save it again, or download it again"
_WORN = (zipfile.BadZipFile, zlib.error, EOFError, OSError, NotImplementedError, ValueError)
_IS_ENCRYPTED = 0x1


class UnreadablePart(Exception):
    """A part that is missing, damaged, or larger than it may be; the words say which."""


class PartStore(Protocol):
    """Parts by name, whatever holds them."""

    @property
    def names(self) -> list[str]:
        """The names of all parts."""

    def read(self, part: str, most_bytes: int = MOST_XML_BYTES) -> bytes:
        """A part's bytes."""

    def beginning(self, part: str, length: int) -> bytes:
        """Up to `length` of a part's first bytes."""

    def unpacked_size_of(self, part: str) -> int:
        """A part's bytes once unpacked."""

    def fingerprint(self, part: str) -> tuple[int, int]:
        """What two parts with the same bytes have in common."""


class PartsInMemory:
    """Pictures that stand in the text of a document, by names that are made up for them."""

    def __init__(self) -> None:
        self._parts: dict[str, bytes] = {}

    def put(self, part: str, data: bytes) -> str:
        """Keeps a picture's bytes under a name."""
        self._parts[part] = data
        return part

    @property
    def names(self) -> list[str]:
        """The names of all pictures."""
        return list(self._parts)

    def read(self, part: str, most_bytes: int = MOST_XML_BYTES) -> bytes:
        """A picture's bytes.

        Raises:
            UnreadablePart: there is none of that name.
        """
        if part not in self._parts:
            raise UnreadablePart(f"{part} is missing")
        return self._parts[part]

    def beginning(self, part: str, length: int) -> bytes:
        """Up to `length` of a picture's first bytes."""
        return self.read(part)[:length]

    def unpacked_size_of(self, part: str) -> int:
        """How many bytes a picture has; 0 where there is none."""
        return len(self._parts.get(part, b""))

    def fingerprint(self, part: str) -> tuple[int, int]:
        """Length and checksum."""
        data = self._parts[part]
        return len(data), zlib.crc32(data)


class Package:
    """An open package; parts are known by their names, without a leading slash.

    Raises:
        UnreadableFile: no ZIP file, incomplete, with too many parts, or with parts that overlap.
    """

    def __init__(self, path: Path, name: str) -> None:
        self.name = name
        try:
            self._zip = zipfile.ZipFile(path)
        except _WORN:
            raise UnreadableFile(
                name, "the file is incomplete or damaged: its list of parts is missing", FETCH_AGAIN
            ) from None
        infos = self._zip.infolist()
        if len(infos) > MOST_PARTS:
            self._zip.close()
            raise UnreadableFile(
                name, f"it holds {len(infos)} parts; the limit is {MOST_PARTS}", "Split it"
            )
        self._require_apart(infos)
        self._infos = {info.filename.lstrip("/"): info for info in infos if not info.is_dir()}
        self._by_lower = {one.lower(): one for one in self._infos}
        self._read_bytes = 0
        self._inline = PartsInMemory()

    def put(self, data: bytes) -> str:
        """Keeps a picture that stands in the text of a part; its name is made up."""
        return self._inline.put(f"inline picture {len(self._inline.names) + 1}", data)

    def _require_apart(self, infos: list[zipfile.ZipInfo]) -> None:
        """Parts that lie on each other are how a small file unpacks to a huge one.

        Raises:
            UnreadableFile: some do.
        """
        end = -1
        for info in sorted(infos, key=lambda one: one.header_offset):
            if info.header_offset < end:
                self._zip.close()
                raise UnreadableFile(
                    self.name, "its parts overlap, as no program writes them", FETCH_AGAIN
                )
            end = info.header_offset + info.compress_size

    def __enter__(self) -> "Package":
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self._zip.close()

    @property
    def names(self) -> list[str]:
        """The names of all parts, in the order of the package."""
        return list(self._infos)

    def found(self, part: str) -> str | None:
        """A part's name as the package spells it (ISO/IEC 29500-2: names ignore case)."""
        if part in self._infos:
            return part
        return self._by_lower.get(part.lower())

    def resolved(self, base: str, target: str) -> str | None:
        """The part that an address inside another part means; None where there is none.

        Addresses that climb out of the package end at its root.
        """
        target = target.split("#", 1)[0].split("?", 1)[0].replace("\\", "/")
        for spelled in (target, unquote(target)):
            joined = posixpath.join("/", posixpath.dirname(base), spelled)
            found = self.found(posixpath.normpath(joined).lstrip("/"))
            if found is not None:
                return found
        return None

    def size_of(self, part: str) -> int:
        """A part's bytes in the package, packed as they are."""
        return self._infos[part].compress_size

    def unpacked_size_of(self, part: str) -> int:
        """A part's bytes once unpacked, as the package states them; 0 where it has none."""
        info = self._infos.get(part)
        return info.file_size if info is not None else 0

    def fingerprint(self, part: str) -> tuple[int, int]:
        """What two parts with the same bytes have in common."""
        info = self._infos[part]
        return info.file_size, info.CRC

    def read(self, part: str, most_bytes: int = MOST_XML_BYTES) -> bytes:
        """A part's bytes.

        Raises:
            UnreadablePart: it is missing, damaged, encrypted, or larger than it may be.
        """
        info = self._infos.get(part)
        if info is None and part in self._inline.names:
            return self._inline.read(part)
        if info is None:
            raise UnreadablePart(f"{part} is missing")
        if info.flag_bits & _IS_ENCRYPTED:
            raise UnreadablePart(f"{part} is encrypted")
        self._read_bytes += info.file_size
        if info.file_size > most_bytes or self._read_bytes > MOST_READ_BYTES:
            raise UnreadablePart(f"{part} unpacks to {info.file_size // 1_000_000} MB")
        try:
            return self._zip.read(info)
        except RuntimeError:
            raise UnreadablePart(f"{part} is encrypted") from None
        except _WORN:
            raise UnreadablePart(f"{part} is damaged") from None

    def beginning(self, part: str, length: int) -> bytes:
        """Up to `length` of a part's first bytes; the rest is not unpacked.

        Raises:
            UnreadablePart: it is missing, damaged or encrypted.
        """
        info = self._infos.get(part)
        if info is None or info.file_size <= length or info.flag_bits & _IS_ENCRYPTED:
            return self.read(part, length)
        try:
            with self._zip.open(info) as file:
                return file.read(length)
        except _WORN:
            raise UnreadablePart(f"{part} is damaged") from None

    def below(self, folder: str) -> Iterator[str]:
        """The parts whose names begin with a folder's."""
        return (one for one in self._infos if one.startswith(folder))
