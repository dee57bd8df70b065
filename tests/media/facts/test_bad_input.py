"""Files that cannot be used: each gets a sentence that names the file and the failure."""

import random

import pikepdf
import pytest
from PIL import Image
from reportlab.pdfgen.canvas import Canvas

from harnet.media.bounded import work_apart
from harnet.media.errors import UnreadableFile
from harnet.media.facts.read import facts_of
from harnet.media.pdf.reading.images import painted_images
from harnet.media.pixels.examination import examine
from tests.support.files import svg, tiny_png_declaring
from tests.support.pictures import photo

REFUSED = [
    ("empty.jpg", b"", "empty"),
    ("notes.png", b"Ask the harbour master about the tides.\n", "not a picture"),
    ("huge.png", tiny_png_declaring(30_000, 30_000), "900 megapixels"),
    ("script.svg", svg("<script>1</script>"), "<script>"),
    ("click.svg", svg('<rect onclick="1"/>'), "onclick"),
    ("fetch.svg", svg('<image href="http://example.org/a.png"/>'), "refers to another file"),
    ("file.svg", svg('<use xlink:href="other.svg#a"/>'), "refers to another file"),
    ("style.svg", svg("<style>@import 'a.css';</style>"), "styles refer"),
    ("paint.svg", svg('<rect fill="url(http://example.org/p)"/>'), "refers to another file"),
    ("html.svg", svg("<foreignObject/>"), "foreignObject"),
    ("broken.svg", b"<svg xmlns='http://www.w3.org/2000/svg'><rect>", "well-formed"),
    ("entity.svg", b'<!DOCTYPE svg [<!ENTITY a "b">]><svg>&a;</svg>', "entities"),
    ("page.svg", b"<?xml version='1.0'?><html/>", "not an SVG"),
    ("zero.png", tiny_png_declaring(0, 10), "is invalid"),
    ("head.tif", b"II*\0\xff\xff\xff\x7f", "is incomplete"),
    ("head.webp", b"RIFF\xff\0\0\0WEBPVP8 ", "is incomplete"),
]


@pytest.mark.parametrize("name, content, words", REFUSED, ids=[row[0] for row in REFUSED])
def test_refused_with_a_sentence(tmp_path, name, content, words):
    path = tmp_path / name
    path.write_bytes(content)
    with pytest.raises(UnreadableFile) as caught:
        facts_of(path)
    assert str(caught.value).startswith(f"{name}: ") and words in str(caught.value)


@pytest.mark.parametrize("name", ["a.jpg", "a.png", "a.tif", "a.gif", "a.bmp", "a.webp"])
@pytest.mark.parametrize("share", [0.02, 0.3, 0.6, 0.98])
def test_a_file_that_breaks_off_is_told_from_its_header(tmp_path, name, share):
    whole = tmp_path / name
    Image.fromarray(photo()).save(whole)
    data = whole.read_bytes()
    whole.write_bytes(data[: int(len(data) * share)])
    with pytest.raises(
        UnreadableFile, match=rf"{name}: .*(is incomplete|without an image|is invalid)"
    ):
        facts_of(whole)


def test_a_folder_and_a_missing_file(tmp_path):
    with pytest.raises(UnreadableFile, match="it is a folder"):
        facts_of(tmp_path)
    with pytest.raises(UnreadableFile, match="cannot be opened"):
        facts_of(tmp_path / "nowhere.jpg")


def test_damaged_pixels_behind_an_intact_header_are_told_when_decoded(tmp_path):
    path = tmp_path / "hollow.png"
    Image.fromarray(photo()).save(path)
    data = bytearray(path.read_bytes())
    data[len(data) // 2 : len(data) // 2 + 400] = b"\0" * 400
    path.write_bytes(data)
    assert facts_of(path).px_w == 300
    with pytest.raises(UnreadableFile, match=r"hollow\.png: its pixels cannot be decoded"):
        examine(path, path.name, tmp_path)
    assert not list(tmp_path.glob("light-*"))


def falling(_module, _order, **bounds):
    """Work in a process that crashes."""
    return work_apart("tests.support.endless", {"ask": "fall"}, **bounds)


def test_a_decoder_that_crashes_takes_nothing_else_down(tmp_path, monkeypatch):
    monkeypatch.setattr("harnet.media.pixels.examination.work_apart", falling)
    with pytest.raises(UnreadableFile, match="made the decoder crash"):
        examine(tmp_path / "a.jpg", "a.jpg", tmp_path)


@pytest.mark.parametrize("seed", range(12))
def test_flipped_bytes_never_escape_as_another_error(tmp_path, seed):

    dice = random.Random(seed)
    for name in ("a.jpg", "a.png", "a.tif", "a.gif", "a.bmp", "a.webp"):
        path = tmp_path / name
        Image.fromarray(photo(60, 40)).save(path)
        data = bytearray(path.read_bytes())
        for _ in range(20):
            data[dice.randrange(min(len(data), 700))] = dice.randrange(256)
        path.write_bytes(data)
        try:
            facts_of(path)
        except UnreadableFile as error:
            assert name in str(error)


def a_pdf(path):
    canvas = Canvas(str(path))
    canvas.drawString(72, 72, "Tarnholm")
    canvas.showPage()
    canvas.save()
    return path


class TestPdf:
    def test_encrypted(self, tmp_path):
        path = a_pdf(tmp_path / "plain.pdf")
        locked = tmp_path / "locked.pdf"
        with pikepdf.open(path) as pdf:
            pdf.save(locked, encryption=pikepdf.Encryption(user="u", owner="o"))
        with pytest.raises(UnreadableFile, match=r"locked\.pdf: the PDF is encrypted"):
            painted_images(locked)

    def test_readable_with_an_owner_password_only(self, tmp_path):
        path = a_pdf(tmp_path / "plain.pdf")
        open_to_all = tmp_path / "open.pdf"
        with pikepdf.open(path) as pdf:
            pdf.save(open_to_all, encryption=pikepdf.Encryption(user="", owner="o"))
        assert painted_images(open_to_all) == (1, [])

    @pytest.mark.parametrize("share", [0.1, 0.5, 0.9])
    @pytest.mark.parametrize("has_xref_stream", [False, True])
    def test_cut_off(self, tmp_path, share, has_xref_stream):
        path = a_pdf(tmp_path / "plain.pdf")
        cut = tmp_path / "cut.pdf"
        mode = pikepdf.ObjectStreamMode
        with pikepdf.open(path) as pdf:
            pdf.save(cut, object_stream_mode=mode.generate if has_xref_stream else mode.disable)
        data = cut.read_bytes()
        cut.write_bytes(data[: int(len(data) * share)])
        with pytest.raises(UnreadableFile, match=r"cut\.pdf: .*is incomplete"):
            painted_images(cut)

    def test_no_pdf_at_all(self, tmp_path):
        (tmp_path / "a.pdf").write_text("no")
        with pytest.raises(UnreadableFile, match="not a PDF"):
            painted_images(tmp_path / "a.pdf")
