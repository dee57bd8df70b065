"""Files that are others by now than those that were judged."""

from dataclasses import replace
from hashlib import sha256

import pytest

from harnet.media.errors import ChangedFile, UnreadableFile
from harnet.media.pdf.writing import unchanged
from harnet.media.pdf.writing.unchanged import Unchanged
from harnet.media.pdf.writing.write import CHANGED, write_pdf
from tests.media.pdf.test_finish import part, plan


def judged(path):
    return replace(part(path), sha256=sha256(path.read_bytes()).hexdigest())


def test_bytes_that_were_read_are_hashed_beside(make_picture, monkeypatch):
    monkeypatch.setattr(unchanged, "_MOST_WAITING_BYTES", 1)
    same, other = judged(make_picture("a.jpg")), judged(make_picture("b.jpg", seed=2))
    with Unchanged([]) as looking:
        looking.look_at(same, same.path.read_bytes())
        looking.look_at(other, b"something else")
        assert looking.changed() == {other.sha256}
        looking.require(same)
        with pytest.raises(ChangedFile):
            looking.require(other)


def test_a_picture_without_a_hash_counts_as_unchanged(make_picture):
    nameless = replace(part(make_picture("a.jpg")), sha256="")
    with Unchanged([nameless]) as looking:
        looking.look_at(nameless, b"anything")
        looking.require(nameless)
        assert looking.changed() == set()


@pytest.mark.parametrize("name", ["a.jpg", "a.png"])
@pytest.mark.parametrize("harm", ["other pixels", "no longer a picture", "gone"])
def test_a_changed_file_is_a_marked_box(make_picture, tmp_path, name, harm):
    kept, lost = judged(make_picture("kept.jpg")), judged(make_picture(name, seed=5))
    if harm == "gone":
        lost.path.unlink()
    elif harm == "other pixels":
        make_picture(name, seed=6)
    else:
        lost.path.write_bytes(lost.path.read_bytes()[:40] + b"torn")
    promises = write_pdf([plan(kept), plan(lost)], "t", tmp_path / "out.pdf")
    assert promises[0].how != CHANGED and promises[1].how == CHANGED


def test_what_was_damaged_from_the_start_is_named(make_picture, tmp_path):
    path = make_picture("torn.jpg")
    whole = part(path)
    path.write_bytes(path.read_bytes()[:300])
    torn = replace(whole, sha256=sha256(path.read_bytes()).hexdigest())
    with pytest.raises(UnreadableFile, match=r"torn\.jpg"):
        write_pdf([plan(torn)], "t", tmp_path / "out.pdf")
