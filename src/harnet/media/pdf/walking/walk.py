"""A walk through one page's content, its forms, patterns, glyphs and annotations."""

import math
from dataclasses import dataclass, field, replace
from time import process_time
from typing import Any

import pikepdf

from harnet.core.measure.geometry import Matrix
from harnet.media.limits import MAX_FORM_DEPTH, MAX_FORMS_A_PAGE
from harnet.media.pdf.reading.transparency import is_opaque_blend
from harnet.media.pdf.walking.annotations import annotations_of, look_of
from harnet.media.pdf.walking.clip import (
    CLIP_OPERATORS,
    PAINT_OPERATORS,
    PATH_OPERATORS,
    Bounds,
    Path,
    bounds_under,
    holds,
    is_axis_aligned,
    is_nothing,
    shared,
    unit_bounds,
)
from harnet.media.pdf.walking.content import (
    FAR,
    FILLED_BOX,
    MISSING,
    NONSENSE,
    Instructions,
    Parsed,
    bounds_from,
    last_name,
    last_numbers,
    matrix_from,
    name_text,
    strings_of,
)
from harnet.media.pdf.walking.glyphs import (
    TEXT_OPERATORS,
    TextState,
    Type3Font,
    glyph_matrix,
    shown,
    type3_font,
)
from harnet.media.pdf.walking.image_facts import ImageFacts, image_facts
from harnet.media.pdf.walking.image_occurrence import ImageOccurrence
from harnet.media.pdf.walking.layers import Key, is_off
from harnet.media.pdf.walking.scope import Scope, alpha_of

MOST_PAINTED = 200_000
LAYER_OFF, CLIPPED, OFF_PAGE, HIDDEN_NOTE, COVERED, CLEAR = (
    "on a layer that is switched off",
    "clipped away",
    "off the page",
    "in a hidden annotation",
    "covered",
    "fully transparent",
)
_FILLS = frozenset({"f", "F", "f*", "B", "B*", "b", "b*", "Tj", "TJ", "'", '"'})
_STROKES = frozenset({"S", "s", "B", "B*", "b", "b*"})
_FILL_COLOURS = frozenset({"g", "rg", "k", "sc", "scn", "cs"})
_STROKE_COLOURS = frozenset({"G", "RG", "K", "SC", "SCN", "CS"})
_PLACING = frozenset(["q", "Q", "cm", "Do", "BI", "ID", "EI", "W", "W*", "gs"])
_COLOURED = _FILLS | _STROKES | _FILL_COLOURS | _STROKE_COLOURS
_MARKED = frozenset({"BDC", "BMC", "EMC"})
_TEXT = frozenset(TEXT_OPERATORS.split())
_SHOWING = frozenset({"Tj", "TJ", "'", '"'})
_PAINTS_IMAGES = frozenset({"Do", "INLINE IMAGE", "scn", "SCN"})
_LEAST_PT = 1e-6
_HAIR_PT = 0.01
_MOST_COVER_CHECKS = 2_000_000
_LOOKS_EVERY = 256
_EVERYTHING: Bounds = (-FAR, -FAR, FAR, FAR)
_GROUP = "/Group"


class TooManyImages(Exception):
    """The page shows more images than anybody could look at."""


@dataclass(frozen=True, slots=True, kw_only=True)
class _State:
    """The part of the graphics state that decides where images go and whether they are seen.

    `clip` holds at least all of the clip; `is_exact` says that it holds no more. `is_opaque` says
    that what is filled hides what lies below it, `is_clear` that nothing of it is seen; around it,
    `in_opaque` and `in_clear` say the same of the groups that the content is painted into.
    """

    ctm: Matrix
    clip: Bounds | None = None
    unseen: str = ""
    fill_pattern: pikepdf.Object | None = None
    stroke_pattern: pikepdf.Object | None = None
    is_exact: bool = True
    is_opaque: bool = True
    is_clear: bool = False
    in_opaque: bool = True
    in_clear: bool = False

    def under(self, matrix: Matrix) -> "_State":
        """The state after a matrix was put before the current one."""
        # Not by `replace`, which takes as long as all the rest of a placement.
        return _State(
            ctm=matrix.then(self.ctm),
            clip=self.clip,
            unseen=self.unseen,
            fill_pattern=self.fill_pattern,
            stroke_pattern=self.stroke_pattern,
            is_exact=self.is_exact,
            is_opaque=self.is_opaque,
            is_clear=self.is_clear,
            in_opaque=self.in_opaque,
            in_clear=self.in_clear,
        )


