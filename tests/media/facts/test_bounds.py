"""Files made to run away: an answer within bounds of time and memory, and no other file lost."""

import os
import signal
import struct
import subprocess
import sys
import time
import zlib
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pikepdf
import pytest
from PIL import Image

from harnet.core.targets.shipped import target_named
from harnet.media.bounded import work_apart
from harnet.media.errors import OwnFault, UnreadableFile
from harnet.media.facts.bounded_reading import facts_apart, facts_of_each
from harnet.media.facts.read import facts_of
from harnet.media.forking import prepare
from harnet.studio.documents.check import check_document
from tests.support.pdfs import ByHand
from tests.support.pictures import photo

COATED = target_named("coated")
PLACE = b"q 72 0 0 48 100 100 cm /X Do Q\n"


def tiff_with(entries, more=b""):
    """A little-endian TIFF with one directory of (tag, kind, count, value)."""
    body = struct.pack("<2sHIH", b"II", 42, 8, len(entries))
    for tag, kind, count, value in entries:
        body += struct.pack("<HHII", tag, kind, count, value)
    return body + struct.pack("<I", 0) + more


SIZE = [(256, 4, 1, 8), (257, 4, 1, 8)]
RUNAWAYS = {
    "tags.tif": lambda: tiff_with(
        [*SIZE, *((tag, 4, 240_000, 200) for tag in (300, 301, 302, 305))], bytes(1_000_000)
    ),
    "circles.tif": lambda: struct.pack("<2sHIH", b"II", 42, 8, 65_535) + bytes(1_000_000),
    "zeros.jpg": lambda: b"\xff\xd8\xff\xe0" + bytes(30_000_000),
    "segments.jpg": lambda: b"\xff\xd8" + b"\xff\xe5\x00\x02" * 3_000_000,
    "chunks.png": lambda: (
        b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR\0\0\0\x08\0\0\0\x08\x08\2\0\0\0"
        + bytes(4)
        + (b"\0\0\0\0teXt" + bytes(4)) * 2_000_000
    ),
    "deep.svg": lambda: (
        b'<svg xmlns="http://www.w3.org/2000/svg">'
        + b"<g>" * 200_000
        + b"</g>" * 200_000
        + b"</svg>"
    ),
    "wide.svg": lambda: (
        b'<svg xmlns="http://www.w3.org/2000/svg">' + b'<path d="M0 0h1v1z"/>' * 900_000 + b"</svg>"
    ),
}


@pytest.mark.parametrize("name", RUNAWAYS)
def test_a_runaway_file_ends_in_an_answer(tmp_path, name):
    path = tmp_path / name
    path.write_bytes(RUNAWAYS[name]())
    good = tmp_path / "good.png"
    Image.fromarray(photo(20, 10)).save(good)
    bad, fine = facts_of_each([path, good])
    assert fine.px_w == 20, "the other file is read all the same"
    assert isinstance(bad, UnreadableFile) or bad.width_pt or bad.px_w


def test_headers_are_read_with_a_budget(tmp_path):
    """Two million empty chunks took seconds; the header's own budget ends it."""
    path = tmp_path / "chunks.png"
    path.write_bytes(RUNAWAYS["chunks.png"]())
    with pytest.raises(UnreadableFile, match="larger than any"):
        facts_of(path)


def test_a_pipe_is_no_file(tmp_path):
    os.mkfifo(tmp_path / "pipe.jpg")
    with pytest.raises(UnreadableFile, match="a pipe or a device"):
        facts_apart(tmp_path / "pipe.jpg", "pipe.jpg")
    with pytest.raises(UnreadableFile, match="a pipe or a device"):
        check_document(tmp_path / "pipe.jpg", "pipe.pdf", COATED)


