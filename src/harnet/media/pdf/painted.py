"""Every image that a PDF paints, with the matrix that draws it (formula 1)."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import pikepdf

from harnet.core.density import EffectiveDensity, effective_density
from harnet.core.geometry import Matrix
from harnet.core.picture import Colour
from harnet.media.errors import UnreadableFile
from harnet.media.limits import MAX_FORM_DEPTH
from harnet.media.pdf.imagefacts import ImageFacts, image_facts
from harnet.media.pdf.opening import opened_pdf

_MOST_PAINTED = 1_000_000
_FILLS = frozenset({"f", "F", "f*", "B", "B*", "b", "b*", "Tj", "TJ", "'", '"'})
_STROKES = frozenset({"S", "s", "B", "B*", "b", "b*"})
_FILL_COLOURS = frozenset({"g", "rg", "k", "sc", "scn", "cs"})
_STROKE_COLOURS = frozenset({"G", "RG", "K", "SC", "SCN", "CS"})
_PLACING = "q Q cm Do BI ID EI"
_WITH_PATTERNS = " ".join([_PLACING, *sorted(_FILLS | _STROKES | _FILL_COLOURS | _STROKE_COLOURS)])


@dataclass(frozen=True, slots=True)
class PaintedImage:
    """One image as one page paints it; `matrix` maps the unit square to points, y upwards."""

    page_number: int
    px_w: int
    px_h: int
    colour: Colour
    bits: int
    matrix: Matrix

    @property
    def density(self) -> EffectiveDensity:
        """The effective density in ppi."""
        return effective_density(self.px_w, self.px_h, self.matrix)

    @property
    def width_pt(self) -> float:
        """Length of its lower edge on the page."""
        return self.matrix.u_length

    @property
    def height_pt(self) -> float:
        """Length of its side edge on the page."""
        return self.matrix.v_length


@dataclass(frozen=True, slots=True)
class _State:
    """The part of the graphics state that decides where images go."""

    ctm: Matrix
    fill_pattern: str | None = None
    stroke_pattern: str | None = None


@dataclass(slots=True)
class _Walk:
    """One page's walk through its content and the forms and patterns it uses."""

    page_number: int
    facts: dict[tuple[int, int], ImageFacts | None]
    open_streams: list[tuple[int, int]] = field(default_factory=list)
    painted: int = 0

    def content(
        self, stream: pikepdf.Object | pikepdf.Page, resources: pikepdf.Object, base: Matrix
    ) -> Iterator[PaintedImage]:
        xobjects = resources.get("/XObject", pikepdf.Dictionary())
        patterns = resources.get("/Pattern", pikepdf.Dictionary())
        operators = _WITH_PATTERNS if len(patterns) else _PLACING
        state, saved = _State(base), []
        for operands, operator in _instructions(stream, operators):
            name = str(operator)
            if name == "q":
                saved.append(state)
            elif name == "Q":
                state = saved.pop() if saved else state
            elif name == "cm":
                matrix = _matrix(operands)
                state = replace(state, ctm=matrix.then(state.ctm)) if matrix else state
            elif name == "Do":
                xobject = xobjects.get(str(operands[0])) if len(operands) else None
                yield from self._xobject(xobject, resources, state.ctm)
            elif name == "INLINE IMAGE":
                yield from self._image(image_facts(operands[0].obj, resources), state.ctm)
            elif name in _FILL_COLOURS:
                state = replace(state, fill_pattern=_pattern_name(name, operands))
            elif name in _STROKE_COLOURS:
                state = replace(state, stroke_pattern=_pattern_name(name, operands))
            else:
                if name in _FILLS and state.fill_pattern:
                    yield from self._pattern(patterns.get(state.fill_pattern), base)
                if name in _STROKES and state.stroke_pattern:
                    yield from self._pattern(patterns.get(state.stroke_pattern), base)

    def _xobject(
        self, xobject: pikepdf.Object | None, resources: pikepdf.Object, ctm: Matrix
    ) -> Iterator[PaintedImage]:
        if not isinstance(xobject, pikepdf.Stream):
            return
        kind = xobject.get("/Subtype")
        if kind == "/Image":
            key = xobject.objgen
            if key not in self.facts:
                self.facts[key] = image_facts(xobject, resources)
            yield from self._image(self.facts[key], ctm)
        elif kind == "/Form":
            yield from self._nested(xobject, resources, ctm)

    def _pattern(self, pattern: pikepdf.Object | None, base: Matrix) -> Iterator[PaintedImage]:
        if isinstance(pattern, pikepdf.Stream) and pattern.get("/PatternType") == 1:
            yield from self._nested(pattern, pikepdf.Dictionary(), base)

    def _nested(
        self, stream: pikepdf.Object, outer: pikepdf.Object, ctm: Matrix
    ) -> Iterator[PaintedImage]:
        if stream.objgen in self.open_streams or len(self.open_streams) >= MAX_FORM_DEPTH:
            return
        self.open_streams.append(stream.objgen)
        matrix = _matrix(stream.get("/Matrix", [])) or Matrix()
        yield from self.content(stream, stream.get("/Resources", outer), matrix.then(ctm))
        self.open_streams.pop()

    def _image(self, facts: ImageFacts | None, ctm: Matrix) -> Iterator[PaintedImage]:
        # A matrix of no width or no height paints nothing.
        if facts is None or ctm.u_length == 0 or ctm.v_length == 0:
            return
        self.painted += 1
        if self.painted > _MOST_PAINTED:
            raise OverflowError
        yield PaintedImage(self.page_number, facts.px_w, facts.px_h, facts.colour, facts.bits, ctm)


def _instructions(stream: pikepdf.Object | pikepdf.Page, operators: str) -> Sequence[Any]:
    try:
        return pikepdf.parse_content_stream(stream, operators)
    except pikepdf.PdfError:
        return []


def _matrix(numbers: Any) -> Matrix | None:
    try:
        values = [float(number) for number in numbers]
    except (TypeError, ValueError):
        return None
    return Matrix(*values) if len(values) == 6 else None


def _pattern_name(operator: str, operands: list[pikepdf.Object]) -> str | None:
    if operator.lower() != "scn" or not len(operands):
        return None
    return str(operands[-1]) if isinstance(operands[-1], pikepdf.Name) else None


def painted_images(path: Path, name: str | None = None) -> tuple[int, list[PaintedImage]]:
    """The number of pages, and every image in the order it is painted.

    Image masks and inline images count, soft masks do not; forms and tiling patterns are entered,
    their matrices multiplied in, and `UserUnit` scales all lengths (ISO 32000-2, 8.3, 8.9, 8.10).

    Raises:
        UnreadableFile: the PDF cannot be read.
    """
    shown = name or path.name
    facts: dict[tuple[int, int], ImageFacts | None] = {}
    found: list[PaintedImage] = []
    with opened_pdf(path, shown) as pdf:
        pages = list(pdf.pages)
        try:
            for number, page in enumerate(pages, 1):
                user_unit = float(page.obj.get("/UserUnit", 1))
                walk = _Walk(number, facts)
                base = Matrix.scaling(user_unit, user_unit)
                found.extend(walk.content(page, _resources(page), base))
        except OverflowError:
            raise UnreadableFile(shown, f"a page paints more than {_MOST_PAINTED} images") from None
    return len(pages), found


def _resources(page: pikepdf.Page) -> Any:
    node: Any = page.obj
    seen = 0
    while node is not None and seen < MAX_FORM_DEPTH:
        if "/Resources" in node:
            return node["/Resources"]
        node, seen = node.get("/Parent"), seen + 1
    return pikepdf.Dictionary()
