"""A walk through one page's content, its forms, patterns, glyphs and annotations."""

from dataclasses import dataclass, field, replace
from typing import Any

import pikepdf

from harnet.core.geometry import Matrix
from harnet.media.limits import MAX_FORM_DEPTH, MAX_FORMS_A_PAGE
from harnet.media.pdf.annotations import annotations_of, look_of
from harnet.media.pdf.clip import (
    CLIP_OPERATORS,
    PAINT_OPERATORS,
    PATH_OPERATORS,
    Bounds,
    Path,
    bounds_under,
    is_nothing,
    shared,
    unit_bounds,
)
from harnet.media.pdf.content import (
    FAR,
    NONSENSE,
    Instructions,
    Parsed,
    bounds_from,
    dictionary_in,
    matrix_from,
    name_text,
    named_in,
    pattern_of,
    strings_of,
)
from harnet.media.pdf.glyphs import TEXT_OPERATORS, TextState, Type3Font, shown, type3_fonts
from harnet.media.pdf.imagefacts import ImageFacts, image_facts
from harnet.media.pdf.layers import Key, is_off
from harnet.media.pdf.paintedimage import PaintedImage

MOST_PAINTED = 200_000
LAYER_OFF, CLIPPED, OFF_PAGE, HIDDEN_NOTE = (
    "on a layer that is switched off",
    "clipped away",
    "off the page",
    "in a hidden annotation",
)
_FILLS = frozenset({"f", "F", "f*", "B", "B*", "b", "b*", "Tj", "TJ", "'", '"'})
_STROKES = frozenset({"S", "s", "B", "B*", "b", "b*"})
_FILL_COLOURS = frozenset({"g", "rg", "k", "sc", "scn", "cs"})
_STROKE_COLOURS = frozenset({"G", "RG", "K", "SC", "SCN", "CS"})
_PLACING = frozenset(["q", "Q", "cm", "Do", "BI", "ID", "EI", "W", "W*"])
_COLOURED = _FILLS | _STROKES | _FILL_COLOURS | _STROKE_COLOURS
_MARKED = frozenset({"BDC", "BMC", "EMC"})
_TEXT = frozenset(TEXT_OPERATORS.split())
_SHOWING = frozenset({"Tj", "TJ", "'", '"'})
_NO_TEXT = TextState()
_LEAST_PT = 1e-6


class TooManyImages(Exception):
    """The page paints more images than anybody could look at."""


@dataclass(frozen=True, slots=True)
class _State:
    """The part of the graphics state that decides where images go and whether they are seen."""

    ctm: Matrix
    clip: Bounds | None = None
    unseen: str = ""
    text: TextState = _NO_TEXT
    fill_pattern: pikepdf.Object | None = None
    stroke_pattern: pikepdf.Object | None = None

    def under(self, matrix: Matrix) -> "_State":
        """The state after a matrix was put before the current one."""
        ctm = matrix.then(self.ctm)
        # Not by `replace`, which takes as long as all the rest of a placement.
        return _State(
            ctm, self.clip, self.unseen, self.text, self.fill_pattern, self.stroke_pattern
        )