@dataclass(slots=True)
class _Shape:
    """A glyph of one size on a page: the images that it painted when it was shown."""

    images: range
    is_seen: bool


@dataclass(slots=True, kw_only=True)
class PageWalk:
    """One page's walk. `page_box` is what is seen of it, `off` the layers that are not.

    `facts` and `pictorial` are shared by the pages of a document: an image, and whether a glyph
    paints any, is looked at once.
    """

    number: int
    facts: dict[Key, ImageFacts | None]
    page_box: Bounds
    off: frozenset[Key] | None = None
    pictorial: dict[Key, bool] = field(default_factory=dict)
    source: str = "page"
    open_streams: list[Key] = field(default_factory=list)
    glyphs: dict[tuple[Any, ...], _Shape] = field(default_factory=dict)
    parsed: Parsed = field(default_factory=Parsed)
    images: list[ImageOccurrence] = field(default_factory=list)
    """The images it came past, in the order they are painted."""
    boxes: list[Bounds | None] = field(default_factory=list)
    """What of each image may be seen; None where nothing is."""
    cover_checks: int = 0
    until: float | None = None
    """Processor time of this process at which the walk stops."""
    is_over: bool = False
    """Whether the time is up: then every content that is open ends, however deep it lies."""
    steps: int = 0
    entered: int = 0
    left_out: str = ""
    """What of the content was not followed, empty where all was."""
    whole: Instructions | None = None
    """The operators of the page's content, those for somebody else included; None where it is too
    long to be kept, or was not asked for."""

    def page(
        self,
        page: pikepdf.Page,
        resources: pikepdf.Object,
        base: Matrix,
        also: frozenset[str] = frozenset(),
    ) -> None:
        """Walks through a page's content, then through its annotations.

        `also` are operators that somebody else wants of the content, so that it is read once.
        """
        self._content(page, Scope(resources), _State(ctm=base), also)
        for note in annotations_of(page):
            self._annotation(note, base)

    def is_late(self) -> bool:
        """Whether the time is up; what is left is noted then."""
        if self.until is None or process_time() <= self.until:
            return False
        self._miss(f"content that takes longer than {self.until:g} seconds to read")
        self.is_over = True
        return True

    def _miss(self, what: str) -> None:
        """Notes what was not followed; that something is missing goes before all else."""
        if what and (not self.left_out or what == MISSING):
            self.left_out = what

    def _content(
        self,
        stream: pikepdf.Object | pikepdf.Page,
        scope: Scope,
        state: _State,
        also: frozenset[str] = frozenset(),
    ) -> None:
        has_patterns, fonts = scope.has("/Pattern"), self._pictorial_fonts(scope)
        has_state_fonts = scope.has_state_fonts
        base, saved, path, marks = state, list[tuple[_State, TextState]](), Path(), list[bool]()
        text = TextState()
        covers = self.source == "page" and not scope.paints_nothing
        wanted = self._wanted(has_patterns, bool(fonts) or has_state_fonts)
        read = self.parsed.read(stream, wanted | also, len(self.images) > 0)
        self._miss(read.lost)
        instructions, others = read.instructions, also - wanted
        if also and isinstance(instructions, list):
            self.whole = instructions
        if others:
            instructions = (one for one in instructions if one[0] not in others)
        area: Bounds | None = None
        for name, operands in instructions:
            self.steps += 1
            if self.is_over or (self.steps % _LOOKS_EVERY == 0 and self.is_late()):
                return
            if name == "q":
                saved.append((state, text.copy() if fonts or has_state_fonts else text))
            elif name == "Q":
                if saved:
                    state, text = saved.pop()
            elif name == "cm":
                values = last_numbers(operands, 6)
                state = state.under(Matrix(*values)) if values else state
            elif name == "Do":
                self._xobject(operands, scope, _under(state, marks), base, marks)
            elif name == "INLINE IMAGE":
                self._inline(operands, scope, _under(state, marks), base, marks)
            elif name in PATH_OPERATORS:
                path.add(name, operands, state.ctm)
            elif name in CLIP_OPERATORS:
                path.clips = True
            elif name in _MARKED:
                self._mark(name, operands, scope, marks)
            elif name == FILLED_BOX:
                if covers and not marks and state.fill_pattern is None:
                    self._cover(last_numbers(operands, 4), state)
            elif name == "gs":
                state = self._with_state(operands, scope, state, text)
            else:
                if name in _FILL_COLOURS:
                    pattern = self._pattern_named(scope, name, operands)
                    state = replace(state, fill_pattern=pattern)
                elif name in _STROKE_COLOURS:
                    pattern = self._pattern_named(scope, name, operands)
                    state = replace(state, stroke_pattern=pattern)
                if state.fill_pattern is not None or state.stroke_pattern is not None:
                    area = path.bounds if name in PAINT_OPERATORS else None
                    if name in _FILLS and state.fill_pattern is not None:
                        self._pattern(state.fill_pattern, base, _under(state, marks), scope, area)
                    if name in _STROKES and state.stroke_pattern is not None:
                        # A stroke reaches beyond its path by half its width, which is not kept.
                        stroked = _under(state, marks)
                        self._pattern(state.stroke_pattern, base, stroked, scope, None)
                if name in _TEXT:
                    text.take(name, operands, fonts)
                    if name in _SHOWING and text.font is not None:
                        self._show(strings_of(name, operands), text, _under(state, marks), scope)
                if name in PAINT_OPERATORS:
                    clip, is_exact = path.ended(state.clip, state.is_exact)
                    state = replace(state, clip=clip, is_exact=is_exact)
        self._miss(read.lost)

    def _wanted(self, has_patterns: bool, has_glyphs: bool) -> frozenset[str]:
        """The operators that matter in content with such resources."""
        wanted = _PLACING
        if has_patterns:
            wanted |= _COLOURED | PATH_OPERATORS
        if has_glyphs:
            wanted |= _TEXT
        if self.off is not None:
            wanted |= _MARKED
        return wanted

    def _mark(self, name: str, operands: list[Any], scope: Scope, marks: list[bool]) -> None:
        """Notes where content of a layer begins and ends."""
        if name == "EMC":
            if marks:
                marks.pop()
            return
        hides = False
        if name == "BDC" and len(operands) >= 2 and name_text(operands[-2]) == "/OC":
            group = operands[-1]
            if isinstance(group, pikepdf.Name):
                group = scope.find("/Properties", group)
            hides = self.off is not None and is_off(group, self.off)
        marks.append(hides)

    def _with_state(
        self, operands: list[Any], scope: Scope, state: _State, text: TextState
    ) -> _State:
        """The state after an extended graphics state was set (8.4.5)."""
        name = last_name(operands)
        stated = scope.find("/ExtGState", name) if name is not None else None
        if not isinstance(stated, pikepdf.Dictionary):
            return state
        font = stated.get("/Font")
        if isinstance(font, pikepdf.Array) and len(font) == 2:
            self._set_font(font, text)
        is_opaque, is_clear = state.is_opaque, state.is_clear
        alpha = alpha_of(stated, "/ca")
        if alpha is not None:
            is_clear, is_opaque = alpha <= 0, is_opaque and alpha >= 1
        if not _is_plain(stated):
            is_opaque = False
        elif alpha is not None and alpha >= 1 and _says_all(stated):
            is_opaque = True
        return replace(state, is_opaque=is_opaque, is_clear=is_clear)

    def _set_font(self, stated: pikepdf.Array, text: TextState) -> None:
        font, size = stated[0], last_numbers(stated, 1)
        is_type3 = isinstance(font, pikepdf.Dictionary) and font.get("/Subtype") == "/Type3"
        found = type3_font(font) if is_type3 else None
        if size:
            text.size = size[0]
            text.font = found if found is not None and self._is_pictorial(found) else None

    def _pictorial_fonts(self, scope: Scope) -> dict[str, Type3Font]:
        """The Type 3 fonts that paint images; text in all others is passed over."""
        return {name: font for name, font in scope.fonts.items() if self._is_pictorial(font)}

    def _is_pictorial(self, font: Type3Font) -> bool:
        return any(self._paints_images(glyph) for glyph in font.glyphs.values())

    def _paints_images(self, glyph: pikepdf.Object) -> bool:
        key = glyph.objgen
        if key not in self.pictorial or not key[0]:
            read = self.parsed.read(glyph, _PLACING | _COLOURED)
            paints = any(name in _PAINTS_IMAGES for name, _ in read.instructions)
            self.pictorial[key] = paints or bool(read.lost)
        return self.pictorial[key]

    def _pattern_named(self, scope: Scope, operator: str, operands: list[Any]) -> Any:
        """The pattern that a colour operator chooses; None where it is a plain colour."""
        name = last_name(operands) if operator.lower() == "scn" else None
        if name is None:
            return None
        found = scope.find("/Pattern", name)
        if found is None:
            self._miss(MISSING)
        return found

    def _inline(
        self,
        operands: list[Any],
        scope: Scope,
        state: _State,
        base: _State,
        marks: list[bool],
    ) -> None:
        try:
            facts = image_facts(operands[0].obj, scope.images)
        except NONSENSE:
            facts = None
        if facts is None:
            self._miss("an image within the content that cannot be read")
            return
        facts = replace(facts, inline=(operands[0], scope.images))
        self._painted(facts, state, base, scope, marks)

    def _xobject(
        self,
        operands: list[Any],
        scope: Scope,
        state: _State,
        base: _State,
        marks: list[bool],
    ) -> None:
        name = last_name(operands)
        if name is None:
            return
        xobject = scope.find("/XObject", name)
        if not isinstance(xobject, pikepdf.Stream):
            self._miss(MISSING)
            return
        if self.off is not None:
            layer = xobject.get("/OC")
            if is_off(layer, self.off):
                state = replace(state, unseen=state.unseen or LAYER_OFF)
            elif layer is not None:
                marks = [*marks, False]
        key = xobject.objgen
        if key in self.facts:
            self._painted(self.facts[key], state, base, scope, marks)
            return
        kind = xobject.get("/Subtype")
        if kind == "/Image":
            facts = self.facts[key] = image_facts(xobject, scope.images)
            if facts is None:
                self._miss("an image without a size")
            self._painted(facts, state, base, scope, marks)
        elif kind == "/Form":
            if _GROUP in xobject:
                state = replace(
                    state,
                    is_opaque=True,
                    is_clear=False,
                    in_opaque=state.in_opaque and state.is_opaque and not marks,
                    in_clear=state.in_clear or state.is_clear,
                )
            elif marks:
                state = replace(state, in_opaque=False)
            self._nested(xobject, scope, state)

    def _painted(
        self,
        facts: ImageFacts | None,
        state: _State,
        base: _State,
        scope: Scope,
        marks: list[bool],
    ) -> None:
        """An image, what a pattern paints through it where it is a stencil, what it covers."""
        if facts is None:
            return
        self._image(facts, state)
        if facts.is_stencil and state.fill_pattern is not None:
            area = unit_bounds(state.ctm)
            self._pattern(state.fill_pattern, base, state, scope, area)
        before = len(self.images) - 1
        is_page = self.source == "page" and not marks and before > 0
        if is_page and facts.is_opaque and is_axis_aligned(state.ctm):
            self._hide(unit_bounds(state.ctm), state, before)

    def _cover(self, box: list[float], state: _State) -> None:
        """A rectangle that is filled: what lies wholly below it is not seen."""
        if not box or not is_axis_aligned(state.ctm):
            return
        x, y, width, height = box
        corners = (min(x, x + width), min(y, y + height), max(x, x + width), max(y, y + height))
        self._hide(bounds_under(corners, state.ctm), state, len(self.images))

    def _hide(self, box: Bounds, state: _State, before: int) -> None:
        """Marks the images painted before that lie wholly under something opaque."""
        is_certain = state.is_exact and state.is_opaque and state.in_opaque
        if not is_certain or state.unseen or state.is_clear or state.in_clear:
            return
        cover = shared(box, state.clip)
        if cover is None or is_nothing(cover):
            return
        if self.cover_checks > _MOST_COVER_CHECKS:
            return
        self.cover_checks += before
        for index in range(before):
            seen = self.boxes[index]
            if seen is not None and holds(cover, seen, _HAIR_PT):
                self.images[index] = replace(self.images[index], unseen=COVERED)
                self.boxes[index] = None

    def _pattern(
        self,
        pattern: pikepdf.Object | None,
        base: _State,
        state: _State,
        scope: Scope,
        area: Bounds | None,
    ) -> None:
        """The images of a tiling pattern, each where a tile of it is seen; `area` is painted."""
        if not isinstance(pattern, pikepdf.Stream) or pattern.get("/PatternType") != 1:
            return
        painted = shared(shared(area, state.clip), self.page_box)
        # Its matrix counts from the content that it is used in (ISO 32000-2, 8.7.3.1).
        inner = _State(
            ctm=base.ctm,
            clip=None,
            unseen=state.unseen,
            is_opaque=state.is_opaque,
            is_clear=state.is_clear,
            in_opaque=False,
            in_clear=state.in_clear,
        )
        page_box, source, first = self.page_box, self.source, len(self.images)
        # Of one tile everything is looked at; then it is asked which tiles are seen.
        self.page_box, self.source = _EVERYTHING, "pattern" if source == "page" else source
        self._nested(pattern, scope, inner)
        self.page_box, self.source = page_box, source
        step = _tile_steps(pattern, base.ctm)
        for index in range(first, len(self.images)):
            image = self.images[index]
            image = replace(image, source=source) if image.source == "pattern" else image
            if not image.unseen:
                image = _on_a_seen_tile(image, step, painted, self.page_box, self.boxes[index])
            self.images[index] = image
            self.boxes[index] = None

    def _nested(self, stream: pikepdf.Object, outer: Scope, state: _State) -> None:
        if not self._may_enter(stream):
            return
        self.open_streams.append(stream.objgen)
        matrix = matrix_from(stream.get("/Matrix", [])) or Matrix()
        ctm = matrix.then(state.ctm)
        # A form is to have a box (table 93); where one has none, some renderers paint it all.
        box = bounds_from(stream.get("/BBox"))
        clip, is_exact = state.clip, state.is_exact
        if box:
            clip = shared(clip, bounds_under(box, ctm))
            is_exact = is_exact and is_axis_aligned(ctm)
        inner = replace(
            state, ctm=ctm, clip=clip, is_exact=is_exact, fill_pattern=None, stroke_pattern=None
        )
        own = stream.get("/Resources")
        scope = Scope(own, outer) if isinstance(own, pikepdf.Dictionary) else outer
        self._content(stream, scope, inner)
        self.open_streams.pop()

    def _may_enter(self, stream: pikepdf.Object) -> bool:
        """Whether a nested stream is followed: not within itself, not too deep, not for ever."""
        if stream.objgen in self.open_streams:
            return False
        self.entered += 1
        if len(self.open_streams) >= MAX_FORM_DEPTH:
            self._miss(f"content nested more than {MAX_FORM_DEPTH} levels deep")
        elif self.entered > MAX_FORMS_A_PAGE:
            self._miss(f"forms beyond the first {MAX_FORMS_A_PAGE}")
        else:
            return True
        return False

    def _show(self, strings: list[Any], text: TextState, state: _State, scope: Scope) -> None:
        """The images of glyphs; each glyph once a page and size, where it is seen if it is."""
        font = text.font
        assert font is not None
        start = glyph_matrix(text, 0).then(state.ctm)
        shape = tuple(round(value, 4) for value in (start.a, start.b, start.c, start.d))
        for code, x in shown(text, strings):
            glyph = font.glyphs.get(code)
            if glyph is None:
                continue
            key = (glyph.objgen, *shape)
            known = self.glyphs.get(key)
            if known is not None and known.is_seen:
                continue
            matrix = glyph_matrix(text, x).then(state.ctm)
            if known is None:
                self.glyphs[key] = self._glyph(glyph, font, matrix, state, scope)
            else:
                self._again(known, glyph, font, matrix, state, scope)

    def _glyph(
        self,
        glyph: pikepdf.Object,
        font: Type3Font,
        matrix: Matrix,
        state: _State,
        scope: Scope,
    ) -> _Shape:
        """Walks through a glyph's content."""
        first = len(self.images)
        if self._may_enter(glyph):
            before = self.source
            self.open_streams.append(glyph.objgen)
            self.source = "glyph"
            inner = Scope(font.resources, scope) if font.resources is not None else scope
            self._content(glyph, inner, replace(state, ctm=matrix))
            self.open_streams.pop()
            self.source = before
        images = range(first, len(self.images))
        is_seen = all(not self.images[index].unseen for index in images)
        return _Shape(images, is_seen)

    def _again(
        self,
        known: _Shape,
        glyph: pikepdf.Object,
        font: Type3Font,
        matrix: Matrix,
        state: _State,
        scope: Scope,
    ) -> None:
        """Shows a glyph once more that was not seen before; what is seen now counts."""
        found = self._glyph(glyph, font, matrix, state, scope)
        pairs = list(zip(known.images, found.images, strict=False))
        for old, new in pairs:
            if self.images[old].unseen and not self.images[new].unseen:
                self.images[old], self.boxes[old] = self.images[new], self.boxes[new]
        del self.images[found.images.start :], self.boxes[found.images.start :]
        known.is_seen = all(not self.images[index].unseen for index in known.images)

    def _annotation(self, note: pikepdf.Object, base: Matrix) -> None:
        """The images in what an annotation shows."""
        look = look_of(note)
        if look is None:
            return
        state = _State(
            ctm=look.matrix.then(base), clip=None, unseen=HIDDEN_NOTE if look.is_hidden else ""
        )
        if self.off is not None and is_off(look.layer, self.off):
            state = replace(state, unseen=LAYER_OFF)
        self.source = "annotation"
        self._nested(look.form, Scope(None), state)
        self.source = "page"

    def _image(self, facts: ImageFacts, state: _State) -> None:
        ctm = state.ctm
        shortest, longest = sorted((ctm.u_length, ctm.v_length))
        # A matrix of no width or no height shows nothing.
        if shortest < _LEAST_PT:
            return
        if not longest <= FAR:
            self._miss("an image drawn larger than any page")
            return
        if len(self.images) >= MOST_PAINTED:
            raise TooManyImages
        unseen, seen = state.unseen, None
        if not unseen and (state.is_clear or state.in_clear):
            unseen = CLEAR
        if not unseen:
            seen = shared(unit_bounds(ctm), self.page_box)
            if is_nothing(seen):
                unseen, seen = OFF_PAGE, None
            elif state.clip is not None:
                seen = shared(seen, state.clip)
                if is_nothing(seen):
                    unseen, seen = CLIPPED, None
        self.images.append(
            ImageOccurrence(
                page_number=self.number, facts=facts, matrix=ctm, unseen=unseen, source=self.source
            )
        )
        self.boxes.append(seen)


