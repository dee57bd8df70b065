"""The images of an SVG in painting order, every transform multiplied in (SVG 2, 8 and 12.3)."""

import math
import re
from collections.abc import Callable
from dataclasses import dataclass, field

from harnet.core.documents.sketch import MarkKind
from harnet.core.measure.geometry import Matrix
from harnet.media.packages.gathering import HIDDEN, Fitting, PageGatherer, Shape
from harnet.media.packages.xml import Element, attribute, local, number
from harnet.media.svg.sizes import (
    PT_PER_PX,
    aspect_of,
    filled_in,
    fitting_for,
    length_px,
    view_box,
    view_matrix,
)

Styles = Callable[[Element], dict[str, str]]
"""The declarations of an element: from style sheets and its own."""
_NEVER_PAINTED = frozenset(
    {"defs", "symbol", "clipPath", "mask", "marker", "pattern", "linearGradient", "radialGradient"}
    | {"filter", "metadata", "title", "desc", "style", "script", "foreignObject"}
)
_DRAWN = frozenset({"rect", "circle", "ellipse", "line", "polyline", "polygon", "path", "text"})
_STEP = re.compile(r"([a-zA-Z]+)\s*\(([^)]*)\)")
_PATTERN = re.compile(r"url\(\s*['\"]?#([^)'\"]+)['\"]?\s*\)")
_MOST_DEEP, _MOST_STEPS = 60, 200
_MOST_VISITED, _MOST_USED = 200_000, 40_000
"""Elements that are looked at: in all, and where others use them, which multiplies."""

_LEFT_OUT = "what lies behind so many elements that they are not all followed"