@dataclass(slots=True)
class PageWalk:
    """One page's walk. `page_box` is what is seen of it, `off` the layers that are not.

    `facts` is shared by the pages of a document: an image is looked at once.
    """

    number: int
    facts: dict[Key, ImageFacts | None]
    page_box: Bounds
    off: frozenset[Key] | None = None
    source: str = "page"
    open_streams: list[Key] = field(default_factory=list)
    glyphs: set[tuple[Any, ...]] = field(default_factory=set)
    parsed: Parsed = field(default_factory=Parsed)
    images: list[PaintedImage] = field(default_factory=list)
    """The images it came past, in the order they are painted."""
    entered: int = 0
    left_out: str = ""
    """What of the content was not followed, empty where all was."""

    def page(self, page: pikepdf.Page, resources: pikepdf.Object, base: Matrix) -> None:
        """Walks through a page's content, then through its annotations."""
        self._content(page, resources, _State(base))
        for note in annotations_of(page):
            self._annotation(note, base)

    def _content(
        self, stream: pikepdf.Object | pikepdf.Page, resources: pikepdf.Object, state: _State
    ) -> None:
        xobjects, patterns = (dictionary_in(resources, key) for key in ("/XObject", "/Pattern"))
        fonts = type3_fonts(resources)
        base, saved, path, marks = state, [], Path(), list[bool]()
        for name, operands in self._instructions(stream, len(patterns) > 0, bool(fonts)):
            if name == "q":
                saved.append(state)
            elif name == "Q":
                state = saved.pop() if saved else state
            elif name == "cm":
                matrix = matrix_from(operands)
                state = state.under(matrix) if matrix else state
            elif name == "Do":
                xobject = named_in(xobjects, operands)
                self._xobject(xobject, resources, _under(state, marks))
            elif name == "INLINE IMAGE":
                facts = image_facts(operands[0].obj, resources)
                self._image(facts, _under(state, marks))
            elif name in PATH_OPERATORS:
                path.add(name, operands, state.ctm)
            elif name in CLIP_OPERATORS:
                path.clips = True
            elif name in _MARKED:
                self._mark(name, operands, resources, marks)
            else:
                if name in _FILL_COLOURS:
                    state = replace(state, fill_pattern=pattern_of(patterns, name, operands))
                elif name in _STROKE_COLOURS:
                    state = replace(state, stroke_pattern=pattern_of(patterns, name, operands))
                if name in _FILLS and state.fill_pattern is not None:
                    self._pattern(state.fill_pattern, base, state)
                if name in _STROKES and state.stroke_pattern is not None:
                    self._pattern(state.stroke_pattern, base, state)
                if fonts and name in _TEXT:
                    state = replace(state, text=_text_after(state.text, name, operands))
                    font = fonts.get(state.text.font)
                    if name in _SHOWING and font is not None:
                        text = self._shown(font, strings_of(name, operands), state)
                        state = replace(state, text=text)
                if name in PAINT_OPERATORS:
                    state = replace(state, clip=path.ended(state.clip))

    def _instructions(
        self, stream: pikepdf.Object | pikepdf.Page, has_patterns: bool, has_glyphs: bool
    ) -> Instructions:
        """The operators that matter here."""
        wanted = _PLACING
        if has_patterns:
            wanted |= _COLOURED
        if has_glyphs:
            wanted |= _TEXT
        if self.off is not None:
            wanted |= _MARKED
        found = self.parsed.instructions(stream, wanted)
        if found is None:
            self.left_out = "content that cannot be read"
            return []
        return found

    def _mark(
        self, name: str, operands: list[Any], resources: pikepdf.Object, marks: list[bool]
    ) -> None:
        """Notes where content of a layer begins and ends."""
        if name == "EMC":
            if marks:
                marks.pop()
            return
        hides = False
        if name == "BDC" and len(operands) == 2 and name_text(operands[0]) == "/OC":
            group = operands[1]
            if isinstance(group, pikepdf.Name):
                group = dictionary_in(resources, "/Properties").get(group)
            hides = self.off is not None and is_off(group, self.off)
        marks.append(hides)

    def _xobject(
        self, xobject: pikepdf.Object | None, resources: pikepdf.Object, state: _State
    ) -> None:
        if not isinstance(xobject, pikepdf.Stream):
            return
        if self.off is not None and is_off(xobject.get("/OC"), self.off):
            state = replace(state, unseen=state.unseen or LAYER_OFF)
        key = xobject.objgen
        if key in self.facts:
            self._image(self.facts[key], state)
            return
        kind = xobject.get("/Subtype")
        if kind == "/Image":
            facts = self.facts[key] = image_facts(xobject, resources)
            self._image(facts, state)
        elif kind == "/Form":
            self._nested(xobject, resources, state)

    def _pattern(self, pattern: pikepdf.Object | None, base: _State, state: _State) -> None:
        """The images of a tiling pattern."""
        if isinstance(pattern, pikepdf.Stream) and pattern.get("/PatternType") == 1:
            # Its matrix counts from the content that it is used in (ISO 32000-2, 8.7.3.1).
            inner = _State(base.ctm, state.clip, state.unseen)
            self._nested(pattern, pikepdf.Dictionary(), inner, clips=False)

    def _nested(
        self, stream: pikepdf.Object, outer: pikepdf.Object, state: _State, clips: bool = True
    ) -> None:
        if not self._may_enter(stream):
            return
        self.open_streams.append(stream.objgen)
        matrix = matrix_from(stream.get("/Matrix", [])) or Matrix()
        ctm = matrix.then(state.ctm)
        box = bounds_from(stream.get("/BBox"))
        clip = shared(state.clip, bounds_under(box, ctm)) if box and clips else state.clip
        inner = _State(ctm, clip, state.unseen)
        own = stream.get("/Resources")
        resources = own if isinstance(own, pikepdf.Dictionary) else outer
        self._content(stream, resources, inner)
        self.open_streams.pop()

    def _may_enter(self, stream: pikepdf.Object) -> bool:
        """Whether a nested stream is followed: not within itself, not too deep, not for ever."""
        if stream.objgen in self.open_streams:
            return False
        self.entered += 1
        if len(self.open_streams) >= MAX_FORM_DEPTH:
            self.left_out = f"what is nested more than {MAX_FORM_DEPTH} deep"
        elif self.entered > MAX_FORMS_A_PAGE:
            self.left_out = f"forms beyond the first {MAX_FORMS_A_PAGE}"
        else:
            return True
        return False

    def _shown(self, font: Type3Font, strings: list[Any], state: _State) -> TextState:
        """The images of glyphs; each glyph once a page and size, however often it is shown."""
        before = self.source
        glyphs, text = shown(font, state.text, strings)
        for glyph in glyphs:
            ctm = glyph.matrix.then(state.ctm)
            shape = tuple(round(value, 4) for value in (ctm.a, ctm.b, ctm.c, ctm.d))
            if (glyph.content.objgen, *shape) in self.glyphs:
                continue
            self.glyphs.add((glyph.content.objgen, *shape))
            if not self._may_enter(glyph.content):
                continue
            self.open_streams.append(glyph.content.objgen)
            self.source = "glyph"
            inner = _State(ctm, state.clip, state.unseen)
            self._content(glyph.content, font.resources, inner)
            self.open_streams.pop()
            self.source = before
        return text

    def _annotation(self, note: pikepdf.Object, base: Matrix) -> None:
        """The images in what an annotation shows."""
        look = look_of(note)
        if look is None:
            return
        state = _State(look.matrix.then(base), None, HIDDEN_NOTE if look.is_hidden else "")
        if self.off is not None and is_off(look.layer, self.off):
            state = replace(state, unseen=LAYER_OFF)
        self.source = "annotation"
        self._nested(look.form, pikepdf.Dictionary(), state)
        self.source = "page"

    def _image(self, facts: ImageFacts | None, state: _State) -> None:
        ctm = state.ctm
        shortest, longest = sorted((ctm.u_length, ctm.v_length))
        # A matrix of no width or no height paints nothing.
        if facts is None or shortest < _LEAST_PT:
            return
        if not longest <= FAR:
            self.left_out = "a picture that is drawn larger than any page"
            return
        if len(self.images) >= MOST_PAINTED:
            raise TooManyImages
        unseen = state.unseen
        if not unseen:
            seen = shared(unit_bounds(ctm), self.page_box)
            if is_nothing(seen):
                unseen = OFF_PAGE
            elif state.clip is not None and is_nothing(shared(seen, state.clip)):
                unseen = CLIPPED
        self.images.append(PaintedImage(self.number, facts, ctm, unseen, self.source))


def _under(state: _State, marks: list[bool]) -> _State:
    return replace(state, unseen=state.unseen or LAYER_OFF) if any(marks) else state


def _text_after(text: TextState, name: str, operands: list[Any]) -> TextState:
    try:
        return text.after(name, operands)
    except NONSENSE:
        return text
