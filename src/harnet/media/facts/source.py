"""Reading a file's header piece by piece, with bounds checked before every read."""

import io
import struct
from pathlib import Path
from types import TracebackType
from typing import IO

from harnet.media.beginning import FETCH_AGAIN
from harnet.media.errors import UnreadableFile

BREAKS_OFF = "the file is incomplete"
MOST_READS, MOST_BYTES = 200_000, 100_000_000
"""What reading one header may take; the largest real ones, with their profiles, take a tenth."""


class HeaderSource:
    """A file opened for reading at offsets; nothing is decoded and little is read."""

    def __init__(self, path: Path, name: str | None = None) -> None:
        self.name = name or path.name
        self._file: IO[bytes]
        try:
            self._file = path.open("rb")
            self.size_bytes = path.stat().st_size
        except OSError as error:
            reason = (error.strerror or str(error)).lower()
            raise UnreadableFile(self.name, f"the file cannot be opened ({reason})") from None

    @classmethod
    def of_bytes(cls, data: bytes, name: str) -> "HeaderSource":
        """A file that is in memory."""
        source = cls.__new__(cls)
        source.name, source.size_bytes, source._file = name, len(data), io.BytesIO(data)
        return source

    def __enter__(self) -> "HeaderSource":
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self._file.close()

    def start(self, length: int) -> bytes:
        """Up to `length` bytes from the beginning."""
        self._file.seek(0)
        return self._file.read(length)

    reads = taken = 0
    """How many pieces, and how many bytes, were read so far."""

    def at(self, offset: int, length: int) -> bytes:
        """Exactly `length` bytes at `offset`.

        Raises:
            UnreadableFile: the file is shorter than that, or its header asks for more than any
                header needs.
        """
        self.reads += 1
        self.taken += max(0, length)
        if self.reads > MOST_READS or self.taken > MOST_BYTES:
            raise self.failure("its header is larger than any picture's", FETCH_AGAIN)
        if offset < 0 or length < 0 or offset + length > self.size_bytes:
            raise self.broken_off()
        self._file.seek(offset)
        data = self._file.read(length)
        if len(data) != length:
            raise self.broken_off()
        return data

    def unpack(self, layout: str, offset: int) -> tuple[int, ...]:
        """Numbers at `offset` by a `struct` layout."""
        return struct.unpack(layout, self.at(offset, struct.calcsize(layout)))

    def last_index_of(self, mark: bytes, from_offset: int) -> int:
        """Where `mark` stands last at or after `from_offset`, −1 if nowhere."""
        # What ends a file mostly stands at its very end.
        block = 1 << 12
        end = self.size_bytes
        while end > from_offset:
            begin = max(from_offset, end - block)
            self._file.seek(begin)
            found = self._file.read(min(end + len(mark) - 1, self.size_bytes) - begin).rfind(mark)
            if found >= 0:
                return begin + found
            end, block = begin, 1 << 20
        return -1

    def failure(self, what: str, advice: str = "") -> UnreadableFile:
        """An error about this file."""
        return UnreadableFile(self.name, what, advice)

    def broken_off(self) -> UnreadableFile:
        """The error for a file that ends too early."""
        return self.failure(BREAKS_OFF, FETCH_AGAIN)


class NeedsMore(Exception):
    """A header reaches beyond the beginning of its file that was read so far."""


class Beginning(HeaderSource):
    """The beginning of a file whose rest is not read; nobody looks for its end."""

    @classmethod
    def of_size(cls, data: bytes, name: str, size_bytes: int) -> "Beginning":
        """The first bytes of a file of a size."""
        source = cls.__new__(cls)
        source.name, source.size_bytes, source._file = name, size_bytes, io.BytesIO(data)
        source._read_bytes = len(data)
        return source

    _read_bytes = 0

    def at(self, offset: int, length: int) -> bytes:
        """Exactly `length` bytes at `offset`.

        Raises:
            NeedsMore: they are beyond what was read.
        """
        if offset + length > self._read_bytes:
            raise NeedsMore
        return super().at(offset, length)

    def last_index_of(self, mark: bytes, from_offset: int) -> int:
        """That it stands somewhere is taken for granted."""
        return from_offset
