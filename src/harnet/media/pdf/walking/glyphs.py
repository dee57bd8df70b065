"""Type 3 fonts, whose glyphs are small pages that may paint images (ISO 32000-2, 9.6.4)."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any

import pikepdf

from harnet.core.measure.geometry import Matrix
from harnet.media.pdf.walking.content import (
    dictionary_in,
    entry,
    last_name,
    last_numbers,
    matrix_from,
    name_text,
    number_from,
)

_SPACE, _MOST_CODES = 32, 256
_THOUSANDTH = Matrix(0.001, 0, 0, 0.001, 0, 0)
TEXT_OPERATORS = "BT ET Tf Td TD Tm T* Tj TJ ' \" Tc Tw Tz TL Ts"


@dataclass(frozen=True, slots=True)
class Type3Font:
    """A Type 3 font: the content of glyphs and their widths by code; `matrix` is its own.

    `resources` are its own; None where it has none, and those of the page serve (9.6.4).
    """

    glyphs: Mapping[int, pikepdf.Object]
    widths: Mapping[int, float]
    matrix: Matrix
    resources: Any


def type3_fonts(resources: pikepdf.Object) -> dict[str, Type3Font]:
    """The Type 3 fonts of resources, by name."""
    fonts = entry(resources, "/Font")
    if not isinstance(fonts, pikepdf.Dictionary):
        return {}
    return {
        # Keys come with bytes that are not UTF-8 escaped; names as they are looked for do not.
        name.encode("utf-8", "surrogateescape").decode("utf-8", "replace"): type3_font(font)
        for name, font in fonts.items()
        if isinstance(font, pikepdf.Dictionary) and font.get("/Subtype") == "/Type3"
    }


def type3_font(font: pikepdf.Object) -> Type3Font:
    """A Type 3 font from its dictionary."""
    procedures, stated = dictionary_in(font, "/CharProcs"), font.get("/Widths")
    first = int(number_from(font.get("/FirstChar")))
    widths = list(stated) if isinstance(stated, pikepdf.Array) else []
    contents = {code: procedures.get(name) for code, name in _names(font).items()}
    own = font.get("/Resources")
    return Type3Font(
        {code: found for code, found in contents.items() if isinstance(found, pikepdf.Stream)},
        {code: number_from(width) for code, width in enumerate(widths[:_MOST_CODES], first)},
        matrix_from(font.get("/FontMatrix")) or _THOUSANDTH,
        own if isinstance(own, pikepdf.Dictionary) else None,
    )


class TextState:
    """The text state (ISO 32000-2, 9.3) with the matrices of the text and of its line.

    It changes as text is shown; whoever keeps it for later keeps a copy.
    """

    __slots__ = (
        *("font", "size", "char_space", "word_space", "stretch", "leading", "rise"),
        *("matrix", "line"),
    )

    def __init__(self) -> None:
        self.font: Type3Font | None = None
        self.size = self.char_space = self.word_space = self.leading = self.rise = 0.0
        self.stretch = 1.0
        self.matrix = self.line = Matrix()

    def copy(self) -> "TextState":
        """The state as it is now."""
        other = TextState()
        for name in self.__slots__:
            setattr(other, name, getattr(self, name))
        return other

    def take(self, name: str, operands: list[Any], fonts: Mapping[str, Type3Font]) -> None:
        """Imports an operator; of those that show text, what they do before.

        What has too few operands, or others than numbers, does nothing.
        """
        if name == "Tf":
            self._choose(operands, fonts)
        elif name in ("Td", "TD"):
            if moved := last_numbers(operands, 2):
                if name == "TD":
                    self.leading = -moved[1]
                self._next_line(*moved)
        elif name == "Tm":
            if values := last_numbers(operands, 6):
                self.matrix = self.line = Matrix(*values)
        elif name == "BT":
            self.matrix = self.line = Matrix()
        elif name == "T*" or name == "'":
            self._next_line(0, -self.leading)
        elif name == '"':
            if len(operands) >= 3:
                self.word_space = number_from(operands[-3])
                self.char_space = number_from(operands[-2])
            self._next_line(0, -self.leading)
        elif name in _SETTERS and (values := last_numbers(operands, 1)):
            setattr(self, _SETTERS[name], values[0] / 100 if name == "Tz" else values[0])

    def _choose(self, operands: list[Any], fonts: Mapping[str, Type3Font]) -> None:
        size = last_numbers(operands, 1)
        name = last_name(list(operands)[:-1])
        if size and name is not None:
            self.font, self.size = fonts.get(name_text(name)), size[0]

    def _next_line(self, x: float, y: float) -> None:
        self.matrix = self.line = Matrix.translation(x, y).then(self.line)

    def move(self, x: float) -> None:
        """Moves the text along its line, in text space."""
        if x:
            self.matrix = Matrix.translation(x, 0).then(self.matrix)


_SETTERS = {
    "Tc": "char_space",
    "Tw": "word_space",
    "Tz": "stretch",
    "TL": "leading",
    "Ts": "rise",
}


def shown(state: TextState, strings: list[Any]) -> Iterator[tuple[int, float]]:
    """The codes that strings and numbers show in the state's font, each with how far along its
    line it stands; then the text is moved behind all of them.
    """
    font = state.font
    assert font is not None
    x, scale = 0.0, font.matrix.a * state.size
    for piece in strings:
        if not isinstance(piece, pikepdf.String):
            x -= number_from(piece) / 1000 * state.size * state.stretch
            continue
        for code in bytes(piece):
            yield code, x
            space = state.char_space + (state.word_space if code == _SPACE else 0.0)
            x += (font.widths.get(code, 0.0) * scale + space) * state.stretch
    state.move(x)


def glyph_matrix(state: TextState, x: float) -> Matrix:
    """The map from glyph space to the text's surroundings, `x` along the line."""
    font = state.font
    assert font is not None
    size = Matrix(state.size * state.stretch, 0, 0, state.size, 0, state.rise)
    along = Matrix.translation(x, 0).then(state.matrix)
    return font.matrix.then(size).then(along)