NONSENSE = {
    "infinite.tif": tiff_with(
        [*SIZE, (282, 11, 1, 0x7F800000), (283, 11, 1, 0x7F800000), (274, 11, 1, 0x7FC00000)],
        bytes(200),
    ),
    "box.svg": b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="1.2.3 0 0 0"/>',
    "encoding.svg": b'<?xml version="1.0" encoding="nonsense"?><svg/>',
    "unit.svg": b'<svg xmlns="http://www.w3.org/2000/svg" width="9parsec" height="nan"/>',
    "page.pdf": b"%PDF-1.4\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj\n2 0 obj<</Type/Pages"
    b"/Count 1/Kids[3 0 R]>>endobj\n3 0 obj<</Type/Page/Parent 2 0 R/Rotate (x)/MediaBox[/a/b"
    b" null 1]/UserUnit<<>>>>endobj\ntrailer<</Root 1 0 R>>\n%%EOF",
}


@pytest.mark.parametrize("name", NONSENSE)
def test_nonsense_is_answered_and_takes_no_other_file_along(tmp_path, name):
    path, good = tmp_path / name, tmp_path / "good.png"
    path.write_bytes(NONSENSE[name])
    Image.fromarray(photo(20, 10)).save(good)
    command = [Path(sys.executable).with_name("harnet"), "facts", path, good, "--format", "json"]
    run = subprocess.run(command, capture_output=True, text=True, check=False)
    assert "Traceback" not in run.stderr
    assert '"px_w": 20' in run.stdout
    assert "Infinity" not in run.stdout and "NaN" not in run.stdout


class TestWrongFacts:
    @pytest.mark.parametrize(
        "bits, samples", [((200,), 1), ((77,), 1), ((4294967295,), 1), ((8,), 9999)]
    )
    def test_bits_that_no_picture_has(self, tmp_path, bits, samples):
        path = tmp_path / "a.tif"
        path.write_bytes(tiff_with([*SIZE, (258, 4, 1, bits[0]), (277, 4, 1, samples)], bytes(100)))
        with pytest.raises(UnreadableFile, match="channels of"):
            facts_of(path)

    @pytest.mark.parametrize(
        "code, name", [(34712, "JPEG 2000"), (22610, "JPEG XR"), (50001, "WebP")]
    )
    def test_tiffs_that_may_have_lost_something(self, tmp_path, code, name):
        path = tmp_path / "a.tif"
        path.write_bytes(tiff_with([*SIZE, (258, 3, 1, 8), (259, 3, 1, code)], bytes(100)))
        facts = facts_of(path)
        assert (facts.lossy, facts.compression) == (True, name)

    def test_no_pixels_are_no_picture(self, tmp_path):
        Image.fromarray(photo(8, 8)).save(tmp_path / "a.jpg")
        data = bytearray((tmp_path / "a.jpg").read_bytes())
        at = data.index(b"\xff\xc0")
        data[at + 5 : at + 7] = b"\0\0"
        (tmp_path / "a.jpg").write_bytes(data)
        with pytest.raises(UnreadableFile, match="gives no size"):
            facts_of(tmp_path / "a.jpg")

    @pytest.mark.parametrize("mask, alpha", [(0, False), (0xFF000000, True)])
    def test_alpha_of_a_bitmap_is_what_its_mask_says(self, tmp_path, mask, alpha):
        header = struct.pack("<IiiHHIIiiII", 56, 2, 2, 1, 32, 3, 16, 0, 0, 0, 0)
        masks = struct.pack("<IIII", 0xFF0000, 0xFF00, 0xFF, mask)
        path = tmp_path / "a.bmp"
        path.write_bytes(struct.pack("<2sIII", b"BM", 86, 0, 70) + header + masks + bytes(16))
        assert facts_of(path).alpha is alpha

    def test_a_gif_without_its_trailer_is_whole(self, tmp_path):
        path = tmp_path / "a.gif"
        Image.new("P", (20, 10), 1).save(path)
        path.write_bytes(path.read_bytes().removesuffix(b";"))
        with Image.open(path) as image:
            image.load()
        assert facts_of(path).px_w == 20

    def test_grey_avif_is_grey(self, tmp_path):
        import pyvips  # noqa: PLC0415

        path = tmp_path / "grey.avif"
        grey = pyvips.Image.black(64, 48).cast("uchar").copy(interpretation="b-w")
        grey.heifsave(str(path), compression="av1")
        color = tmp_path / "colour.avif"
        grey.colourspace("srgb").heifsave(str(color), compression="av1", subsample_mode="off")
        assert facts_of(color).colour.value == "rgb"
        data = path.read_bytes()
        at = data.index(b"av1C") + 4
        is_mono = bool(data[at + 2] & 0x10)
        assert (facts_of(path).colour.value == "grey") is is_mono

    def test_a_film_is_no_picture(self, tmp_path):
        path = tmp_path / "a.heic"
        path.write_bytes(
            struct.pack(">I4s4sI4s4s", 24, b"ftyp", b"isom", 0, b"mp41", b"mp42") + bytes(99)
        )
        with pytest.raises(UnreadableFile, match="not a picture format that Harnet reads"):
            facts_of(path)

    @pytest.mark.parametrize(
        "attributes, size",
        [
            ('width="1e2" height="5e1"', (75, 37.5)),
            ('style="width: 2in; height: 1in"', (144, 72)),
            ('width="10pc" height="40q"', (120, 28.35)),
            ('viewBox="0,0,96,48"', (72, 36)),
        ],
    )
    def test_sizes_of_drawings(self, tmp_path, attributes, size):
        path = tmp_path / "a.svg"
        path.write_text(f'<svg xmlns="http://www.w3.org/2000/svg" {attributes}/>')
        facts = facts_of(path)
        # CSS Values and Units Level 3: 96 px an inch, a pica 12 pt, a Q a quarter millimetre
        assert (facts.width_pt, facts.height_pt) == pytest.approx(size, abs=0.01)

    @pytest.mark.parametrize(
        "prefix, encoding", [("s:", "utf-8"), ("", "utf-16"), ("s:", "utf-16")]
    )
    def test_drawings_by_prefix_and_in_utf_16(self, tmp_path, prefix, encoding):
        path = tmp_path / "a.svg"
        names = f'xmlns{":s" if prefix else ""}="http://www.w3.org/2000/svg"'
        text = f'<{prefix}svg {names} width="96" height="48"><{prefix}g/></{prefix}svg>'
        path.write_bytes(text.encode(encoding))
        assert facts_of(path).width_pt == pytest.approx(72)


