"""Frames, shapes and texts of ISO/IEC 26300 in painting order, and the pictures in them."""

import base64
import binascii
from collections.abc import Callable
from dataclasses import dataclass, field, replace

from harnet.core.documents.sketch import MarkKind
from harnet.core.measure.geometry import Matrix
from harnet.core.measure.units import CSS_PX_PER_INCH, POINTS_PER_INCH
from harnet.media.packages.gathering import HIDDEN, Fitting, PageGatherer, Shape, fallback_shape
from harnet.media.packages.opendocument.styles import Styles
from harnet.media.packages.opendocument.transforms import clip_of, shape_matrix
from harnet.media.packages.xml import Element, attribute, child, children, length_pt, local, share

DELETED = "deleted, and the change is not accepted yet"
_SHAPES = frozenset(
    {"rect", "circle", "ellipse", "polygon", "polyline", "path", "custom-shape", "regular-polygon"}
    | {"line", "connector", "caption", "measure"}
)
_OBJECTS = frozenset({"object", "object-ole", "applet", "plugin", "floating-frame"})
_EFFECTS = {
    "greyscale": "shown in grey",
    "mono": "shown in black and white",
    "watermark": "shown pale",
}
_PT_PER_LINE = 20.0


@dataclass(slots=True, kw_only=True)
class Pictures:
    """Where the pictures of a document are: parts of its package, or bytes in its text.

    `find` gives the part for an address, None where it leads out of the document.
    """

    find: Callable[[str], str | None]
    keep: Callable[[bytes], str]

    def of(self, element: Element) -> tuple[str | None, str]:
        """The part that an element shows, and the address if it is none of the document's."""
        data = child(element, "binary-data")
        if data is not None:
            try:
                return self.keep(base64.b64decode("".join((data.text or "").split()))), ""
            except (binascii.Error, ValueError):
                return None, ""
        address = attribute(element, "href")
        part = self.find(address) if address else None
        return part, "" if part is not None else address


