"""Fonts that a page uses by name alone, without a file in the PDF (ISO 32000-2, 9.9)."""

import re
from collections.abc import Iterable, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Any

import pikepdf

from harnet.media.limits import MAX_FORM_DEPTH
from harnet.media.pdf.walking.annotations import annotations_of
from harnet.media.pdf.walking.content import (
    NONSENSE,
    Parsed,
    dictionary_in,
    name_text,
    number_from,
)
from harnet.media.pdf.walking.layers import Key

_FILES = ("/FontFile", "/FontFile2", "/FontFile3")
_SHOWING = frozenset({"Tj", "TJ", "'", '"'})
FONT_OPERATORS = frozenset({"Tf", "Tr", "q", "Q", *_SHOWING})
"""What tells which fonts show a letter."""
_SHOWS_OR_SAVES = re.compile(rb"T[jJ]|['\"]|\b[qQ]\b")
_MOST_LOOKED_THROUGH = 1_000_000
"""Bytes of packed content."""
_UNSEEN_MODES = (3, 7)
"""Text that is neither filled nor stroked (table 104), as text recognition lays over scans."""


@dataclass(slots=True)
class LooseFonts:
    """The names of loose fonts in which a document's pages show a letter, as they are found.

    What is known to be used is not looked for again, and a form is looked at once.
    """

    names: set[str] = field(default_factory=set)
    entered: set[Key] = field(default_factory=set)
    known: dict[Key, str | None] = field(default_factory=dict)
    """The names of fonts that were looked at before; None of one that is embedded."""

    def are_sought_in(self, page: pikepdf.Page, resources: Any) -> bool:
        """Whether a page's content must be read to tell if a font is among them."""
        fonts = self._loose(dictionary_in(resources, "/Font"))
        if self.names.issuperset(fonts.values()):
            return False
        return _may_be_shown(page, [name for name, own in fonts.items() if own not in self.names])

    def look_at(
        self, page: pikepdf.Page, resources: Any, content: Iterable[tuple[str, Any]] | None = None
    ) -> None:
        """Looks at a page and what is on it.

        `content` are its operators, those of FONT_OPERATORS among them; empty where none matters.
        """
        self._look(page, resources, 0, content)
        for note in annotations_of(page):
            look = dictionary_in(note, "/AP").get("/N")
            if isinstance(look, pikepdf.Stream):
                self._form(look, pikepdf.Dictionary(), 0)

    def _look(
        self,
        stream: Any,
        resources: Any,
        depth: int,
        content: Iterable[tuple[str, Any]] | None = None,
    ) -> None:
        fonts = self._loose(dictionary_in(resources, "/Font"))
        if not self.names.issuperset(fonts.values()):
            if content is None:
                content = Parsed().read(stream, FONT_OPERATORS).instructions
            self.names |= _shown(content, fonts)
        for key in ("/XObject", "/Pattern"):
            for stream in dictionary_in(resources, key).values():
                if isinstance(stream, pikepdf.Stream) and stream.get("/Subtype") != "/Image":
                    self._form(stream, resources, depth)

    def _form(self, form: pikepdf.Stream, outer: Any, depth: int) -> None:
        if form.objgen in self.entered or depth >= MAX_FORM_DEPTH:
            return
        self.entered.add(form.objgen)
        inner = form.get("/Resources")
        resources = inner if isinstance(inner, pikepdf.Dictionary) else outer
        self._look(form, resources, depth + 1)

    def _loose(self, fonts: pikepdf.Object) -> dict[str, str]:
        """The loose ones among the fonts of resources: their names there, and their own."""
        found = {}
        for name, font in fonts.items():
            own = self._own_name(font)
            if own is not None:
                known_as = name.encode("utf-8", "surrogateescape").decode("utf-8", "replace")
                found[known_as] = own
        return found

    def _own_name(self, font: Any) -> str | None:
        """The name of a loose font; None of one that is embedded."""
        key: Key = font.objgen if isinstance(font, pikepdf.Object) else (0, 0)
        if key in self.known:
            return self.known[key]
        name = None
        with suppress(*NONSENSE):
            if _is_loose(font):
                name = name_text(font.get("/BaseFont", "unnamed")).lstrip("/").rpartition("+")[2]
        if key[0]:
            self.known[key] = name
        return name


def _may_be_shown(page: pikepdf.Page, names: Sequence[str]) -> bool:
    """Whether text may be set in one of these fonts: a quick look that errs on the safe side.

    Some producers choose a font at the top of each page and set nothing in it.
    """
    contents = page.obj.get("/Contents")
    streams: list[Any] = list(contents) if isinstance(contents, pikepdf.Array) else [contents]
    try:
        if sum(int(stream["/Length"]) for stream in streams) > _MOST_LOOKED_THROUGH:
            return True
        data = b"\n".join(bytes(stream.read_bytes()) for stream in streams)
    except NONSENSE:
        return True
    return b"#" in data or any(_may_show(data, name.lstrip("/").encode()) for name in names)


def _may_show(data: bytes, name: bytes) -> bool:
    chosen = re.compile(rb"/%s\s+[-+.\d]+\s+Tf\s(.*?)(?=\sTf\s|\Z)" % re.escape(name), re.DOTALL)
    until_the_next = chosen.findall(data)
    is_all = len(until_the_next) == data.count(b"/" + name)
    return not is_all or any(map(_SHOWS_OR_SAVES.search, until_the_next))


def _is_loose(font: Any) -> bool:
    if not isinstance(font, pikepdf.Dictionary) or font.get("/Subtype") == "/Type3":
        return False
    descendants = font.get("/DescendantFonts")
    if isinstance(descendants, pikepdf.Array) and len(descendants):
        font = descendants[0]
    descriptor = dictionary_in(font, "/FontDescriptor")
    return not any(key in descriptor for key in _FILES)


def _shown(content: Iterable[tuple[str, Any]], fonts: dict[str, str]) -> set[str]:
    found, saved = set(), []
    font, mode = "", 0.0
    for name, operands in content:
        if name == "Tf" and len(operands) >= 2:
            font = name_text(operands[-2])
        elif name == "Tr" and len(operands):
            mode = number_from(operands[-1])
        elif name == "q":
            saved.append((font, mode))
        elif name == "Q":
            font, mode = saved.pop() if saved else (font, mode)
        elif name in _SHOWING and font in fonts and mode not in _UNSEEN_MODES:
            found.add(fonts[font])
    return found