def svg(body, head=""):
    names = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
    return f"{head}<svg {names}>{body}</svg>"


@pytest.mark.parametrize(
    "text, why",
    [
        (svg(r"<style>@\69mport 'a.css';</style>"), "styles refer"),
        (svg(r"<style>a{fill:\75rl(http://example.org/p)}</style>"), "refers to another file"),
        (svg("", '<?xml-stylesheet href="a.css"?>'), "style sheet"),
        (svg('<a><set attributeName="href" to="javascript:1"/></a>'), "<set>"),
        (svg('<animate attributeName="href" values="http://example.org"/>'), "<animate>"),
        (svg('<use href="data:image/svg+xml,%3Csvg/%3E#a"/>'), "refers to another file"),
        (svg('<image href="data:image/svg+xml;base64,AAAA"/>'), "refers to another file"),
        (svg('<rect unheard-of="1"/>'), "does not know"),
        (svg('<body xmlns="http://www.w3.org/1999/xhtml"/>'), "web page"),
        (svg(r'<rect style="fill: u\72l( http://example.org/p )"/>'), "refers to another file"),
    ],
)
def test_drawings_hold_what_draws_and_nothing_else(tmp_path, text, why):
    path = tmp_path / "a.svg"
    path.write_text(text)
    with pytest.raises(UnreadableFile, match=why):
        facts_of(path)


def test_what_drawing_programs_leave_in_their_files_is_taken(tmp_path):
    path = tmp_path / "a.svg"
    path.write_text(
        svg(
            '<metadata><r:RDF xmlns:r="urn:r" r:about="x"/></metadata>'
            '<p:view xmlns:p="urn:p" p:onload="no"/>'
            '<g data-name="Layer 1" aria-hidden="true" p:label="L" xmlns:p="urn:p"'
            ' style="fill:url(#g);enable-background:new"><path d="M0 0h9"/></g>'
        ).replace(' p:onload="no"', "")
    )
    assert facts_of(path).is_vector


