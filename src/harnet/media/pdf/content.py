"""Content streams as lists of operators, and typed looks into objects that may hold anything."""

from dataclasses import dataclass, field
from typing import Any

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


@dataclass(slots=True)
class Parsed:
    """Streams of a page as operators; one that is entered again is not parsed again."""

    kept: dict[tuple[Key, frozenset[str]], Instructions] = field(default_factory=dict)
    size: int = 0

    def instructions(
        self, stream: pikepdf.Object | pikepdf.Page, wanted: frozenset[str]
    ) -> Instructions:
        """The operators that are wanted; those of paths only where something is clipped."""
        if isinstance(stream, pikepdf.Page):
            return _instructions(stream, wanted)
        key = stream.objgen, wanted
        found = self.kept.get(key)
        if found is None:
            found = _instructions(stream, wanted)
            self.size += len(found)
            if self.size <= _MOST_KEPT:
                self.kept[key] = found
        return found


def _instructions(stream: pikepdf.Object | pikepdf.Page, wanted: frozenset[str]) -> Instructions:
    found = _parsed(stream, wanted)
    if any(name in CLIP_OPERATORS for name, _ in found):
        return _parsed(stream, wanted | PATH_OPERATORS | PAINT_OPERATORS)
    return found


def _parsed(stream: pikepdf.Object | pikepdf.Page, operators: frozenset[str]) -> Instructions:
    try:
        found = pikepdf.parse_content_stream(stream, " ".join(operators))
        return [(str(one.operator), one.operands) for one in found]
    except NONSENSE:
        return []


def dictionary_in(thing: Any, key: str) -> Any:
    """The dictionary under a key; an empty one for anything else."""
    found = thing.get(key) if isinstance(thing, pikepdf.Dictionary | pikepdf.Stream) else None
    return found if isinstance(found, pikepdf.Dictionary) else pikepdf.Dictionary()


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
    is_sound = len(values) == count and all(abs(value) <= FAR for value in values)
    return values if is_sound else []


def strings_of(name: str, operands: list[Any]) -> list[Any]:
    """The strings and numbers that a text operator shows."""
    if not len(operands):
        return []
    if name == "TJ":
        return list(operands[0]) if isinstance(operands[0], pikepdf.Array) else []
    return [operands[-1]] if isinstance(operands[-1], pikepdf.String) else []


def name_in(operands: list[Any]) -> str:
    """The name that an operator was given, or one that nothing has."""
    is_name = len(operands) and isinstance(operands[0], pikepdf.Name)
    return str(operands[0]) if is_name else "/"


def pattern_name(operator: str, operands: list[Any]) -> str | None:
    """The pattern that a colour operator chooses; None where it is a plain colour."""
    if operator.lower() != "scn" or not len(operands):
        return None
    return str(operands[-1]) if isinstance(operands[-1], pikepdf.Name) else None


def annotations_of(page: pikepdf.Page) -> list[pikepdf.Object]:
    """The annotations of a page that are dictionaries."""
    notes = page.obj.get("/Annots")
    if not isinstance(notes, pikepdf.Array):
        return []
    return [note for note in list(notes) if isinstance(note, pikepdf.Dictionary)]
