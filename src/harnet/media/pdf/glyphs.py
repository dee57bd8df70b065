"""Type 3 fonts, whose glyphs are small pages that may paint images (ISO 32000-2, 9.6.4)."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

import pikepdf

from harnet.core.geometry import Matrix
from harnet.media.pdf.content import dictionary_in, entry, matrix_from, name_text, number_from

_UNMOVED = Matrix()
_SPACE, _MOST_CODES = 32, 256
_THOUSANDTH = Matrix(0.001, 0, 0, 0.001, 0, 0)
TEXT_OPERATORS = "BT ET Tf Td TD Tm T* Tj TJ ' \" Tc Tw Tz TL Ts"


@dataclass(frozen=True, slots=True)
class Type3Font:
    """A Type 3 font: the content of glyphs and their widths by code; `matrix` is its own."""

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
        name.encode("utf-8", "surrogateescape").decode("utf-8", "replace"): _type3_font(font)
        for name, font in fonts.items()
        if isinstance(font, pikepdf.Dictionary) and font.get("/Subtype") == "/Type3"
    }


def _type3_font(font: pikepdf.Object) -> Type3Font:
    procedures, stated = dictionary_in(font, "/CharProcs"), font.get("/Widths")
    first = int(number_from(font.get("/FirstChar")))
    widths = list(stated) if isinstance(stated, pikepdf.Array) else []
    contents = {code: procedures.get(name) for code, name in _names(font).items()}
    return Type3Font(
        {code: found for code, found in contents.items() if isinstance(found, pikepdf.Stream)},
        {code: number_from(width) for code, width in enumerate(widths[:_MOST_CODES], first)},
        matrix_from(font.get("/FontMatrix")) or _THOUSANDTH,
        dictionary_in(font, "/Resources"),
    )


@dataclass(frozen=True, slots=True)
class TextState:
    """The text state (ISO 32000-2, 9.3) with the matrices of the text and of its line."""

    font: str = ""
    size: float = 0.0
    char_space: float = 0.0
    word_space: float = 0.0
    stretch: float = 1.0
    leading: float = 0.0
    rise: float = 0.0
    matrix: Matrix = _UNMOVED
    line: Matrix = _UNMOVED

    def after(self, name: str, operands: list[Any]) -> "TextState":
        """The state after an operator that shows nothing."""
        if name == "BT":
            return replace(self, matrix=Matrix(), line=Matrix())
        if name == "Tf":
            return replace(self, font=name_text(operands[0]), size=float(operands[1]))
        if name in _SETTERS and operands:
            value = float(operands[0])
            changes: dict[str, Any] = {_SETTERS[name]: value / 100 if name == "Tz" else value}
            return replace(self, **changes)
        if name == "Tm":
            matrix = Matrix(*(float(number) for number in operands))
            return replace(self, matrix=matrix, line=matrix)
        if name in ("Td", "TD"):
            x, y = float(operands[0]), float(operands[1])
            moved = replace(self, leading=-y) if name == "TD" else self
            return moved._next_line(x, y)
        if name in ("T*", "'"):
            return self._next_line(0, -self.leading)
        if name == '"':
            spaced = replace(self, word_space=float(operands[0]), char_space=float(operands[1]))
            return spaced._next_line(0, -self.leading)
        return self

    def _next_line(self, x: float, y: float) -> "TextState":
        line = Matrix.translation(x, y).then(self.line)
        return replace(self, matrix=line, line=line)

    def moved(self, x: float) -> "TextState":
        """The state with the text moved along its line, in text space."""
        return replace(self, matrix=Matrix.translation(x, 0).then(self.matrix))


_SETTERS = {
    "Tc": "char_space",
    "Tw": "word_space",
    "Tz": "stretch",
    "TL": "leading",
    "Ts": "rise",
}


@dataclass(frozen=True, slots=True)
class Glyph:
    """A glyph that is shown: its content, and the matrix from glyph space to the text's space."""

    content: pikepdf.Object
    matrix: Matrix


def shown(font: Type3Font, state: TextState, strings: list[Any]) -> tuple[list[Glyph], TextState]:
    """Each glyph of shown strings and numbers where it is shown first, and the state after all."""
    size = Matrix(state.size * state.stretch, 0, 0, state.size, 0, state.rise)
    to_text = font.matrix.then(size)
    found: dict[int, Glyph] = {}
    x = 0.0
    for piece in strings:
        if not isinstance(piece, pikepdf.String):
            x -= number_from(piece) / 1000 * state.size * state.stretch
            continue
        for code in bytes(piece):
            if code in font.glyphs and code not in found:
                found[code] = Glyph(font.glyphs[code], to_text.then(state.moved(x).matrix))
            space = state.char_space + (state.word_space if code == _SPACE else 0.0)
            width = font.widths.get(code, 0.0) * font.matrix.a * state.size
            x += (width + space) * state.stretch
    return list(found.values()), state.moved(x)


def _names(font: pikepdf.Object) -> dict[int, pikepdf.Object]:
    """The glyph names of codes, as the font's encoding lists them."""
    encoding = font.get("/Encoding")
    names: dict[int, pikepdf.Object] = {}
    if not isinstance(encoding, pikepdf.Dictionary):
        return names
    code = 0
    differences = encoding.get("/Differences")
    for one in differences if isinstance(differences, pikepdf.Array) else []:
        if isinstance(one, pikepdf.Name):
            names[code] = one
            code += 1
        else:
            code = int(number_from(one))
    return names