class TestPdfs:
    @pytest.fixture
    def hand(self, tmp_path):
        hand = ByHand(tmp_path / "hand.pdf")
        hand.resources.XObject["/X"] = hand.image()
        return hand

    def test_a_gigabyte_in_one_stream(self, hand):
        hand.pdf.add_blank_page(page_size=(400, 400))
        packer = zlib.compressobj(9)
        data = b"".join(packer.compress(bytes(10_000_000)) for _ in range(100)) + packer.flush()
        stream = pikepdf.Stream(hand.pdf, data)
        stream.Filter = pikepdf.Name.FlateDecode
        other = hand.pdf.pages[1].obj
        other.Contents, other.Resources = hand.pdf.make_stream(PLACE), hand.resources
        hand.page.obj.Contents = hand.pdf.make_indirect(stream)
        hand.pdf.save(hand.path, stream_decode_level=pikepdf.StreamDecodeLevel.none)
        report = check_document(hand.path, "hand.pdf", COATED, patience=1).report
        assert [one.page_number for one in report.pictures] == [2]
        assert "content-not-followed" in {one.rule_id for one in report.findings}

    @pytest.mark.parametrize("content", [PLACE * 90_000, b"1 " * 600_000 + b"\n" + PLACE])
    def test_long_content_is_answered_in_time(self, hand, content):
        hand.page.obj.Contents = hand.pdf.make_stream(content)
        hand.pdf.save(hand.path)
        report = check_document(hand.path, "hand.pdf", COATED, patience=1).report
        assert report.pictures

    def test_long_content_is_cut_where_nothing_is_open(self, hand):
        words = b"BT (" + b" Q\n" * 200_000 + b") Tj ET\n"
        inline = b"BI /W 1 /H 1 /BPC 8 /CS /G ID " + b"x" + b"\nEI\n"
        hand.page.obj.Contents = hand.pdf.make_stream((PLACE + words + inline) * 3)
        hand.pdf.save(hand.path)
        report = check_document(hand.path, "hand.pdf", COATED, patience=1).report
        assert [one.px_w for one in report.pictures] == [300, 1] * 3

    def test_what_was_read_before_the_end_of_patience_is_told(self, hand):
        for _ in range(120):
            page = hand.pdf.add_blank_page(page_size=(400, 400)).obj
            page.Contents, page.Resources = hand.pdf.make_stream(PLACE * 10_000), hand.resources
        hand.page.obj.Contents = hand.pdf.make_stream(PLACE)
        hand.pdf.save(hand.path)
        report = check_document(hand.path, "hand.pdf", COATED, patience=0.5).report
        assert report.pictures and len(report.read.pages) == 121
        [found] = [one for one in report.findings if one.rule_id == "content-not-followed"]
        assert "longer than" in found.sentence

    def test_pages_that_no_tree_holds(self, hand):
        hand.page.obj.Contents = hand.pdf.make_stream(PLACE)
        hand.pdf.save(hand.path)
        data = hand.path.read_bytes()
        hand.path.write_bytes(data.replace(b"/Kids [", b"/Kidz ["))
        report = check_document(hand.path, "hand.pdf", COATED).report
        assert len(report.pictures) == 1
        assert "pdf-damaged" in {one.rule_id for one in report.findings}

    def test_bytes_behind_the_end_are_no_damage(self, hand):
        hand.page.obj.Contents = hand.pdf.make_stream(PLACE)
        hand.pdf.save(hand.path)
        hand.path.write_bytes(hand.path.read_bytes() + b"\n<html>" + b"junk " * 5000)
        assert len(check_document(hand.path, "hand.pdf", COATED).report.pictures) == 1

    def test_encryption_that_is_not_known_is_called_that(self, hand):
        hand.pdf.save(hand.path)
        data = hand.path.read_bytes()
        at = data.rindex(b"trailer")
        data = data[:at] + data[at:].replace(
            b"<<", b"<< /Encrypt << /Filter /Harbour.Keys /V 4 >> /ID [<00><00>]", 1
        )
        hand.path.write_bytes(data)
        with pytest.raises(UnreadableFile, match="encrypted in a way"):
            check_document(hand.path, "hand.pdf", COATED)


