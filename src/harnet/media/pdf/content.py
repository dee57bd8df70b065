"""Content streams as lists of operators, and typed looks into objects that may hold anything."""

from dataclasses import dataclass, field
from typing import Any
from urllib.parse import unquote_to_bytes

import pikepdf

from harnet.core.geometry import Matrix
from harnet.media.pdf.clip import CLIP_OPERATORS, PAINT_OPERATORS, PATH_OPERATORS, Bounds
from harnet.media.pdf.layers import Key

Instructions = list[tuple[str, Any]]
NONSENSE = (pikepdf.PdfError, TypeError, ValueError, LookupError, AttributeError, RuntimeError)
"""What pikepdf raises on objects that are not what they should be."""
FAR = 1e9
"""Points, or units: what lies farther, or is larger, is no page's business; 350 km."""
_MOST_KEPT = 200_000
_WITH_KEYS = (pikepdf.Dictionary, pikepdf.Stream)


@dataclass(slots=True)
class Parsed:
    """Streams of a page as operators; one that is entered again is not parsed again."""

    kept: dict[tuple[Key, frozenset[str]], Instructions | None] = field(default_factory=dict)
    size: int = 0

    def instructions(
        self, stream: pikepdf.Object | pikepdf.Page, wanted: frozenset[str]
    ) -> Instructions | None:
        """The operators that are wanted; those of paths only where something is clipped.

        None where the stream is not made of operators, or cannot be unpacked.
        """
        if isinstance(stream, pikepdf.Page):
            return _instructions(stream, wanted)
        key = stream.objgen, wanted
        if key in self.kept:
            return self.kept[key]
        found = _instructions(stream, wanted)
        self.size += len(found or ())
        if self.size <= _MOST_KEPT:
            self.kept[key] = found
        return found


def _instructions(
    stream: pikepdf.Object | pikepdf.Page, wanted: frozenset[str]
) -> Instructions | None:
    try:
        found = _parsed(stream, wanted)
        if any(name in CLIP_OPERATORS for name, _ in found):
            return _with_clips(stream, wanted)
    except NONSENSE:
        return None
    return found


def _parsed(stream: pikepdf.Object | pikepdf.Page, wanted: frozenset[str]) -> Instructions:
    found = pikepdf.parse_content_stream(stream, " ".join(wanted))
    return [(str(one.operator), one.operands) for one in found]


def _with_clips(stream: pikepdf.Object | pikepdf.Page, wanted: frozenset[str]) -> Instructions:
    """The operators that are wanted, and before them the paths that clip; a map has few of those.

    What paints a path that clips is among them, as that is where the clip begins.
    """
    kept: Instructions = []
    path: list[Any] = []
    clips = False
    operators = wanted | PATH_OPERATORS | PAINT_OPERATORS
    for one in pikepdf.parse_content_stream(stream, " ".join(operators)):
        name = str(one.operator)
        if name in PATH_OPERATORS or name in CLIP_OPERATORS:
            path.append(one)
            clips = clips or name in CLIP_OPERATORS
            continue
        if clips and name in PAINT_OPERATORS:
            kept += [(str(part.operator), part.operands) for part in path]
            kept.append((name, one.operands))
        elif name in wanted or name not in PAINT_OPERATORS:
            kept.append((name, one.operands))
        if name in PAINT_OPERATORS:
            path, clips = [], False
    return kept


def entry(dictionary: Any, key: str, otherwise: Any = None) -> Any:
    """What stands under a key; pikepdf's own `get` takes four times as long where nothing does."""
    return dictionary[key] if key in dictionary else otherwise  # noqa: SIM401


def dictionary_in(thing: Any, key: str) -> Any:
    """The dictionary under a key; an empty one for anything else."""
    if isinstance(thing, _WITH_KEYS) and key in thing:
        found = thing[key]
        if isinstance(found, pikepdf.Dictionary):
            return found
    return pikepdf.Dictionary()


def matrix_from(numbers: Any) -> Matrix | None:
    """Six finite numbers as a matrix; None for anything else."""
    values = _numbers(numbers, 6)
    return Matrix(*values) if values else None


def bounds_from(numbers: Any) -> Bounds | None:
    """Four numbers as a box, whichever corners they name; None for anything else."""
    values = _numbers(numbers, 4)
    if not values:
        return None
    x1, y1, x2, y2 = values
    return min(x1, x2), min(y1, y2), max(x1, x2), max(y1, y2)


def number_from(thing: Any) -> float:
    """A number within what a page could use; 0 for anything else."""
    found = _numbers([thing], 1)
    return found[0] if found else 0.0


def _numbers(numbers: Any, count: int) -> list[float]:
    """So many numbers, each within what a page could use; an empty list for anything else."""
    try:
        values = [float(number) for number in numbers]
    except NONSENSE:
        return []
    is_sound = len(values) == count and min(values) >= -FAR and max(values) <= FAR
    return values if is_sound else []


def strings_of(name: str, operands: list[Any]) -> list[Any]:
    """The strings and numbers that a text operator shows."""
    if not len(operands):
        return []
    if name == "TJ":
        return list(operands[0]) if isinstance(operands[0], pikepdf.Array) else []
    return [operands[-1]] if isinstance(operands[-1], pikepdf.String) else []


def name_text(name: Any) -> str:
    """A name as text; bytes that are not UTF-8, as older producers write them, as replacements."""
    try:
        return str(name)
    except UnicodeDecodeError:
        stored: bytes = name.unparse()
        return unquote_to_bytes(stored.replace(b"#", b"%")).decode("utf-8", "replace")


def named_in(dictionary: pikepdf.Object, operands: list[Any], place: int = 0) -> Any:
    """What an operator's name stands for; None where it gives none, or nothing has that name."""
    if len(operands) <= max(place, -place - 1):
        return None
    name = operands[place]
    return dictionary.get(name) if isinstance(name, pikepdf.Name) else None


def pattern_of(patterns: pikepdf.Object, operator: str, operands: list[Any]) -> Any:
    """The pattern that a colour operator chooses; None where it is a plain colour."""
    return named_in(patterns, operands, -1) if operator.lower() == "scn" else None
