"""Lines of a text frame, broken once for the screen and for the PDF alike."""

import unicodedata
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from pathlib import Path

from reportlab.lib.abag import ABag
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import ShapedStr, TTFont, shapeFragWord

FONT_FOLDER = Path(__file__).parents[1] / "fonts"
FONT_NAMES = {
    "sans-400": "Source Sans",
    "sans-600": "Source Sans, semibold",
    "serif-400": "Source Serif",
    "serif-600": "Source Serif, semibold",
    "slab-400": "Bitter",
    "mono-400": "Inconsolata",
}
_FEATURES = {"kern": True} | dict.fromkeys(("liga", "clig", "calt", "dlig", "locl"), False)
"""What shaping does, here and in the style sheet alike: kerning and marks, no ligatures and no
second glyphs of letters, so that every letter of a PDF is found and copied as itself.
"""
_SCRIPTS = ("LATIN", "GREEK", "CYRILLIC")
_INVISIBLE = ("Cc", "Cf")
"""General categories of Unicode without a glyph: controls and format characters."""
_ASCENT = 0.8
"""Share of the size from the top of a line's type to its baseline."""
_DESCENT = 0.25
"""Share of the size from the baseline to the foot of the lowest letters."""


@dataclass(frozen=True, slots=True, kw_only=True)
class TextStyle:
    """How a text frame is set; lengths in points, `colour` as `#rrggbb`."""

    font: str = "serif-400"
    size_pt: float = 9.5
    leading_pt: float = 13.0
    colour: str = "#1c2833"
    align: str = "left"
    link: str = ""
    """Its link in a PDF."""
    space_pt: float = 0.0
    """The space between two paragraphs, besides the leading."""
    named: str = ""
    """The text style of the job that it follows; empty for none."""


@dataclass(frozen=True, slots=True)
class TextLine:
    """A line and where it begins, from the frame's top left corner, in points."""

    text: str
    x_pt: float
    baseline_pt: float


@cache
def registered_font(name: str) -> str:
    """The font's name, made known to the PDF writer."""
    pdfmetrics.registerFont(TTFont(name, str(FONT_FOLDER / f"{name}.ttf")))
    return name


def font_name(name: str) -> str:
    """The name that a font has inside a PDF."""
    face = pdfmetrics.getFont(registered_font(name)).face
    found = face.name
    return found.decode("latin-1") if isinstance(found, bytes) else str(found)


def plain_text(text: str) -> str:
    """A text as it is set: composed letters (NFC), tabs as spaces, nothing that has no glyph."""
    composed = unicodedata.normalize("NFC", text.replace("\t", " "))
    return "".join(
        sign for sign in composed if sign == "\n" or unicodedata.category(sign) not in _INVISIBLE
    )


def missing_glyphs(text: str, style: TextStyle) -> tuple[str, ...]:
    """The characters of a text that its font has no glyph for, in order and each once."""
    has_glyph = pdfmetrics.getFont(registered_font(style.font)).face.charToGlyph
    signs = dict.fromkeys(plain_text(text))
    return tuple(one for one in signs if one != "\n" and ord(one) not in has_glyph)


def font_with(text: str, style: TextStyle) -> str | None:
    """The first font that has every glyph of a text, one of the same weight before others."""
    weight = style.font.rpartition("-")[2]
    names = sorted(FONT_NAMES, key=lambda name: name.rpartition("-")[2] != weight)
    fitting = (
        name
        for name in names
        if not missing_glyphs(text, TextStyle(font=name, size_pt=style.size_pt))
    )
    return next(fitting, None)


def shaped(text: str, style: TextStyle) -> str | ShapedStr:
    """One line as HarfBuzz shapes it, for the PDF writer; a plain text where it moves nothing."""
    if not text:
        return text
    first, *others = _runs(text)
    line = _shaped_run(first, style, is_forced=bool(others))
    for run in others:
        line += _shaped_run(run, style, is_forced=True)
    return line


def _shaped_run(run: str, style: TextStyle, is_forced: bool) -> str | ShapedStr:
    """A stretch of one script, shaped; its letters stay those that were typed.

    Where letters share a glyph, the shaper's binding names another of them, or none at all.
    """
    font = ABag(fontName=registered_font(style.font), fontSize=style.size_pt)
    line = shapeFragWord([0, (font, run)], features=_FEATURES, force=is_forced)[1][1]
    if not isinstance(line, ShapedStr):
        return str(line)
    glyph_of = pdfmetrics.getFont(style.font).face.charToGlyph
    places = [one.cluster for one in line.__shapeData__]
    glyphs_at = Counter(places)

    def typed(sign: str, place: int) -> str:
        same = run[place] if 0 <= place < len(run) and glyphs_at[place] == 1 else sign
        return same if glyph_of.get(ord(same)) == glyph_of.get(ord(sign)) else sign

    return ShapedStr("".join(map(typed, line, places)), line.__shapeData__)


def _runs(text: str) -> list[str]:
    """Stretches of one script each, which a font has its own rules for; what belongs to no script
    stays with what stands before it (Unicode Standard Annex 24).

    The script of a letter is the first word of its name, for the scripts that the fonts have.
    """
    runs, script = [""], ""
    for sign in text:
        own = unicodedata.name(sign, "").partition(" ")[0]
        if own in _SCRIPTS and own != script:
            if script:
                runs.append("")
            script = own
        runs[-1] += sign
    return runs


@lru_cache(50_000)
def _width_at_1000(text: str, font: str) -> float:
    """Width of a shaped text in thousandths of its size."""
    line = shaped(text, TextStyle(font=font, size_pt=1000.0))
    if isinstance(line, ShapedStr):
        return float(sum(one.x_advance for one in line.__shapeData__))
    return float(pdfmetrics.stringWidth(text, font, 1000))


def width_of(text: str, style: TextStyle) -> float:
    """Width of a text on one line, in points, kerning included."""
    registered_font(style.font)
    return _width_at_1000(text, style.font) * style.size_pt / 1000


def lines_of(text: str, style: TextStyle, width_pt: float) -> list[TextLine]:
    """The text broken into lines of at most `width_pt`; a word longer than that stays whole."""
    paragraphs = plain_text(text).split("\n")
    lines = [
        (line, number * style.space_pt)
        for number, paragraph in enumerate(paragraphs)
        for line in _broken(paragraph, style, width_pt)
    ]
    share = {"left": 0.0, "center": 0.5, "right": 1.0}[style.align]
    return [
        TextLine(
            line,
            share * (width_pt - width_of(line, style)),
            _ASCENT * style.size_pt + index * style.leading_pt + space_pt,
        )
        for index, (line, space_pt) in enumerate(lines)
    ]


def lines_lost(lines: Sequence[TextLine], style: TextStyle, height_pt: float) -> int:
    """How many lines go below a frame of that height, or beyond its sides."""
    return sum(
        line.baseline_pt + _DESCENT * style.size_pt > height_pt + 0.01 or line.x_pt < -0.01
        for line in lines
    )


def height_needed(lines: Sequence[TextLine], style: TextStyle) -> float:
    """The height of a frame that shows every line, in points."""
    return lines[-1].baseline_pt + _DESCENT * style.size_pt if lines else 0.0


def _broken(paragraph: str, style: TextStyle, width_pt: float) -> list[str]:
    lines, line = [], ""
    for word in paragraph.split(" "):
        longer = f"{line} {word}" if line else word
        if line and width_of(longer, style) > width_pt:
            lines.append(line)
            line = word
        else:
            line = longer
    return [*lines, line]
