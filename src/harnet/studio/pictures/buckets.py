"""Shelves on a folder of a bucket: what comes and changes there is fetched into the store."""

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.core.measure.wording import bytes_text
from harnet.media.errors import UnreadableFile
from harnet.media.facts.bounded_reading import facts_apart
from harnet.media.limits import MAX_FILE_BYTES
from harnet.store.blobs import StoreAway
from harnet.store.bucket_folder import BUCKET, BucketFolder, LyingFile
from harnet.store.tables.pictures import Picture, Shelf
from harnet.studio.common.errors import Refused
from harnet.studio.pictures.picture import files_in_store, state_of
from harnet.studio.pictures.reading import DEEPEST, Reading, read_picture, require_short

_GONE: dict[str, object] = {}
_MOST_REFUSED = 10_000
_refused: dict[tuple[str, LyingFile], UnreadableFile] = {}
"""What was fetched for nothing: it is not fetched again every minute while it is the same."""


class NotFetched(UnreadableFile):
    """A file of a bucket that could not be had just now; it is tried again at the next look."""

    code = "not-fetched"

    def __init__(self, name: str) -> None:
        super().__init__(name, "it could not be fetched", "It is fetched again at the next look")


def bucket_behind(session: Session, url: str) -> BucketFolder:
    """The folder of a bucket, served where the store's is."""
    return BucketFolder(url, files_in_store(session).blobs.endpoint)


def bucket_meant(text: str) -> str:
    """The URL of a bucket's folder as a shelf keeps it.

    Raises:
        Refused: no bucket is named, or a folder outside of it.
    """
    parts = [part for part in text.removeprefix(BUCKET).split("/") if part]
    if not parts:
        raise Refused("Give the bucket's name and folder, such as s3://studio/photographs.")
    if any(part in (".", "..") for part in parts):
        raise Refused(f"{text} is no folder of a bucket; write it without dots.")
    return BUCKET + "/".join(parts)


def require_bucket(session: Session, url: str) -> None:
    """Refuses a bucket that cannot be read.

    Raises:
        Refused: there is none of that name, or it does not answer.
    """
    try:
        next(bucket_behind(session, url).lying(0), None)
    except FileNotFoundError:
        raise Refused(f"There is no bucket for {url}.") from None
    except StoreAway as error:
        raise Refused(
            f"{url} cannot be read ({error}); ask whoever administers this machine."
        ) from None


def readings_of_bucket(session: Session, shelf: Shelf) -> Iterator[Reading]:
    """What is to be read of a bucket: what is new, what is otherwise than it was, what is gone.

    Raises:
        StoreAway: the bucket does not answer.
        FileNotFoundError: it is gone.
    """
    folder = bucket_behind(session, shelf.folder)
    lying = {one.name: one for one in folder.lying(DEEPEST)}
    wanted = select(Picture.id, Picture.file_name, Picture.in_bucket)
    known = {
        name: (number, found)
        for number, name, found in session.execute(wanted.where(Picture.shelf_id == shelf.id))
    }
    for name, one in lying.items():
        number, found = known.get(name, (None, None))
        if number is None:
            yield partial(_take_in, folder=folder, lying=one)
        elif not found or (found["size_bytes"], found["modified_ns"]) != (
            one.size_bytes,
            one.modified_ns,
        ):
            yield partial(_look_again, number=number, folder=folder, lying=one)
    for name, (number, found) in known.items():
        if name not in lying and found != _GONE:
            yield partial(_note_gone, number=number)


def _take_in(session: Session, shelf: Shelf, folder: BucketFolder, lying: LyingFile) -> int:
    """A new picture by its header; 1, for it is new.

    Raises:
        UnreadableFile: it is no usable picture.
        NotFetched: it could not be had just now.
    """
    require_short(lying.name)
    before = _refused.get((shelf.folder, lying))
    if before is not None:
        raise before
    try:
        with _fetched(session, folder, lying) as path:
            facts = facts_apart(path, lying.name)
            found = _kept(session, path, lying)
    except NotFetched:
        raise
    except UnreadableFile as error:
        if len(_refused) >= _MOST_REFUSED:
            _refused.clear()
        _refused[shelf.folder, lying] = error
        raise
    sha256, size_bytes = str(found["sha256"]), lying.size_bytes
    picture = read_picture(shelf, lying.name, sha256, facts, size_bytes, lying.modified_ns)
    picture.in_bucket = found
    session.add(picture)
    return 1


def _look_again(
    session: Session, _shelf: Shelf, number: int, folder: BucketFolder, lying: LyingFile
) -> int:
    """Fetches what lies there now; the picture stays as it was read until that is updated."""
    with _fetched(session, folder, lying) as path:
        _found(session, number, _kept(session, path, lying))
    return 0


def _note_gone(session: Session, _shelf: Shelf, number: int) -> int:
    _found(session, number, _GONE)
    return 0


def _found(session: Session, number: int, found: dict[str, object]) -> None:
    picture = session.get_one(Picture, number)
    picture.in_bucket = found
    picture.file_state = state_of(picture).value


def _kept(session: Session, path: Path, lying: LyingFile) -> dict[str, object]:
    sha256 = files_in_store(session).blobs.put_file(path)
    return {"sha256": sha256, "size_bytes": lying.size_bytes, "modified_ns": lying.modified_ns}


@contextmanager
def _fetched(session: Session, folder: BucketFolder, lying: LyingFile) -> Iterator[Path]:
    """The file on this machine, for a moment.

    Raises:
        UnreadableFile: it is larger than a picture may be.
        NotFetched: it could not be had just now.
    """
    if lying.size_bytes > MAX_FILE_BYTES:
        limit = bytes_text(MAX_FILE_BYTES)
        raise UnreadableFile(lying.name, f"the file is larger than {limit}, the limit")
    with tempfile.TemporaryDirectory(dir=files_in_store(session).cache_folder) as scratch:
        path = Path(scratch) / "fetched"
        try:
            folder.fetch(lying.name, path)
        except OSError:
            raise NotFetched(lying.name) from None
        yield path
