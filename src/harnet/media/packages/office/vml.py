"""Older drawings, in VML: pictures in shapes whose sizes stand in a style.

Its specification is a submission to the W3C of 1998; ISO/IEC 29500-4, clause 14, keeps it.
"""

from collections.abc import Callable
from dataclasses import dataclass, field

from harnet.core.documents.images import Crop
from harnet.core.measure.geometry import Matrix
from harnet.core.measure.units import CSS_PX_PER_INCH, POINTS_PER_INCH
from harnet.media.packages.gathering import Fitting, PageGatherer, Shape, box_matrix
from harnet.media.packages.relationships import Relationship
from harnet.media.packages.xml import Element, attribute, child, children, length_pt, local, number

_SHAPES = frozenset({"shape", "rect", "roundrect", "oval", "image", "line", "polyline", "arc"})
_BARE_PT = POINTS_PER_INCH / CSS_PX_PER_INCH
"""A length without a unit counts CSS pixels."""
_PARTS_OF_ONE = 65_536


@dataclass(slots=True, kw_only=True)
class VmlWalk:
    """Walks VML of one part and gathers its pictures; `source` is where it stands."""

    page: PageGatherer
    relations: dict[str, Relationship]
    source: str
    heading: str = ""
    unseen: str = ""
    on_text: Callable[[Element], None] | None = None
    _types: dict[str, Element] = field(default_factory=dict)

    def walk(self, drawing: Element) -> None:
        """Every shape below an element, in order."""
        for one in children(drawing):
            self._one(one, Matrix(), is_nested=False)

    def _one(self, one: Element, to_page: Matrix, *, is_nested: bool) -> None:
        name = local(one)
        if name == "shapetype":
            self._types[one.get("id", "")] = one
        elif name == "group":
            self._group(one, to_page, is_nested)
        elif name in _SHAPES:
            self._shape(one, to_page, is_nested)
        elif name == "background":
            self._background(one)

    def _group(self, one: Element, to_page: Matrix, is_nested: bool) -> None:
        outer = _box(one, is_nested) or (0.0, 0.0, 0.0, 0.0)
        x, y, width, height = outer
        size = _pair(one.get("coordsize"), (1000.0, 1000.0))
        origin = _pair(one.get("coordorigin"), (0.0, 0.0))
        if min(size) <= 0:
            return
        inner = Matrix(
            width / size[0],
            0,
            0,
            height / size[1],
            x - origin[0] * width / size[0],
            y - origin[1] * height / size[1],
        )
        for each in children(one):
            self._one(each, inner.then(to_page), is_nested=True)

    def _shape(self, one: Element, to_page: Matrix, is_nested: bool) -> None:
        box = _box(one, is_nested)
        style = _style(one)
        x, y, width, height = box or (0.0, 0.0, 0.0, 0.0)
        matrix = box_matrix(x, y, width, height, turn_deg=_turn(style)).then(to_page)
        is_hidden = style.get("visibility") == "hidden" or style.get("display") == "none"
        scale = (to_page.u_length, to_page.v_length)
        for each in children(one):
            kind = local(each)
            if kind == "imagedata":
                shape = Shape(
                    matrix=matrix,
                    own_w_pt=width * scale[0],
                    own_h_pt=height * scale[1],
                    source=self.source,
                    name=each.get("title", "") or attribute(each, "title") or one.get("alt", ""),
                    heading=self.heading,
                    unseen=self.unseen or ("hidden" if is_hidden else ""),
                )
                self._paint(each, shape, Fitting(source_crop=_crop(each)))
            elif kind == "fill" and one.get("filled", "t") not in ("f", "false"):
                shape = Shape(
                    matrix=matrix,
                    own_w_pt=width * scale[0],
                    own_h_pt=height * scale[1],
                    source="fill",
                    name=attribute(each, "title"),
                    heading=self.heading,
                    unseen=self.unseen,
                    is_assumed=each.get("type") == "tile",
                )
                self._paint(each, shape, Fitting())
            elif kind == "textbox" and self.on_text is not None:
                content = child(each, "txbxContent")
                if content is not None:
                    self.on_text(content)

    def _background(self, one: Element) -> None:
        for each in children(one):
            if local(each) == "fill":
                shape = Shape(
                    matrix=Matrix(0, 0, 0, 0),
                    own_w_pt=0,
                    own_h_pt=0,
                    source="background",
                    is_assumed=True,
                )
                self._paint(each, shape, Fitting())

    def _paint(self, data: Element, shape: Shape, fitting: Fitting) -> None:
        for key in ("id", "relid", "pict"):
            relation = self.relations.get(_relation_id(data, key))
            if relation is None:
                continue
            if relation.part is not None:
                self.page.picture(relation.part, shape, fitting)
            elif relation.address:
                self.page.link(relation.address, shape)
            return
        address = _relation_id(data, "href")
        if address in self.relations:
            self.page.link(self.relations[address].address, shape)


def _relation_id(element: Element, name: str) -> str:
    """A reference to a relationship: an attribute with a namespace, or `relid`."""
    for key, value in element.attrib.items():
        space, _, own = key.rpartition("}")
        if own == name and (space or name == "relid"):
            return str(value)
    return ""


def _style(one: Element) -> dict[str, str]:
    found = {}
    for declaration in one.get("style", "").split(";"):
        name, _, value = declaration.partition(":")
        found[name.strip().lower()] = value.strip()
    return found


def _box(one: Element, is_nested: bool) -> tuple[float, float, float, float] | None:
    """Left, top, width, height: in points, or in the units of the group around it."""
    style = _style(one)
    bare = 1.0 if is_nested else _BARE_PT
    names = ("left", "top", "width", "height")
    found = [length_pt(style.get(name), bare) for name in names]
    if found[2] is None or found[3] is None:
        return None
    return found[0] or 0.0, found[1] or 0.0, max(0.0, found[2]), max(0.0, found[3])


def _pair(text: str | None, usual: tuple[float, float]) -> tuple[float, float]:
    first, _, second = (text or "").partition(",")
    if not second:
        return usual
    return number(first.strip(), usual[0]), number(second.strip(), usual[1])


def _turn(style: dict[str, str]) -> float:
    text = style.get("rotation", "")
    if text.endswith("fd"):
        return number(text[:-2]) / _PARTS_OF_ONE
    return number(text.removesuffix("deg"))


def _crop(data: Element) -> Crop:
    left, top, right, bottom = (
        _part(data.get(f"crop{side}")) for side in ("left", "top", "right", "bottom")
    )
    return left, top, right, bottom


def _part(text: str | None) -> float:
    """A share: a number, a percentage, or parts of 65 536 with an `f` behind."""
    if not text:
        return 0.0
    if text.endswith("f"):
        return number(text[:-1]) / _PARTS_OF_ONE
    if text.endswith("%"):
        return number(text[:-1]) / 100
    return number(text)