def _under(state: _State, marks: list[bool]) -> _State:
    return replace(state, unseen=state.unseen or LAYER_OFF) if any(marks) else state


def _is_plain(stated: pikepdf.Dictionary) -> bool:
    """Whether an extended graphics state lets what is filled hide what lies below it."""
    if not is_opaque_blend(stated) or isinstance(stated.get("/SMask"), pikepdf.Dictionary):
        return False
    # Without its own entry, filling overprints as stroking does (8.4.5).
    return not stated.get("/op", stated.get("/OP", False))


def _says_all(stated: pikepdf.Dictionary) -> bool:
    """Whether it sets everything that could have let something through before."""
    return all(key in stated for key in ("/BM", "/SMask", "/op"))


def _tile_steps(pattern: pikepdf.Object, base: Matrix) -> tuple[Matrix, float, float]:
    """The pattern's space on the page, and its steps there across and up; 0 for no step."""
    matrix = matrix_from(pattern.get("/Matrix", [])) or Matrix()
    steps = [last_numbers([pattern.get(key)], 1) for key in ("/XStep", "/YStep")]
    across, up = (abs(step[0]) if step else 0.0 for step in steps)
    return matrix.then(base), across, up


def _on_a_seen_tile(
    image: ImageOccurrence,
    tile: tuple[Matrix, float, float],
    painted: Bounds | None,
    page_box: Bounds,
    seen: Bounds | None,
) -> ImageOccurrence:
    """An image of a pattern on a tile that is seen; as unseen where none is.

    `seen` is what of it the cell shows, on the page.
    """
    space, across, up = tile
    if painted is None or seen is None:
        return image
    if is_nothing(painted):
        return replace(image, unseen=OFF_PAGE)
    if abs(space.determinant) < 1e-12:
        return image
    to_space = space.inverse
    wanted, own = bounds_under(painted, to_space), bounds_under(seen, to_space)
    shift = [
        _steps_into(own[0], own[2], wanted[0], wanted[2], across),
        _steps_into(own[1], own[3], wanted[1], wanted[3], up),
    ]
    if shift[0] is None or shift[1] is None:
        is_off = is_nothing(shared(seen, page_box))
        return replace(image, unseen=OFF_PAGE if is_off else CLIPPED)
    dx, dy = shift[0] * across, shift[1] * up
    if dx == 0 and dy == 0:
        return image
    x, y = space.a * dx + space.c * dy, space.b * dx + space.d * dy
    return replace(image, matrix=image.matrix.then(Matrix.translation(x, y)))


def _steps_into(low: float, high: float, from_: float, to: float, step: float) -> int | None:
    """The fewest steps that bring a stretch over another; None where none does."""
    if low < to and high > from_:
        return 0
    if step <= _LEAST_PT:
        return None
    # From the side that it lies on, as near as it gets.
    steps = math.ceil((from_ - high) / step + 1e-9) if high <= from_ else None
    if steps is None:
        steps = math.floor((to - low) / step - 1e-9)
    return steps if low + steps * step < to and high + steps * step > from_ else None
