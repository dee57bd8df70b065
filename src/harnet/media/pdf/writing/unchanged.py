"""Whether files are still those that were judged, found out beside the work on them."""

from collections import deque
from collections.abc import Callable, Iterable
from concurrent.futures import Future, ThreadPoolExecutor, wait
from hashlib import file_digest, sha256
from types import TracebackType

from harnet.media.errors import ChangedFile
from harnet.media.pagedrawing.plan import AnyPicture

_MOST_WAITING_BYTES = 64_000_000


class Unchanged:
    """The files of pictures, hashed beside the work on them.

    A picture without a file, or without a hash to compare with, counts as unchanged.
    """

    def __init__(self, parts: Iterable[AnyPicture]) -> None:
        """Begins with the files of `parts`, one after the other."""
        self._pool = ThreadPoolExecutor(1)
        self._looking: dict[str, Future[None]] = {}
        self._waiting: deque[tuple[Future[None], int]] = deque()
        self._waiting_bytes = 0
        for part in parts:
            if part.path is not None:
                self._submit(part, require_same, part)

    def __enter__(self) -> "Unchanged":
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self._pool.shutdown(cancel_futures=True)

    def look_at(self, part: AnyPicture, data: bytes) -> None:
        """Hashes the bytes of a picture's file that were read; `changed` says what came of it."""
        future = self._submit(part, _require_hash, part, data)
        if future is None:
            return
        # What waits is held in memory.
        self._waiting.append((future, len(data)))
        self._waiting_bytes += len(data)
        while self._waiting and (
            self._waiting[0][0].done() or self._waiting_bytes > _MOST_WAITING_BYTES
        ):
            first, size = self._waiting.popleft()
            wait([first])
            self._waiting_bytes -= size

    def require(self, part: AnyPicture) -> None:
        """Waits until it is known.

        Raises:
            ChangedFile: it is not what was judged, or it is gone.
        """
        if part.path is not None:
            self._submit(part, require_same, part)
        if part.sha256 in self._looking:
            self._looking[part.sha256].result()

    def changed(self) -> set[str]:
        """The hashes of pictures whose files are others by now; waits until all is known."""
        wait(self._looking.values())
        return {sha256 for sha256, one in self._looking.items() if one.exception() is not None}

    def _submit(
        self, part: AnyPicture, look: Callable[..., None], *given: object
    ) -> Future[None] | None:
        if not part.sha256 or part.sha256 in self._looking:
            return None
        future = self._looking[part.sha256] = self._pool.submit(look, *given)
        return future


def _require_hash(part: AnyPicture, data: bytes) -> None:
    if sha256(data).hexdigest() != part.sha256:
        raise ChangedFile(part.name)


def require_same(part: AnyPicture) -> None:
    """Makes sure that the bytes which are printed are those that were judged.

    Raises:
        ChangedFile: they are not, or the file is gone.
    """
    assert part.path is not None
    try:
        with part.path.open("rb") as file:
            found = file_digest(file, "sha256").hexdigest()
    except OSError:
        raise ChangedFile(part.name) from None
    if found != part.sha256:
        raise ChangedFile(part.name)
