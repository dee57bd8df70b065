"""Whether a page mixes colours: alpha, blend modes, soft masks (ISO 32000-2, 11.6 and 11.7)."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

import pikepdf

from harnet.media.limits import MAX_FORM_DEPTH
from harnet.media.pdf.walking.content import entry
from harnet.media.pdf.walking.layers import Key

_OPAQUE_BLENDS = frozenset({"/Normal", "/Compatible"})


@dataclass(slots=True)
class Transparency:
    """What is transparent among the resources of a document; each of them is looked at once.

    `images` are those that were looked at already, with whether they are see-through.
    """

    images: Callable[[Key], bool | None]
    known: dict[Key, bool] = field(default_factory=dict)

    def on_page(self, page: pikepdf.Page, resources: Any) -> bool:
        """Whether the page, a form, a pattern or an annotation on it can mix colours."""
        return self._within(resources, 0) or any(
            self._stream(look, 0) for look in _looks(entry(page.obj, "/Annots"))
        )

    def _within(self, resources: Any, depth: int) -> bool:
        if not isinstance(resources, pikepdf.Dictionary) or depth > MAX_FORM_DEPTH:
            return False
        states = _values(entry(resources, "/ExtGState"))
        if any(_mixes(state) for state in states):
            return True
        streams = [
            stream for key in ("/XObject", "/Pattern") for stream in _values(entry(resources, key))
        ]
        return any(self._stream(stream, depth) for stream in streams)

    def _stream(self, stream: Any, depth: int) -> bool:
        if not isinstance(stream, pikepdf.Stream):
            return False
        key = stream.objgen
        if key not in self.known:
            # Set before it is entered, so that a circle of forms ends.
            self.known[key] = False
            is_known = self.images(key)
            self.known[key] = (
                has_soft_mask(stream) or self._within(stream.get("/Resources"), depth + 1)
                if is_known is None
                else is_known
            )
        return self.known[key]


def has_soft_mask(image: pikepdf.Object | Mapping[str, Any]) -> bool:
    """Whether an image is see-through by a soft mask, beside it or within JPEG 2000."""
    if isinstance(image.get("/SMask"), pikepdf.Stream):
        return True
    within = image.get("/SMaskInData", 0)
    return isinstance(within, int) and within > 0


def is_opaque_blend(state: pikepdf.Dictionary) -> bool:
    """Whether the blend mode of a graphics state lets colours hide those below."""
    blends = state.get("/BM", "/Normal")
    names = list(blends) if isinstance(blends, pikepdf.Array) else [blends]
    # Of several, a reader takes the first that it knows.
    return not names or any(names[0] == one for one in _OPAQUE_BLENDS)


def _mixes(state: Any) -> bool:
    if not isinstance(state, pikepdf.Dictionary):
        return False
    for key in ("/ca", "/CA"):
        alpha = state.get(key, 1)
        try:
            if float(alpha) < 1:
                return True
        except (TypeError, ValueError):
            continue
    if not is_opaque_blend(state):
        return True
    return isinstance(state.get("/SMask"), pikepdf.Dictionary)


def _values(entry: Any) -> list[Any]:
    if not isinstance(entry, pikepdf.Dictionary):
        return []
    return list(entry.values())


def _looks(notes: Any) -> list[Any]:
    if not isinstance(notes, pikepdf.Array):
        return []
    found = []
    for note in list(notes):
        look = note.get("/AP") if isinstance(note, pikepdf.Dictionary) else None
        found.append(look.get("/N") if isinstance(look, pikepdf.Dictionary) else None)
    return found