@dataclass(slots=True, kw_only=True)
class FrameWalk:
    """Walks shapes and text of one page, or one story, and gathers the pictures.

    `on_notes` is given the notes of a slide.
    """

    page: PageGatherer
    styles: Styles
    pictures: Pictures
    source: str
    heading: str = ""
    unseen: str = ""
    on_notes: Callable[[Element], None] | None = None
    _depth: dict[str, int] = field(default_factory=lambda: {"cell": 0, "box": 0})
    _aside: str = ""

    @property
    def where(self) -> str:
        """Where a picture stands at this moment."""
        if self._aside:
            return self._aside
        if self._depth["cell"] and self.source in ("body", "slide", "page"):
            return "table cell"
        if self._depth["box"]:
            return "text box"
        return self.source

    def walk(self, element: Element) -> None:
        """Everything below an element, in order."""
        for one in children(element):
            self._one(one)

    def _one(self, one: Element) -> None:
        name = local(one)
        if name == "frame":
            self._frame(one)
        elif name in _SHAPES:
            self._shape(one)
        elif name == "h" and self.source == "body" and not self._depth["box"]:
            self.heading = " ".join("".join(one.itertext()).split())
            self.walk(one)
        elif name in ("table-cell", "covered-table-cell"):
            self._inside("cell", one)
        elif name == "notes":
            if self.on_notes is not None:
                self.on_notes(one)
        elif name == "note":
            kind = attribute(one, "note-class", "footnote")
            before, self._aside = self._aside, kind
            self.walk(one)
            self._aside = before
        elif name == "annotation":
            before, self._aside = self._aside, "comment"
            self.walk(one)
            self._aside = before
        elif name == "deletion":
            self._with_unseen(one, DELETED)
        elif name == "section" and attribute(one, "display") in ("none", "condition"):
            self._with_unseen(one, HIDDEN)
        else:
            self.walk(one)

    def _inside(self, what: str, one: Element) -> None:
        self._depth[what] += 1
        self.walk(one)
        self._depth[what] -= 1

    def _with_unseen(self, one: Element, why: str) -> None:
        before = self.unseen
        self.unseen = before or why
        self.walk(one)
        self.unseen = before

    def _frame(self, frame: Element) -> None:
        """A frame: the first picture in it that can be drawn is shown (10.4.2)."""
        inside = list(children(frame))
        objects = [one for one in inside if local(one) in _OBJECTS]
        shown = False
        for one in inside:
            kind = local(one)
            if kind == "image":
                shape = self._shape_of(frame, self._where_of(objects))
                if shown:
                    shape = fallback_shape(shape)
                shown = self._image(one, frame, shape) or shown
            elif kind == "text-box":
                matrix, _, height = shape_matrix(frame)
                text = " ".join("".join(one.itertext()).split())
                lines = min(max(1, int(height / _PT_PER_LINE)), 1 + len(text) // 60)
                self.page.mark(MarkKind.TEXT if text else MarkKind.SHAPE, matrix, lines=lines)
                self._fill(frame, "graphic")
                self._inside("box", one)
            elif kind == "table":
                self.page.mark(MarkKind.SHAPE, shape_matrix(frame)[0])
                self.walk(one)
        if objects and not shown:
            self.page.mark(MarkKind.SHAPE, shape_matrix(frame)[0])

    def _where_of(self, objects: list[Element]) -> str:
        if not objects:
            return self.where
        return "media poster" if local(objects[0]) == "plugin" else "preview"

    def _shape_of(self, element: Element, source: str) -> Shape:
        matrix, width, height = shape_matrix(element)
        is_hidden = attribute(element, "display") in ("none", "printer")
        return Shape(
            matrix=matrix,
            own_w_pt=width,
            own_h_pt=height,
            source=source,
            name=attribute(element, "name"),
            heading=self.heading,
            unseen=self.unseen or (HIDDEN if is_hidden else ""),
        )

    def _image(self, image: Element, frame: Element, shape: Shape) -> bool:
        """A picture in its frame; whether there is one."""
        part, address = self.pictures.of(image)
        if part is None:
            if address:
                self.page.link(address, shape)
            return bool(address)
        file = self.page.media.look_at(part)
        style = attribute(frame, "style-name")
        clip = self._value(frame, style, "clip")
        if min(shape.own_w_pt, shape.own_h_pt) <= 0 and not attribute(frame, "transform"):
            shape = self.native(shape, part)
        size = (shape.own_w_pt, shape.own_h_pt)
        crop, is_assumed = clip_of(clip, file.px, file.tag_ppi, size)
        shape = replace(shape, is_assumed=shape.is_assumed or is_assumed)
        effect = _EFFECTS.get(self._value(frame, style, "color-mode"), "")
        opacity = self._value(frame, style, "image-opacity")
        if opacity and share(opacity) == 0:
            shape = replace(shape, unseen=shape.unseen or "fully transparent")
        effects = (effect,) if effect else ()
        self.page.picture(part, shape, Fitting(source_crop=crop), effects=effects)
        return not file.failure

    def _value(self, frame: Element, style: str, key: str) -> str:
        found = self.styles.value("graphic", style, key)
        own = attribute(frame, "style-name")
        return found or self.styles.value("presentation", own, key)

    def native(self, shape: Shape, part: str) -> Shape:
        """A picture whose size is not stated, at the size that its pixels and its tag give it."""
        file = self.page.media.look_at(part)
        across, down = file.tag_ppi or (CSS_PX_PER_INCH, CSS_PX_PER_INCH)
        width = file.px[0] * POINTS_PER_INCH / across
        height = file.px[1] * POINTS_PER_INCH / down
        matrix = Matrix(width, 0, 0, height, shape.matrix.e, shape.matrix.f)
        return replace(shape, matrix=matrix, own_w_pt=width, own_h_pt=height, is_assumed=True)

    def _shape(self, one: Element) -> None:
        self._fill(one, "graphic")
        matrix, width, height = shape_matrix(one)
        if min(width, height) > 0:
            text = "".join(one.itertext()).strip()
            lines = min(max(1, int(height / _PT_PER_LINE)), 1 + len(text) // 60)
            self.page.mark(MarkKind.TEXT if text else MarkKind.SHAPE, matrix, lines=lines)
        self._inside("box", one)

    def _fill(self, one: Element, family: str) -> None:
        style = attribute(one, "style-name")
        if self._value(one, style, "fill") == "bitmap":
            shape = self._shape_of(one, "fill")
            fill_name = self._value(one, style, "fill-image-name")
            values = {
                key: self._value(one, style, key)
                for key in ("repeat", "fill-image-width", "fill-image-height")
            }
            self.fill(fill_name, shape, values)

    def fill(self, name: str, shape: Shape, values: dict[str, str]) -> None:
        """A picture as a fill: stretched, or in tiles of the size that is stated, else native."""
        element = self.styles.fills.get(name)
        if element is None:
            return
        part, address = self.pictures.of(element)
        if part is None:
            if address:
                self.page.link(address, shape)
            return
        if values.get("repeat") != "stretch":
            native = self.native(shape, part)
            width = length_pt(values.get("fill-image-width")) or 0.0
            height = length_pt(values.get("fill-image-height")) or 0.0
            if min(width, height) > 0:
                matrix = Matrix(width, 0, 0, height, shape.matrix.e, shape.matrix.f)
                native = replace(shape, matrix=matrix, own_w_pt=width, own_h_pt=height)
            shape = native
        self.page.picture(part, shape)
