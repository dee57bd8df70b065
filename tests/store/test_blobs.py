"""Bytes are kept whole, by content, or not at all."""

import hashlib
import io
import os
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from threading import Barrier
from types import SimpleNamespace

import pytest

from harnet.store.blobs import BlobStore, sha256_of, write_whole
from tests.support.buckets import bucket_server, new_bucket


@pytest.fixture(scope="module")
def server():
    with bucket_server() as address:
        yield address


@pytest.fixture(params=["folder", "bucket"])
def blobs(request, tmp_path):
    """The same store in a folder and in a bucket."""
    if request.param == "folder":
        return BlobStore((tmp_path / "blobs").as_uri())
    address = request.getfixturevalue("server")
    return BlobStore(f"{new_bucket(address)}/store", address)


@pytest.fixture
def folder_blobs(tmp_path):
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


def test_a_write_that_breaks_off_leaves_nothing(folder_blobs, tmp_path, monkeypatch):
    path = tmp_path / "a"
    path.write_bytes(b"tide")

    def full_disk(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("harnet.store.blobs._sync", full_disk)
    with pytest.raises(OSError, match="No space"):
        folder_blobs.put_file(path)
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


def test_any_part_of_it_is_read(blobs, tmp_path):
    path = tmp_path / "a"
    path.write_bytes(bytes(range(256)) * 8_000)
    with blobs.open(blobs.put_file(path)) as file:
        assert file.seek(0, 2) == 2_048_000
        file.seek(1_000_003)
        assert file.read(5) == path.read_bytes()[1_000_003:1_000_008]


def test_as_a_file_it_is_there_on_this_machine(blobs, tmp_path):
    path, cache = tmp_path / "a", tmp_path / "cache"
    path.write_bytes(b"tide")
    cache.mkdir()
    key = blobs.put_file(path)
    assert blobs.file(key, cache).read_bytes() == b"tide"
    assert blobs.file("0" * 64, cache) is None
    assert [one.name for one in cache.glob("*.part")] == []


def test_what_is_old_is_listed_and_deleted(blobs, tmp_path):
    path = tmp_path / "a"
    path.write_bytes(b"tide")
    key = blobs.put_file(path)
    blobs.put_preview("page.png", path)
    assert dict(blobs.older_than(time.time() + 60)) == {key: 4}
    assert dict(blobs.older_than(time.time() - 60)) == {}
    blobs.delete(key)
    blobs.delete(key)
    assert dict(blobs.older_than(time.time() + 60)) == {}
    assert blobs.previews_bytes() in (4, None)
    blobs.clear_previews()
    assert blobs.previews_bytes() in (0, None)
    with pytest.raises(FileNotFoundError):
        blobs.open_preview("page.png").read()


def test_previews_are_counted_while_they_come_and_go(folder_blobs, tmp_path, monkeypatch):
    path = tmp_path / "a"
    path.write_bytes(b"tide")
    for name in ("one.png", "other.png"):
        folder_blobs.put_preview(name, path)
    scan = os.scandir

    @contextmanager
    def going(folder):
        with scan(folder) as found:
            listed = list(found)
        for one in listed:
            if one.name == "one.png":
                Path(one.path).unlink()
        yield listed

    monkeypatch.setattr("harnet.store.blobs.os.scandir", going)
    assert folder_blobs.previews_bytes() == 4


class TestABucketThatFails:
    @pytest.fixture
    def bucket(self, server):
        return BlobStore(f"{new_bucket(server)}/store", server)

    def test_its_own_clock_says_what_is_old(self, bucket, tmp_path, monkeypatch):
        path = tmp_path / "a"
        path.write_bytes(b"tide")
        key = bucket.put_file(path)
        ahead = SimpleNamespace(time=lambda: time.time() + 10**8)
        monkeypatch.setattr("harnet.store.blobs.time", ahead)
        assert dict(bucket.older_than(bucket.now() - 3600)) == {}
        assert dict(bucket.older_than(bucket.now() + 3600)) == {key: 4}

    def test_what_it_forgets_at_once_is_told(self, bucket, tmp_path, monkeypatch):
        path = tmp_path / "a"
        path.write_bytes(b"tide")
        monkeypatch.setattr(bucket._files, "put_file", lambda *_: None)
        with pytest.raises(OSError, match=r"None bytes of .*, not the 4 that were sent"):
            bucket.put_file(path)

    def test_one_that_is_not_there_is_told(self, server, tmp_path):
        path = tmp_path / "a"
        path.write_bytes(b"tide")
        with pytest.raises(OSError):
            BlobStore("s3://no-such-bucket/store", server).put_file(path)
