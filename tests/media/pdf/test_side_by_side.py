"""Long PDFs that are read by two processes: the same answer, in order, and nothing left behind."""

import os
import resource
import signal
import time
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path

import pikepdf
import pytest
from hypothesis import given
from hypothesis import strategies as st

from harnet.media.bounded import work_apart
from harnet.media.errors import UnreadableFile
from harnet.media.pdf.opening.opened import opened_pdf
from harnet.media.pdf.reading.images import PageReader
from harnet.media.pdf.reading.side_by_side import in_order, stretches_of
from harnet.media.pdf.walking import walk

PAGES = 40


@pytest.fixture
def long_pdf(tmp_path):
    """Page n paints one image of 2 × 1 px n times, each n points wide."""
    pdf = pikepdf.new()
    image = pdf.make_stream(
        bytes(6),
        Type=pikepdf.Name.XObject,
        Subtype=pikepdf.Name.Image,
        Width=2,
        Height=1,
        ColorSpace=pikepdf.Name.DeviceRGB,
        BitsPerComponent=8,
    )
    for number in range(1, PAGES + 1):
        page = pdf.add_blank_page(page_size=(200, 200))
        page.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(Im=image))
        page.Contents = pdf.make_stream(f"q {number} 0 0 5 9 9 cm /Im Do Q ".encode() * number)
    path = tmp_path / "long.pdf"
    pdf.save(path)
    return path


def read(path, look, first=4, at_once=6, hands=2):
    with opened_pdf(path) as pdf:
        stretches = stretches_of(len(pdf.pages), first, at_once)
        return list(in_order(path, PageReader(pdf, path.name), stretches, look, hands))


def widths(reader, number, pages):
    found = [image.width_pt for page in pages for image in reader.page(page)[1]]
    return number, os.getpid(), found


@given(st.integers(1, 400), st.integers(1, 50), st.integers(1, 50))
def test_every_page_is_in_one_stretch(count, first, at_once):
    stretches = stretches_of(count, first, at_once)
    assert [page for pages in stretches for page in pages] == list(range(1, count + 1))
    assert len(stretches[0]) == min(first, count)
    assert all(len(pages) <= at_once for pages in stretches[1:])


@pytest.mark.parametrize("hands", [1, 2])
def test_all_pages_come_in_order_whoever_reads_them(long_pdf, hands):
    found = read(long_pdf, widths, hands=hands)
    assert [number for number, _, _ in found] == list(range(1, 8))
    by_construction = [float(page) for page in range(1, PAGES + 1) for _ in range(page)]
    assert [width for _, _, some in found for width in some] == by_construction
    # Who reads is seen by its number: this process reads the first stretch alone.
    readers = {pid for _, pid, _ in found}
    is_shared = hands == 2 and len(os.sched_getaffinity(0)) > 1
    assert (readers != {os.getpid()}) == is_shared
    assert found[0][1] == os.getpid()


def test_a_short_pdf_is_read_by_one(long_pdf):
    assert {pid for _, pid, _ in read(long_pdf, widths, first=30, at_once=30)} == {os.getpid()}


def test_trouble_on_a_late_page_is_told_as_it_is_by_one(long_pdf, monkeypatch):
    monkeypatch.setattr(walk, "MOST_PAINTED", 30)
    for hands in (1, 2):
        with pytest.raises(UnreadableFile, match=r"long\.pdf: page 31 shows more than"):
            read(long_pdf, widths, hands=hands)


needs_two = pytest.mark.skipif(len(os.sched_getaffinity(0)) < 2, reason="one processor")


@needs_two
def test_a_reader_that_is_brought_down_is_noticed(long_pdf):
    def fall(reader, number, pages):
        if number == 3:
            os.kill(os.getpid(), signal.SIGKILL)
        return number

    with pytest.raises(BrokenProcessPool):
        read(long_pdf, fall)


@needs_two
def test_readers_share_the_memory_that_one_may_take(long_pdf, tmp_path):
    before = resource.getrlimit(resource.RLIMIT_AS)
    most = 8_000_000_000
    pid = os.fork()
    if not pid:
        try:
            resource.setrlimit(resource.RLIMIT_AS, (most, most))
            limits = read(long_pdf, lambda *_: resource.getrlimit(resource.RLIMIT_AS)[0])
            (tmp_path / "limits").write_text(repr(limits))
        finally:
            os._exit(0)
    os.waitpid(pid, 0)
    assert (tmp_path / "limits").read_text() == repr([most] + [most // 2] * 6)
    assert resource.getrlimit(resource.RLIMIT_AS) == before


def test_what_takes_too_long_ends_with_all_that_it_began(tmp_path):
    told = tmp_path / "began"
    with pytest.raises(UnreadableFile, match="longer than 2 seconds"):
        work_apart(
            "tests.support.endless",
            {"told": str(told)},
            name="x.pdf",
            seconds=2,
            memory_bytes=10**9,
        )
    assert is_gone(int(told.read_text()))


def test_what_is_brought_down_leaves_nothing_behind(tmp_path):
    told = tmp_path / "began"
    order = {"told": str(told), "falls": True}
    with pytest.raises(UnreadableFile, match="made the decoder crash"):
        work_apart("tests.support.endless", order, name="x.pdf", seconds=60, memory_bytes=10**9)
    assert is_gone(int(told.read_text()))


def is_gone(pid):
    """Whether a process has ended, or ends soon; what nobody waits for may be left as a name."""
    for _ in range(100):
        try:
            state = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0]
        except FileNotFoundError:
            return True
        if state == "Z":
            return True
        time.sleep(0.05)
    return False