@dataclass(slots=True, kw_only=True)
class SvgWalk:
    """Walks one SVG and gathers its images on a page.

    `find` gives the part for an address, None where it is not in the document; `styles` the
    declarations of an element.
    """

    page: PageGatherer
    find: Callable[[str], str | None]
    styles: Styles
    source: str = "page"
    heading: str = ""
    _ids: dict[str, Element] = field(default_factory=dict)
    _going_on: list[str] = field(default_factory=list)
    _visited: int = 0
    _used: int = 0
    _patterns: set[str] = field(default_factory=set)

    def walk(self, root: Element, to_page: Matrix, width: float, height: float) -> None:
        """An `svg` element shown in a viewport of so many px; `to_page` maps px to points."""
        self._ids = {}
        for one in root.iter():
            name = one.get("id") if isinstance(one.tag, str) else None
            if name:
                self._ids.setdefault(name, one)
        inner = view_matrix(
            view_box(root.get("viewBox")),
            aspect_of(root.get("preserveAspectRatio")),
            0,
            0,
            width,
            height,
        )
        box = view_box(root.get("viewBox"))
        inside = (box.width, box.height) if box is not None else (width, height)
        self._children(root, inner.then(to_page), inside, "")

    def _children(
        self, element: Element, to_page: Matrix, inside: tuple[float, float], unseen: str
    ) -> None:
        for one in element:
            if isinstance(one.tag, str):
                self._one(one, to_page, inside, unseen)

    def _one(self, one: Element, to_page: Matrix, inside: tuple[float, float], unseen: str) -> None:
        name = local(one)
        if self._is_too_much() or name in _NEVER_PAINTED:
            return
        styles = self.styles(one)
        if (
            _value(one, styles, "display") == "none"
            or number(_value(one, styles, "opacity") or "1", 1.0) == 0
        ):
            unseen = unseen or HIDDEN
        if _value(one, styles, "visibility") in ("hidden", "collapse"):
            unseen = unseen or HIDDEN
        to_page = transform(_value(one, styles, "transform")).then(to_page)
        if name == "image":
            self._image(one, styles, to_page, inside, unseen)
        elif name == "svg":
            self._inner(one, to_page, inside, unseen)
        elif name == "use":
            self._use(one, to_page, inside, unseen)
        elif name == "switch":
            first = next((each for each in one if isinstance(each.tag, str)), None)
            if first is not None:
                self._one(first, to_page, inside, unseen)
        elif name in _DRAWN:
            self._drawn(one, styles, to_page, inside, unseen)
        else:
            self._children(one, to_page, inside, unseen)

    def _is_too_much(self) -> bool:
        """Whether so much was looked at that the rest is left out, which is told."""
        self._visited += 1
        self._used += bool(self._going_on)
        is_too_much = self._visited > _MOST_VISITED or self._used > _MOST_USED
        if is_too_much and _LEFT_OUT not in self.page.left_out:
            self.page.left_out.append(_LEFT_OUT)
        return is_too_much

    def _inner(
        self,
        one: Element,
        to_page: Matrix,
        inside: tuple[float, float],
        unseen: str,
        size: tuple[float | None, float | None] = (None, None),
    ) -> None:
        """An `svg` inside another, or a `symbol` that is used."""
        x = length_px(one.get("x"), inside[0]) or 0.0
        y = length_px(one.get("y"), inside[1]) or 0.0
        width = size[0] or length_px(one.get("width"), inside[0]) or inside[0]
        height = size[1] or length_px(one.get("height"), inside[1]) or inside[1]
        box = view_box(one.get("viewBox"))
        aspect = aspect_of(one.get("preserveAspectRatio"))
        inner = view_matrix(box, aspect, x, y, width, height)
        within = (box.width, box.height) if box is not None else (width, height)
        self._children(one, inner.then(to_page), within, unseen)

    def _use(self, one: Element, to_page: Matrix, inside: tuple[float, float], unseen: str) -> None:
        name = attribute(one, "href").strip().removeprefix("#")
        target = self._ids.get(name)
        if target is None or name in self._going_on or len(self._going_on) > _MOST_DEEP:
            return
        x = length_px(one.get("x"), inside[0]) or 0.0
        y = length_px(one.get("y"), inside[1]) or 0.0
        moved = Matrix.translation(x, y).then(to_page)
        self._going_on.append(name)
        if local(target) in ("symbol", "svg"):
            size = (length_px(one.get("width"), inside[0]), length_px(one.get("height"), inside[1]))
            self._inner(target, moved, inside, unseen, size)
        else:
            self._one(target, moved, inside, unseen)
        self._going_on.pop()

    def _drawn(
        self,
        one: Element,
        styles: dict[str, str],
        to_page: Matrix,
        inside: tuple[float, float],
        unseen: str,
    ) -> None:
        box = _bounds(one, inside)
        if box is not None:
            x, y, width, height = box
            kind = MarkKind.TEXT if local(one) == "text" else MarkKind.SHAPE
            self.page.mark(kind, Matrix(width, 0, 0, height, x, y).then(to_page), lines=1)
        found = _PATTERN.search(_value(one, styles, "fill"))
        pattern = self._ids.get(found.group(1)) if found is not None else None
        if pattern is not None and local(pattern) == "pattern":
            self._pattern(pattern, box, to_page, inside, unseen)

    def _pattern(
        self,
        pattern: Element,
        box: tuple[float, float, float, float] | None,
        to_page: Matrix,
        inside: tuple[float, float],
        unseen: str,
    ) -> None:
        """The images of a pattern, once for each way it is scaled (SVG 2, 14.3)."""
        own = transform(pattern.get("patternTransform", "")).then(to_page)
        is_by_box = pattern.get("patternUnits") != "userSpaceOnUse"
        if box is None and (is_by_box or pattern.get("patternContentUnits") == "objectBoundingBox"):
            if pattern.find(".//{*}image") is not None:
                self.page.left_out.append("an image in a pattern whose size is not known")
            return
        x, y, width, height = box or (0.0, 0.0, *inside)
        name = pattern.get("id", "")
        key = f"{name} {own.u_length:.3f} {width:.3f} {height:.3f}"
        if key in self._patterns or name in self._going_on:
            return
        self._patterns.add(key)
        view = view_box(pattern.get("viewBox"))
        sides = [
            _coordinate(pattern.get(side), is_by_box) for side in ("x", "y", "width", "height")
        ]
        if is_by_box:
            tile = (
                x + sides[0] * width,
                y + sides[1] * height,
                sides[2] * width,
                sides[3] * height,
            )
        else:
            tile = (sides[0], sides[1], sides[2], sides[3])
        if view is not None:
            aspect = aspect_of(pattern.get("preserveAspectRatio"))
            inner = view_matrix(view, aspect, *tile)
        elif pattern.get("patternContentUnits") == "objectBoundingBox":
            inner = Matrix(width, 0, 0, height, x, y)
        else:
            inner = Matrix.translation(tile[0], tile[1])
        self._going_on.append(name)
        before, self.source = self.source, "fill"
        self._children(pattern, inner.then(own), inside, unseen)
        self.source = before
        self._going_on.pop()

    def _image(
        self,
        one: Element,
        styles: dict[str, str],
        to_page: Matrix,
        inside: tuple[float, float],
        unseen: str,
    ) -> None:
        address = attribute(one, "href").strip()
        if not address:
            return
        part = self.find(address)
        x = length_px(_value(one, styles, "x"), inside[0]) or 0.0
        y = length_px(_value(one, styles, "y"), inside[1]) or 0.0
        width = length_px(_value(one, styles, "width"), inside[0])
        height = length_px(_value(one, styles, "height"), inside[1])
        px = self.page.media.look_at(part).upright_px if part is not None else (0, 0)
        is_assumed = width is None and height is None
        width, height = filled_in(width, height, px)
        shape = Shape(
            matrix=Matrix(width, 0, 0, height, x, y).then(to_page),
            own_w_pt=width * to_page.u_length,
            own_h_pt=height * to_page.v_length,
            source=self.source,
            name=attribute(one, "label") or one.get("id", ""),
            heading=self.heading,
            unseen=unseen,
            is_assumed=is_assumed,
        )
        if part is None:
            if not address.lower().startswith("data:"):
                self.page.link(address, shape)
            return
        aspect = aspect_of(one.get("preserveAspectRatio"))
        fitting = fitting_for(aspect, px, width, height) if min(px) > 0 else Fitting()
        self.page.picture(part, shape, fitting, is_upright=True)


