"""Bytes by their content: written whole or not at all, never changed."""

import hashlib
import os
import re
import shutil
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import IO, Any, BinaryIO
from uuid import uuid4

import fsspec
from botocore.exceptions import BotoCoreError, ClientError
from fsspec.implementations.local import LocalFileSystem
from fsspec.spec import AbstractFileSystem

_BLOCK = 1 << 20


_HASH = re.compile(r"[0-9a-f]{64}")


def moment_of(about: dict[str, Any]) -> float:
    """When something was written, as its file system tells; now where it does not tell."""
    modified = about.get("mtime", about.get("LastModified", about.get("created")))
    if isinstance(modified, datetime):
        return modified.timestamp()
    return float(modified) if modified is not None else time.time()


def sha256_of(path: Path) -> str:
    """The content hash of a file, read in blocks."""
    digest = hashlib.sha256()
    with path.open("rb") as file:
        while block := file.read(_BLOCK):
            digest.update(block)
    return digest.hexdigest()


class StoreAway(OSError):
    """The store does not answer, or did not keep what it was sent; try again later."""


@contextmanager
def asked() -> Iterator[None]:
    """Says of a bucket that cannot be reached that it is away; a file that is not there is not.

    Raises:
        StoreAway: it cannot be reached, or refuses.
        FileNotFoundError: there is no such file.
    """
    try:
        yield
    except FileNotFoundError:
        raise
    except (BotoCoreError, ClientError, PermissionError, TimeoutError, ConnectionError) as error:
        raise StoreAway(f"the store does not answer: {type(error).__name__}") from error


def opened(url: str, endpoint: str) -> tuple[AbstractFileSystem, str]:
    """The file system behind a URL and the place on it; `endpoint` is where buckets are served."""
    options: dict[str, Any] = {}
    if url.startswith("s3://"):
        # Others write, too: what a listing said a moment ago may be otherwise now.
        options["use_listings_cache"] = False
        if endpoint:
            options["endpoint_url"] = endpoint
    files, root = fsspec.core.url_to_fs(url, **options)
    return files, str(root)


