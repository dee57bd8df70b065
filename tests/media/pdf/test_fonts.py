"""Fonts used by name alone: whether a page shows a letter in one, by construction."""

import pikepdf
import pytest
from hypothesis import given
from hypothesis import strategies as st

from harnet.media.pdf.reading.fonts import LooseFonts
from harnet.media.pdf.reading.images import PageReader

NAMES = {"F1": "Helvetica", "F2": "Courier", "F10": "Times-Roman"}
STEPS = st.sampled_from(
    [
        ("font", "F1"),
        ("font", "F2"),
        ("font", "F10"),
        ("font", "F1"),
        ("show", "(a) Tj"),
        ("show", "[(b) -20 (c)] TJ"),
        ("show", "(d) '"),
        ("nothing", "(/F1 12 Tf \\(x\\)) pop"),
        ("nothing", "1 0 0 1 72 700 Tm"),
        ("nothing", "/F1 Do"),
        ("mode", 3),
        ("mode", 0),
        ("save", "q"),
        ("restore", "Q"),
    ]
)


def content_of(steps):
    """The operators of a page, and the names of the fonts in which it shows a letter."""
    lines, shown, saved, font, mode = ["BT"], set(), [], "", 0
    for kind, value in steps:
        if kind == "font":
            font = value
            lines.append(f"/{value} 12 Tf")
        elif kind == "mode":
            mode = value
            lines.append(f"{value} Tr")
        else:
            lines.append(value)
            if kind == "show" and font and mode != 3:
                shown.add(NAMES[font])
            elif kind == "save":
                saved.append((font, mode))
            elif kind == "restore" and saved:
                font, mode = saved.pop()
    return "\n".join([*lines, "ET"]).encode(), shown


def page_with(*contents):
    pdf = pikepdf.new()
    fonts = {
        f"/{name}": pikepdf.Dictionary(
            Type=pikepdf.Name.Font, Subtype=pikepdf.Name.Type1, BaseFont=pikepdf.Name(f"/{base}")
        )
        for name, base in NAMES.items()
    }
    page = pdf.add_blank_page(page_size=(595, 842))
    page.obj.Resources = pikepdf.Dictionary(Font=pikepdf.Dictionary(fonts))
    page.obj.Contents = pikepdf.Array([pdf.make_stream(one) for one in contents])
    return pdf


def found_in(pdf):
    reader = PageReader(pdf, "a.pdf")
    reader.page(1, looks_at_fonts=True)
    return reader.fonts.names


@given(st.lists(STEPS, max_size=25))
def test_a_font_counts_once_a_letter_is_shown_in_it(steps):
    content, shown = content_of(steps)
    assert found_in(page_with(content)) == shown


@given(st.lists(STEPS, max_size=16), st.integers(0, 200))
def test_it_may_be_chosen_in_one_stream_and_used_in_the_next(steps, at):
    content, shown = content_of(steps)
    cut = content.find(b"\n", min(at, len(content) - 1))
    parts = (content[:cut], content[cut:]) if cut > 0 else (content,)
    assert found_in(page_with(*parts)) == shown


def test_what_is_chosen_and_never_used_needs_no_reading():
    pdf = page_with(b"BT /F1 12 Tf 14 TL ET\n")
    page = pdf.pages[0]
    assert not LooseFonts().are_sought_in(page, page.obj.Resources)


@pytest.mark.parametrize("name", ["/F#31", "/F1%c\n"])
def test_names_written_in_other_ways_are_found(name):
    assert found_in(page_with(f"BT {name} 12 Tf (a) Tj ET".encode())) == {"Helvetica"}