class TestTheProcess:
    def test_it_knows_no_secrets(self, monkeypatch):
        monkeypatch.setenv("HARNET_DATABASE", "postgresql+psycopg://secret")
        told = work_apart(
            "tests.support.endless", {"ask": "surroundings"}, name="a", seconds=30,
            memory_bytes=2_000_000_000,
        )  # fmt: skip
        assert "HARNET_DATABASE" not in told["keys"] and "PATH" in told["keys"]

    def test_a_fault_of_ours_is_told_as_ours_and_logged(self, caplog):
        with pytest.raises(OwnFault, match="a fault of its own"):
            work_apart(
                "tests.support.endless", {"ask": "fault"}, name="a.pdf", seconds=30,
                memory_bytes=2_000_000_000,
            )  # fmt: skip
        assert "ZeroDivisionError" in caplog.text

    def test_many_at_once_are_told_apart(self):
        """Threads share the process that forks; each hears its own answer and end."""

        def ask(number):
            if number % 3 == 0:
                with pytest.raises(UnreadableFile, match="made the decoder crash"):
                    work_apart(
                        "tests.support.endless", {"ask": "fall"}, name="a", seconds=30,
                        memory_bytes=2_000_000_000,
                    )  # fmt: skip
                return number
            return work_apart(
                "tests.support.endless", {"ask": "echo", "number": number}, name="a", seconds=30,
                memory_bytes=2_000_000_000,
            )["number"]  # fmt: skip

        with ThreadPoolExecutor(6) as pool:
            assert list(pool.map(ask, range(30))) == list(range(30))

    def test_the_process_that_forks_is_begun_again_when_it_is_gone(self):
        order = {"ask": "parent"}
        told = work_apart(
            "tests.support.endless", order, name="a", seconds=30, memory_bytes=2_000_000_000
        )
        os.kill(told["parent"], signal.SIGKILL)
        again = work_apart(
            "tests.support.endless", order, name="a", seconds=30, memory_bytes=2_000_000_000
        )
        assert again["parent"] != told["parent"]

    def test_a_module_is_imported_beforehand(self):
        prepare("harnet.nowhere")
        prepare("tests.support.endless")
        order = {"ask": "echo", "number": 7}
        told = work_apart(
            "tests.support.endless", order, name="a", seconds=30, memory_bytes=2_000_000_000
        )
        assert told == {"number": 7}

    def test_a_module_that_is_not_there_is_a_fault_of_ours(self, caplog):
        with pytest.raises(OwnFault):
            work_apart("harnet.nowhere", {}, name="a", seconds=30, memory_bytes=2_000_000_000)
        assert "ModuleNotFoundError" in caplog.text

    def test_files_it_writes_are_bounded(self, tmp_path):
        with pytest.raises(UnreadableFile):
            work_apart(
                "tests.support.endless",
                {"ask": "write", "path": str(tmp_path / "large")},
                name="a",
                seconds=30,
                memory_bytes=2_000_000_000,
                file_bytes=1_000_000,
            )
        assert (tmp_path / "large").stat().st_size <= 1_000_000

    @pytest.mark.parametrize("sign", [signal.SIGTERM, signal.SIGKILL])
    def test_it_dies_with_whoever_began_it(self, tmp_path, sign):
        """A command that is stopped leaves no reader at work."""
        mark = tmp_path / "mark"
        script = (
            "from harnet.media.bounded import work_apart\n"
            f"work_apart('tests.support.endless', {{'ask': 'wait', 'path': {str(mark)!r}}},"
            " name='a', seconds=300, memory_bytes=2_000_000_000)"
        )
        parent = subprocess.Popen([sys.executable, "-c", script], cwd=Path(__file__).parents[3])
        while not (mark.exists() and mark.read_text()):
            time.sleep(0.05)
        child = int(mark.read_text())
        parent.send_signal(sign)
        parent.wait(10)
        until = time.monotonic() + 10
        while is_at_work(child) and time.monotonic() < until:
            time.sleep(0.05)
        assert not is_at_work(child)


def is_at_work(pid):
    try:
        state = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0]
    except OSError:
        return False
    return state != "Z"