class BlobStore:
    """A content-addressed store on any fsspec file system; by default a local folder."""

    def __init__(self, url: str, endpoint: str = "") -> None:
        """`url` is a folder, or a bucket such as `s3://harnet/store`.

        `endpoint` is where a bucket is served, if not by the usual service.
        """
        self.endpoint = endpoint
        self._files, self._root = opened(url, endpoint)
        self._is_local = isinstance(self._files, LocalFileSystem)
        if self._is_local:
            self._files.makedirs(self._root, exist_ok=True)

    def _place(self, sha256: str) -> str:
        return f"{self._root}/{sha256[:2]}/{sha256}"

    def put_file(self, path: Path) -> str:
        """Keeps a file's bytes; returns their SHA-256."""
        sha256 = sha256_of(path)
        self._put(path, self._place(sha256))
        return sha256

    def open(self, sha256: str) -> BinaryIO:
        """The bytes with this hash, open for reading at any place.

        Raises:
            FileNotFoundError: nothing of that hash is kept.
        """
        with asked():
            return self._files.open(self._place(sha256), "rb")  # type: ignore[no-any-return]

    def copy_to(self, sha256: str, path: Path) -> None:
        """Writes the bytes with this hash into a file.

        Raises:
            FileNotFoundError: nothing of that hash is kept.
        """
        with self.open(sha256) as source, path.open("wb") as target:
            shutil.copyfileobj(source, target, _BLOCK)

    def delete(self, sha256: str) -> None:
        """Lets the bytes with this hash go; nothing happens where there are none."""
        with asked():
            if self._files.exists(self._place(sha256)):
                self._files.rm_file(self._place(sha256))

    def now(self) -> float:
        """This moment by the clock that dates what is kept, in seconds of the epoch.

        A bucket's is not this machine's.
        """
        if self._is_local:
            return time.time()
        place = f"{self._root}/clock-{uuid4().hex}"
        with asked():
            self._files.pipe_file(place, b"")
            moment = moment_of(self._files.info(place))
            self._files.rm_file(place)
        return moment

    def older_than(self, moment: float) -> Iterator[tuple[str, int]]:
        """Bytes that were kept before a moment, in seconds of the epoch: hash and size."""
        for place, about in self._files.find(self._root, detail=True).items():
            name = place.rpartition("/")[2]
            is_content = "/previews/" not in place and _HASH.fullmatch(name) is not None
            if is_content and moment_of(about) < moment:
                yield name, int(about["size"])

    def put_preview(self, name: str, path: Path) -> None:
        """Keeps a preview under its own name; it can be made again at any time."""
        self._put(path, self._preview_place(name))

    def open_preview(self, name: str) -> BinaryIO:
        """A kept preview.

        Raises:
            FileNotFoundError: no such preview.
        """
        with asked():
            return self._files.open(self._preview_place(name), "rb")  # type: ignore[no-any-return]

    def file(self, sha256: str, cache_folder: Path) -> Path | None:
        """The bytes with this hash as a file to read from, None where nothing is kept."""
        return self._local(self._place(sha256), cache_folder / f"blob-{sha256}")

    def preview_file(self, name: str, cache_folder: Path) -> Path | None:
        """A kept preview as a file to read from, None where there is none."""
        return self._local(self._preview_place(name), cache_folder / f"preview-{name}")

    def previews_bytes(self) -> int | None:
        """How much room the previews take; None in a bucket, where counting them costs much."""
        if not self._is_local:
            return None
        return _bytes_below(f"{self._root}/previews")

    def clear_previews(self) -> None:
        """Throws every preview away; each can be made again."""
        root = f"{self._root}/previews"
        with asked():
            if self._files.exists(root):
                self._files.rm(root, recursive=True)

    def _local(self, place: str, copy: Path) -> Path | None:
        """A kept thing as a local file; a store on another machine is copied from once."""
        if self._is_local:
            path = Path(place)
            return path if path.exists() else None
        if copy.exists():
            # Young again, so that no sweep takes it from under whoever reads it.
            os.utime(copy)
            return copy
        with asked():
            if not self._files.exists(place):
                return None
            part = copy.with_suffix(f".{uuid4().hex}.part")
            self._files.get_file(place, str(part))
            part.replace(copy)
        return copy

    def _preview_place(self, name: str) -> str:
        return f"{self._root}/previews/{name[:2]}/{name}"

    def _put(self, path: Path, place: str) -> None:
        if not self._is_local:
            self._upload(path, place)
            return
        if self._files.exists(place):
            # Young again, so that no sweep takes it from under a row.
            os.utime(place)
            return
        self._files.makedirs(place.rpartition("/")[0], exist_ok=True)
        # Of its own: two threads may keep the same bytes at the same time.
        part = f"{place}.{uuid4().hex}.part"
        try:
            with path.open("rb") as source, self._files.open(part, "wb") as target:
                shutil.copyfileobj(source, target, _BLOCK)
                _sync(target)
            self._files.mv(part, place)
        except BaseException:
            if self._files.exists(part):
                self._files.rm(part)
            raise

    def _upload(self, path: Path, place: str) -> None:
        """Puts a file into a bucket, whole or not at all; the same again makes it young again.

        Raises:
            StoreAway: it does not answer, or has it not as it was sent.
        """
        sent = path.stat().st_size
        with asked():
            self._files.put_file(str(path), place)
            kept = self._files.info(place)["size"] if self._files.exists(place) else None
        if kept != sent:
            raise StoreAway(f"the store has {kept} bytes of {place}, not the {sent} that were sent")


def _bytes_below(folder: str) -> int:
    """How much the files of a folder take; what goes while they are counted is not counted."""
    total, folders = 0, [folder]
    while folders:
        try:
            with os.scandir(folders.pop()) as found:
                for one in found:
                    if one.is_dir(follow_symlinks=False):
                        folders.append(one.path)
                    else:
                        with suppress(FileNotFoundError):
                            total += one.stat(follow_symlinks=False).st_size
        except FileNotFoundError:
            continue
    return total


def _sync(file: BinaryIO) -> None:
    """Forces bytes to disk where the file system has one."""
    file.flush()
    try:
        os.fsync(file.fileno())
    except (OSError, AttributeError):
        return


IN_STORE = "store:"
"""The folder of a shelf whose files lie in the store, by their content."""
FILES = "stored files"
"""Where a session has the store, for the files of such shelves."""


@dataclass(frozen=True, slots=True)
class StoredFiles:
    """The store as files on this machine: `cache_folder` holds what was fetched of a bucket."""

    blobs: BlobStore
    cache_folder: Path

    def file(self, sha256: str) -> Path:
        """The file with these bytes; a path where nothing lies if the store has none."""
        return self.blobs.file(sha256, self.cache_folder) or self.cache_folder / f"gone-{sha256}"


def write_whole(source: IO[bytes], folder: Path, most_bytes: int) -> Path:
    """A temporary file in `folder` with all of `source`, forced to disk.

    Raises:
        OverflowError: more than `most_bytes`; nothing stays behind.
    """
    handle, name = tempfile.mkstemp(prefix=".", suffix=".part", dir=folder)
    path = Path(name)
    written = 0
    try:
        with os.fdopen(handle, "wb") as file:
            while block := source.read(_BLOCK):
                written += len(block)
                if written > most_bytes:
                    raise OverflowError(written)
                file.write(block)
            _sync(file)
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    return path
