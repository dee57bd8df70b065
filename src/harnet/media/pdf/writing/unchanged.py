"""Whether files are still those that were judged, found out beside the work on them."""

from collections.abc import Iterable
from concurrent.futures import Future, ThreadPoolExecutor
from hashlib import file_digest
from types import TracebackType

from harnet.media.errors import ChangedFile
from harnet.media.pagedrawing.plan import AnyPicture


class Unchanged:
    """The files of pictures, hashed one after the other while the first ones are at work already.

    A picture without a file, or without a hash to compare with, counts as unchanged.
    """

    def __init__(self, parts: Iterable[AnyPicture]) -> None:
        self._pool = ThreadPoolExecutor(1)
        self._looking: dict[str, Future[None]] = {}
        for part in parts:
            if part.sha256 and part.path is not None and part.sha256 not in self._looking:
                self._looking[part.sha256] = self._pool.submit(require_same, part)

    def __enter__(self) -> "Unchanged":
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self._pool.shutdown(cancel_futures=True)

    def require(self, part: AnyPicture) -> None:
        """Waits until it is known.

        Raises:
            ChangedFile: it is not what was judged, or it is gone.
        """
        if part.sha256 in self._looking:
            self._looking[part.sha256].result()


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
