"""A folder of a bucket that others fill: what lies in it, and its files one by one. Only read."""

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from harnet.store.blobs import asked, moment_of, opened

BUCKET = "s3://"
_NS = 10**9


def is_bucket(folder: str) -> bool:
    """Whether the folder of a shelf is one of a bucket."""
    return folder.startswith(BUCKET)


@dataclass(frozen=True, slots=True)
class LyingFile:
    """A file as a bucket lists it; `name` begins below the folder."""

    name: str
    size_bytes: int
    modified_ns: int


class BucketFolder:
    """A folder of a bucket by its URL, such as `s3://studio/photographs`."""

    def __init__(self, url: str, endpoint: str = "") -> None:
        """`endpoint` is where the bucket is served, if not by the usual service."""
        self._files, root = opened(url, endpoint)
        self._root = root.rstrip("/")

    def lying(self, deepest: int) -> Iterator[LyingFile]:
        """What lies in it and in the folders inside, hidden ones left out.

        Raises:
            StoreAway: the bucket does not answer, or refuses.
            FileNotFoundError: there is no such bucket.
        """
        with asked():
            found = self._files.find(self._root, detail=True)
            if not found and not self._files.exists(self._root.partition("/")[0]):
                raise FileNotFoundError(self._root)
        for place in sorted(found):
            name = place[len(self._root) + 1 :]
            parts = name.split("/")
            is_hidden = any(part.startswith(".") or not part for part in parts)
            if found[place]["type"] == "file" and not is_hidden and len(parts) <= deepest + 1:
                about = found[place]
                yield LyingFile(name, int(about["size"]), round(moment_of(about) * _NS))

    def fetch(self, name: str, path: Path) -> None:
        """Writes one of its files into a file of this machine.

        Raises:
            StoreAway: the bucket does not answer, or refuses.
            FileNotFoundError: it went in the meantime.
        """
        with asked():
            self._files.get_file(f"{self._root}/{name}", str(path))
