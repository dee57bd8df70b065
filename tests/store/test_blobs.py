"""Bytes are kept whole, by content, or not at all."""

import hashlib
import io
from concurrent.futures import ThreadPoolExecutor
from threading import Barrier

import pytest

from harnet.store.blobs import BlobStore, sha256_of, write_whole


@pytest.fixture
def blobs(tmp_path):
    return BlobStore((tmp_path / "blobs").as_uri())


def test_put_and_read_back_by_hash(blobs, tmp_path):
    path = tmp_path / "a"
    path.write_bytes(b"tide" * 1000)
    key = blobs.put_file(path)
    assert key == hashlib.sha256(b"tide" * 1000).hexdigest() == sha256_of(path)
    with blobs.open(key) as file:
        assert file.read() == path.read_bytes()
    assert blobs.put_file(path) == key


def test_what_is_not_there_is_said(blobs):
    with pytest.raises(FileNotFoundError):
        blobs.open("0" * 64)


def test_a_write_that_breaks_off_leaves_nothing(blobs, tmp_path, monkeypatch):
    path = tmp_path / "a"
    path.write_bytes(b"tide")

    def full_disk(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("harnet.store.blobs._sync", full_disk)
    with pytest.raises(OSError, match="No space"):
        blobs.put_file(path)
    assert [p for p in (tmp_path / "blobs").rglob("*") if p.is_file()] == []


def test_too_many_bytes_leave_nothing(tmp_path):
    with pytest.raises(OverflowError):
        write_whole(io.BytesIO(b"x" * 100), tmp_path, 99)
    assert list(tmp_path.iterdir()) == []
    assert write_whole(io.BytesIO(b"x" * 99), tmp_path, 99).read_bytes() == b"x" * 99


def test_several_keep_the_same_preview_at_the_same_time(blobs, tmp_path):
    path, together = tmp_path / "page.png", Barrier(8)
    path.write_bytes(b"tide" * 200_000)

    def keep(number):
        together.wait()
        blobs.put_preview(f"page-{number % 2}.png", path)

    with ThreadPoolExecutor(8) as threads:
        list(threads.map(keep, range(8)))
    for number in (0, 1):
        with blobs.open_preview(f"page-{number}.png") as file:
            assert file.read() == path.read_bytes()
    assert [one.name for one in tmp_path.rglob("*.part")] == []