@cache
def _encoding_named(name: str) -> Mapping[int, str]:
    """Glyph names by code in one of the encodings that PDF names (annex D)."""
    # Few PDFs need the lists, and every reader would wait for them.
    from fontTools.agl import UV2AGL  # noqa: PLC0415
    from fontTools.encodings.MacRoman import MacRoman  # noqa: PLC0415
    from fontTools.encodings.StandardEncoding import StandardEncoding  # noqa: PLC0415

    if name == "/MacRomanEncoding":
        return dict(enumerate(MacRoman))
    if name == "/WinAnsiEncoding":
        texts = {code: bytes([code]).decode("cp1252", "ignore") for code in range(_MOST_CODES)}
        return {code: UV2AGL.get(ord(text), "") for code, text in texts.items() if text}
    return dict(enumerate(StandardEncoding))


def _names(font: pikepdf.Object) -> dict[int, str]:
    """The glyph names of codes: those of a named encoding, then what the font lists itself."""
    encoding = font.get("/Encoding")
    if isinstance(encoding, pikepdf.Name):
        return _as_keys(_encoding_named(str(encoding)))
    if not isinstance(encoding, pikepdf.Dictionary):
        return {}
    base = encoding.get("/BaseEncoding")
    names = _as_keys(_encoding_named(str(base))) if isinstance(base, pikepdf.Name) else {}
    code = 0
    differences = encoding.get("/Differences")
    for one in differences if isinstance(differences, pikepdf.Array) else []:
        if isinstance(one, pikepdf.Name):
            names[code] = str(one)
            code += 1
        else:
            code = int(number_from(one))
    return names


def _as_keys(names: Mapping[int, str]) -> dict[int, str]:
    return {code: f"/{name}" for code, name in names.items() if name and name != ".notdef"}
