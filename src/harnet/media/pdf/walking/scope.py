"""Where names in content are looked up: a stream's own resources, then those around it."""

from typing import Any

import pikepdf

from harnet.media.pdf.walking.content import NONSENSE, dictionary_in, entry
from harnet.media.pdf.walking.glyphs import Type3Font, type3_fonts


class Scope:
    """Resources of a content stream, with those of the streams that it is used in behind them.

    A form without an entry takes that of its page, as renderers do, though a form is to have all
    of its own (ISO 32000-2, 7.8.3).
    """

    def __init__(self, own: Any, outer: "Scope | None" = None) -> None:
        self.own = own if isinstance(own, pikepdf.Dictionary) else pikepdf.Dictionary()
        self._outer = outer
        self._kinds: dict[str, Any] = {}
        self._fonts: dict[str, Type3Font] | None = None

    def find(self, kind: str, name: Any) -> Any:
        """What a name stands for among the resources of a kind; None where nothing has it."""
        found = self._of(kind).get(name)
        if found is None and self._outer is not None:
            return self._outer.find(kind, name)
        return found

    def has(self, kind: str) -> bool:
        """Whether there are any resources of a kind."""
        if len(self._of(kind)) > 0:
            return True
        return self._outer is not None and self._outer.has(kind)

    @property
    def has_state_fonts(self) -> bool:
        """Whether an extended graphics state sets a font."""
        states = self._of("/ExtGState").values()
        if any(isinstance(one, pikepdf.Dictionary) and "/Font" in one for one in states):
            return True
        return self._outer is not None and self._outer.has_state_fonts

    @property
    def images(self) -> Any:
        """The dictionary in which images look their colour spaces up."""
        if "/ColorSpace" in self.own or self._outer is None:
            return self.own
        return self._outer.images

    @property
    def fonts(self) -> dict[str, Type3Font]:
        """The Type 3 fonts by name; those around it first."""
        if self._fonts is None:
            around = self._outer.fonts if self._outer is not None else {}
            self._fonts = {**around, **type3_fonts(self.own)}
        return self._fonts

    @property
    def paints_nothing(self) -> bool:
        """Whether there is an ink that leaves no mark: Separation None (8.6.6.4)."""
        for space in self._of("/ColorSpace").values():
            try:
                if isinstance(space, pikepdf.Array) and entry_text(space, 1) == "/None":
                    return True
            except NONSENSE:
                continue
        return self._outer is not None and self._outer.paints_nothing

    def _of(self, kind: str) -> Any:
        if kind not in self._kinds:
            self._kinds[kind] = dictionary_in(self.own, kind)
        return self._kinds[kind]


def entry_text(array: pikepdf.Array, place: int) -> str:
    """An entry of an array as text; empty for anything but a name."""
    if len(array) <= place or not isinstance(array[place], pikepdf.Name):
        return ""
    return str(array[place])


def alpha_of(state: Any, key: str) -> float | None:
    """An alpha that an extended graphics state sets; None where it sets none."""
    stated = entry(state, key)
    try:
        return None if stated is None else float(stated)
    except NONSENSE:
        return None
