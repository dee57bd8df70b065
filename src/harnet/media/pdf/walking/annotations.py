"""What annotations show, and how it is laid onto their page (ISO 32000-2, 12.5.5)."""

from dataclasses import dataclass
from typing import Any

import pikepdf

from harnet.core.measure.geometry import Matrix
from harnet.media.pdf.walking.clip import bounds_under
from harnet.media.pdf.walking.content import bounds_from, dictionary_in, entry, matrix_from

_HIDDEN, _PRINT, _NO_VIEW = 2, 4, 32
"""Table 167."""


@dataclass(frozen=True, slots=True)
class Appearance:
    """An annotation's appearance; `matrix` lays its form, matrix included, into its rectangle."""

    form: pikepdf.Stream
    matrix: Matrix
    is_hidden: bool
    layer: Any


def annotations_of(page: pikepdf.Page) -> list[pikepdf.Object]:
    """The annotations of a page that are dictionaries."""
    notes = entry(page.obj, "/Annots")
    if not isinstance(notes, pikepdf.Array):
        return []
    return [note for note in list(notes) if isinstance(note, pikepdf.Dictionary)]


def look_of(note: pikepdf.Object) -> Appearance | None:
    """What an annotation shows as it stands; None where it shows nothing."""
    form = dictionary_in(note, "/AP").get("/N")
    if isinstance(form, pikepdf.Dictionary) and not isinstance(form, pikepdf.Stream):
        chosen = note.get("/AS")
        form = form.get(chosen if isinstance(chosen, pikepdf.Name) else "/Off")
    if not isinstance(form, pikepdf.Stream):
        return None
    rectangle, box = bounds_from(note.get("/Rect")), bounds_from(form.get("/BBox"))
    if rectangle is None or box is None:
        return None
    drawn = bounds_under(box, matrix_from(form.get("/Matrix", [])) or Matrix())
    width, height = drawn[2] - drawn[0], drawn[3] - drawn[1]
    if not width or not height:
        return None
    scale_x, scale_y = (rectangle[2] - rectangle[0]) / width, (rectangle[3] - rectangle[1]) / height
    left, bottom = rectangle[0] - drawn[0] * scale_x, rectangle[1] - drawn[1] * scale_y
    flags = note.get("/F", 0)
    flags = flags if isinstance(flags, int) else 0
    # What is not viewed may be printed all the same; what is neither is not seen by anybody.
    is_hidden = bool(flags & _HIDDEN) or (bool(flags & _NO_VIEW) and not flags & _PRINT)
    return Appearance(
        form, Matrix(scale_x, 0, 0, scale_y, left, bottom), is_hidden, note.get("/OC")
    )
