"""Text in many scripts: shaped, measured and printed with the same glyphs everywhere."""

import re
import subprocess

import pytest

from harnet.core.measure.geometry import Box
from harnet.media.pagedrawing.plan import PagePlan, TextPart
from harnet.media.pagedrawing.text_lines import (
    FONT_FOLDER,
    FONT_NAMES,
    TextStyle,
    font_with,
    lines_of,
    missing_glyphs,
    plain_text,
    shaped,
    width_of,
)
from harnet.media.pdf.writing.write import write_pdf

WORDS = "Ελλάδα Привет ő ș ğ Ł ﬁ ế"
WIDE = ("sans-400", "sans-600", "serif-400", "serif-600")


def printed(tmp_path, text, style, width=400):
    """What poppler reads in a PDF with that text, and the fonts it names."""
    part = TextPart(Box(20, 20, width, 200), 0, text, style)
    path = tmp_path / "text.pdf"
    write_pdf(
        [PagePlan(number=1, width_pt=500, height_pt=300, bleed_pt=0, parts=(part,))], "Text", path
    )
    words = subprocess.run(["pdftotext", "-layout", path, "-"], capture_output=True, check=True)
    fonts = subprocess.run(["pdffonts", path], capture_output=True, check=True)
    return words.stdout.decode(), fonts.stdout.decode()


@pytest.mark.parametrize("font", WIDE)
def test_greek_cyrillic_and_latin_letters_are_printed_as_text(tmp_path, font):
    text, fonts = printed(tmp_path, WORDS, TextStyle(font=font, size_pt=12, leading_pt=16))
    # poppler, an independent reader; each letter comes back as itself
    assert text.split() == WORDS.split()
    for line in fonts.splitlines()[2:]:
        # embedded, a subset, with a map to Unicode
        assert line.split()[-5:-2] == ["yes", "yes", "yes"], line


@pytest.mark.parametrize("font", FONT_NAMES)
def test_every_font_has_the_letters_of_european_latin(font):
    letters = "ÅÆÇÉÑÖØßæøåčďěňřšťůžąęłńóśźżāēģīķļņōŗūőűșțğışẞ“”‘’–—…€"
    assert missing_glyphs(letters, TextStyle(font=font)) == ()


@pytest.mark.parametrize("font", FONT_NAMES)
def test_scripts_side_by_side_stay_the_letters_that_were_typed(tmp_path, font):
    # Letters of two scripts, or of one twice, may share a glyph; copied, they are what was typed.
    words = "AVA alpha" if font in ("slab-400", "mono-400") else "AVA Ελλάδα δα АВА Фонарь alpha"
    style = TextStyle(font=font, size_pt=17.0)
    assert str(shaped(words, style)) == words
    parts = re.findall(r"[A-Za-z]+ ?|[Α-ώ ]+|[А-я]+ ?", words)
    apart = sum(width_of(part, style) for part in parts)
    assert "".join(parts) == words and width_of(words, style) == pytest.approx(apart, rel=0.01)


def test_what_a_font_lacks_is_named_once_and_in_order():
    slab = TextStyle(font="slab-400")
    assert missing_glyphs("Bootλαλ\n語", slab) == ("λ", "α", "語")
    assert font_with("Boot λα", slab) in WIDE
    assert font_with("Boot λα", TextStyle(font="mono-600")) == "sans-600"
    assert font_with("語", slab) is None


@pytest.mark.parametrize(
    "text, plain",
    [("a\tb", "a b"), ("so\u00adft", "soft"), ("o\u030b", "ő"), ("x\u200bу", "xу"), ("\x07", "")],
)
def test_what_has_no_glyph_leaves_no_box(text, plain):
    assert plain_text(text) == plain
    assert missing_glyphs(text, TextStyle(font="sans-400")) == ()


def test_widths_are_those_that_harfbuzz_shapes(tmp_path):
    # The library asked directly, on the file that screen and PDF use.
    import uharfbuzz  # noqa: PLC0415

    font = uharfbuzz.Font(uharfbuzz.Face((FONT_FOLDER / "serif-400.ttf").read_bytes()))
    for text in ("AVATAR Tо", "To Wave", WORDS, "office"):
        buffer = uharfbuzz.Buffer()
        buffer.add_str(text)
        buffer.guess_segment_properties()
        off = dict.fromkeys(("liga", "clig", "calt", "dlig"), False)
        uharfbuzz.shape(font, buffer, {"kern": True, **off})
        units = sum(one.x_advance for one in buffer.glyph_positions)
        expected = 20 * units / font.face.upem
        assert width_of(text, TextStyle(font="serif-400", size_pt=20)) == pytest.approx(
            expected, rel=1e-3
        )


def test_kerning_narrows_a_line_on_paper_as_it_was_measured(tmp_path):
    style = TextStyle(font="serif-400", size_pt=40, leading_pt=50)
    loose = sum(width_of(letter, style) for letter in "AVAVAV")
    assert width_of("AVAVAV", style) < loose - 5
    part = TextPart(Box(20, 20, 400, 100), 0, "AVAVAV", style)
    path = tmp_path / "kerned.pdf"
    write_pdf(
        [PagePlan(number=1, width_pt=500, height_pt=300, bleed_pt=0, parts=(part,))], "Text", path
    )
    found = subprocess.run(["pdftotext", "-bbox", path, "-"], capture_output=True, check=True)
    row = next(line for line in found.stdout.decode().splitlines() if "AVAVAV" in line)
    x_min, x_max = (float(row.split(f'{name}="')[1].split('"')[0]) for name in ("xMin", "xMax"))
    assert x_max - x_min == pytest.approx(width_of("AVAVAV", style), abs=0.5)


def test_lines_break_by_the_shaped_width():
    style = TextStyle(font="sans-400", size_pt=12)
    width = width_of("AVAVA Tо", style) + 0.01
    assert [line.text for line in lines_of("AVAVA Tо AVAVA Tо", style, width)] == ["AVAVA Tо"] * 2