def _value(one: Element, styles: dict[str, str], key: str) -> str:
    """A property: by style sheets and the element's style, else its attribute."""
    return styles.get(key) or one.get(key, "")


def _coordinate(text: str | None, is_by_box: bool) -> float:
    if text is None:
        return 0.0
    if is_by_box and not text.strip().endswith("%"):
        return number(text)
    if text.strip().endswith("%"):
        return number(text.strip()[:-1]) / 100
    return length_px(text) or 0.0


def _bounds(one: Element, inside: tuple[float, float]) -> tuple[float, float, float, float] | None:
    """Left, top, width, height of a simple shape; None for those made of paths."""
    kind = local(one)

    def side(name: str, whole: float) -> float:
        return length_px(one.get(name), whole) or 0.0

    if kind == "rect":
        return (
            side("x", inside[0]),
            side("y", inside[1]),
            side("width", inside[0]),
            side("height", inside[1]),
        )
    if kind in ("circle", "ellipse"):
        across = side("r" if kind == "circle" else "rx", inside[0])
        down = side("r" if kind == "circle" else "ry", inside[1])
        x, y = side("cx", inside[0]), side("cy", inside[1])
        return x - across, y - down, 2 * across, 2 * down
    return None


def transform(text: str) -> Matrix:
    """A list of transforms, the last one applied first (SVG 1.1, 7.6); angles in degrees."""
    matrix = Matrix()
    for name, inside in _STEP.findall(text)[:_MOST_STEPS]:
        words = [_figure(one) for one in inside.replace(",", " ").split()]
        matrix = _step(name, words).then(matrix)
    return matrix


def _figure(text: str) -> float:
    """A number, whatever unit CSS gives it."""
    return number(text.removesuffix("deg").removesuffix("px"))


def _step(name: str, words: list[float]) -> Matrix:
    first = words[0] if words else 0.0
    if name == "matrix" and len(words) == 6:
        return Matrix(*words)
    if name == "translate":
        return Matrix.translation(first, words[1] if len(words) > 1 else 0.0)
    if name == "scale" and words:
        return Matrix.scaling(first, words[1] if len(words) > 1 else first)
    if name == "rotate":
        if len(words) == 3:
            x, y = words[1:]
            turn = Matrix.translation(-x, -y).then(Matrix.rotation(first))
            return turn.then(Matrix.translation(x, y))
        return Matrix.rotation(first)
    if name in ("skewX", "skewY"):
        slope = math.tan(math.radians(first))
        return Matrix(c=slope) if name == "skewX" else Matrix(b=slope)
    return Matrix()


PX_TO_POINTS = Matrix.scaling(PT_PER_PX, PT_PER_PX)
"""The map from CSS px to points."""
