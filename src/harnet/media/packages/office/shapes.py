"""The shapes of a DrawingML tree in painting order: pictures, fills, groups, frames, text."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace

from harnet.core.documents.sketch import MarkKind
from harnet.core.measure.geometry import Matrix
from harnet.media.packages.gathering import HIDDEN, PageGatherer, Shape
from harnet.media.packages.office.bullets import paint_bullets
from harnet.media.packages.office.fills import Marks, fill_in, paint_fill, states_fill
from harnet.media.packages.office.geometry import Frame, frame_of, group_matrix
from harnet.media.packages.office.tables import anchored, cells_of
from harnet.media.packages.office.themes import Theme
from harnet.media.packages.relationships import Parts, Relationship
from harnet.media.packages.xml import (
    Element,
    attribute,
    child,
    children,
    descendants,
    is_on,
    local,
)

_PT_PER_LINE, _PT_PER_LETTER = 20.0, 9.0
_POSTERS = frozenset(
    {"videoFile", "audioFile", "quickTimeFile", "audioCd", "wavAudioFile", "media"}
)


@dataclass(frozen=True, slots=True)
class Inherited:
    """What a placeholder takes from its layout or master: its place, its fill."""

    frame: Frame | None = None
    fill: Element | None = None
    relations: dict[str, Relationship] = field(default_factory=dict)


Placeholder = Callable[[Element], Inherited]
"""What the placeholder of a shape inherits."""


def _none(_placeholder: Element) -> Inherited:
    return Inherited()


@dataclass(slots=True, kw_only=True)
class ShapeWalk:
    """Walks a tree of shapes of one part and gathers what it paints on a page.

    `source` is where the tree stands; `inherited` says what placeholders take from elsewhere;
    `on_text` is given the content of text boxes that hold paragraphs of a text document.
    """

    parts: Parts
    page: PageGatherer
    relations: dict[str, Relationship]
    marks: Marks
    source: str
    theme: Theme = field(default_factory=lambda: Theme({}))
    inherited: Placeholder = _none
    skips_placeholders: bool = False
    heading: str = ""
    unseen: str = ""
    on_text: Callable[[Element], None] | None = None
    _visited: set[str] = field(default_factory=set)

    def tree(self, tree: Element, to_page: Matrix | None = None) -> None:
        """Everything below a tree's root."""
        for one in children(tree):
            self.shape(one, to_page or Matrix())

    def shape(self, one: Element, to_page: Matrix, frame: Frame | None = None) -> None:
        """A shape with what is in it; `frame` is where it stands, if not where it says."""
        kind = local(one)
        if kind == "pic":
            self._picture(one, to_page, frame)
        elif kind in ("sp", "wsp"):
            self._plain(one, to_page, frame)
        elif kind in ("grpSp", "wgp", "lockedCanvas"):
            self._group(one, to_page, frame)
        elif kind == "wpc":
            self.tree(one, to_page)
        elif kind == "graphicFrame":
            self._graphic_frame(one, to_page)
        elif kind == "cxnSp":
            self._outline(one, to_page)

    def _shape(
        self, one: Element, frame: Frame, to_page: Matrix, source: str, is_poster: bool = False
    ) -> Shape:
        about = _about(one)
        is_hidden = about is not None and is_on(about.get("hidden"))
        return Shape(
            matrix=frame.matrix.then(to_page),
            own_w_pt=frame.width,
            own_h_pt=frame.height,
            source="media poster" if is_poster else source,
            name=about.get("name", "") if about is not None else "",
            heading=self.heading,
            unseen=self.unseen or (HIDDEN if is_hidden else ""),
        )

    def _picture(self, one: Element, to_page: Matrix, frame: Frame | None) -> None:
        properties = child(one, "spPr")
        placeholder = _placeholder(one)
        if placeholder is not None and self.skips_placeholders:
            return
        own = frame or frame_of(child(properties, "xfrm"))
        if own is None and placeholder is not None:
            own = self.inherited(placeholder).frame
        if own is None:
            own = Frame(x=0, y=0, width=0, height=0)
        is_poster = any(local(each) in _POSTERS for each in _said_of(one))
        shape = self._shape(one, own, to_page, self.source, is_poster)
        behind = fill_in(properties)
        if behind is not None:
            paint_fill(behind, replace(shape, source="fill"), self.relations, self.page, self.marks)
        fill = child(one, "blipFill")
        if fill is not None:
            paint_fill(fill, shape, self.relations, self.page, self.marks)

    def _plain(self, one: Element, to_page: Matrix, frame: Frame | None) -> None:
        properties, placeholder = child(one, "spPr"), _placeholder(one)
        if placeholder is not None and self.skips_placeholders:
            return
        from_above = self.inherited(placeholder) if placeholder is not None else Inherited()
        own = frame or frame_of(child(properties, "xfrm")) or from_above.frame
        if own is None:
            own = Frame(x=0, y=0, width=0, height=0)
        shape = self._shape(one, own, to_page, "fill")
        fill, relations = fill_in(properties), self.relations
        if fill is None and not states_fill(properties):
            fill, relations = from_above.fill, from_above.relations
            if fill is None:
                fill = self.theme.fill(child(one, "style", "fillRef"))
                relations = self.theme.relations
        if fill is not None:
            paint_fill(fill, shape, relations, self.page, self.marks)
        text = child(one, "txBody")
        if text is not None:
            self._text(text, shape)
        elif fill is None:
            self.page.mark(MarkKind.SHAPE, shape.matrix)
        content = child(one, "txbx", "txbxContent")
        if content is not None and self.on_text is not None:
            self.on_text(content)

    def _text(self, text: Element, shape: Shape) -> None:
        paint_bullets(text, shape, self.relations, self.page, self.marks)
        lines = 0
        for paragraph in children(text):
            letters = sum(
                len(one.text or "") for one in descendants(paragraph) if local(one) == "t"
            )
            if letters:
                across = max(1.0, shape.matrix.u_length / _PT_PER_LETTER)
                lines += 1 + int(letters / across)
        most = max(1, int(shape.matrix.v_length / _PT_PER_LINE))
        kind = MarkKind.TEXT if lines else MarkKind.SHAPE
        self.page.mark(kind, shape.matrix, lines=min(lines, most))
        for one in descendants(text):
            if local(one) == "blipFill":
                spread = replace(shape, source="text", is_assumed=True)
                paint_fill(one, spread, self.relations, self.page, self.marks)

    def _group(self, one: Element, to_page: Matrix, frame: Frame | None) -> None:
        properties = child(one, "grpSpPr")
        xfrm = child(properties, "xfrm") if properties is not None else None
        inner = group_matrix(xfrm, frame)
        own = frame or frame_of(xfrm)
        fill = fill_in(properties)
        if fill is not None and own is not None:
            shape = self._shape(one, own, to_page, "fill")
            paint_fill(fill, shape, self.relations, self.page, self.marks)
        about = _about(one)
        before = self.unseen
        if about is not None and is_on(about.get("hidden")):
            self.unseen = self.unseen or HIDDEN
        for each in children(one):
            self.shape(each, inner.then(to_page))
        self.unseen = before

    def _outline(self, one: Element, to_page: Matrix) -> None:
        frame = frame_of(child(child(one, "spPr"), "xfrm"))
        if frame is not None:
            self.page.mark(MarkKind.SHAPE, frame.matrix.then(to_page))

    def _graphic_frame(self, one: Element, to_page: Matrix) -> None:
        frame = frame_of(child(one, "xfrm"))
        data = child(one, "graphic", "graphicData")
        placeholder = _placeholder(one)
        if frame is None and placeholder is not None:
            frame = self.inherited(placeholder).frame
        if data is None:
            return
        frame = frame or Frame(x=0, y=0, width=0, height=0)
        self.graphic(data, self._shape(one, frame, to_page, self.source), frame, to_page)

    def graphic(self, data: Element, shape: Shape, frame: Frame, to_page: Matrix) -> None:
        """What a graphic frame holds: a table, an object's preview, a chart, a diagram."""
        for one in children(data):
            kind = local(one)
            if kind == "tbl":
                self.page.mark(MarkKind.SHAPE, shape.matrix)
                self._table(one, shape, frame, to_page)
            elif kind in ("oleObj", "model3d"):
                self._preview(one, shape)
            elif kind in ("chart", "relIds"):
                self.page.mark(MarkKind.SHAPE, shape.matrix)
                self._other_part(one, kind, shape, frame, to_page)
            elif kind in ("pic", "wgp", "wsp", "wpc", "lockedCanvas", "sp", "grpSp"):
                self.shape(one, to_page, frame)

    def _preview(self, one: Element, shape: Shape) -> None:
        """The picture that stands for an embedded object."""
        preview = replace(shape, source="preview")
        for each in descendants(one):
            if local(each) in ("blipFill", "raster"):
                paint_fill(each, preview, self.relations, self.page, self.marks)
                return

    def _table(self, table: Element, shape: Shape, frame: Frame, to_page: Matrix) -> None:
        for box, cell in cells_of(table, frame):
            in_cell = replace(
                shape,
                matrix=box.matrix.then(to_page),
                own_w_pt=box.width,
                own_h_pt=box.height,
                source="table cell",
            )
            fill = fill_in(child(cell, "tcPr"))
            if fill is not None:
                paint_fill(fill, in_cell, self.relations, self.page, self.marks)
            text = child(cell, "txBody")
            if text is not None:
                paint_bullets(text, in_cell, self.relations, self.page, self.marks)

    def _other_part(
        self, one: Element, kind: str, shape: Shape, frame: Frame, to_page: Matrix
    ) -> None:
        """The pictures in a chart or a diagram, which are parts of their own."""
        if kind == "chart":
            relation = self.relations.get(attribute(one, "id"))
            if relation is not None and relation.part is not None:
                self._chart(relation.part, shape, frame, to_page)
            return
        for relation in self.relations.values():
            if relation.kind == "diagramDrawing" and relation.part is not None:
                if relation.part in self._visited or not self._is_drawing_of(one, relation):
                    continue
                self._visited.add(relation.part)
                root = self.parts.root(relation.part)
                tree = child(root, "spTree") if root is not None else None
                if tree is not None:
                    inner = replace(self, relations=self.parts.relations(relation.part))
                    inner.source = "diagram"
                    inner.tree(tree, Matrix.translation(frame.x, frame.y).then(to_page))

    def _is_drawing_of(self, ids: Element, drawing: Relationship) -> bool:
        """Whether a drawing is the one that a diagram's data names."""
        data = self.relations.get(attribute(ids, "dm"))
        root = self.parts.root(data.part) if data is not None and data.part is not None else None
        named = (
            [attribute(one, "relId") for one in descendants(root) if local(one) == "dataModelExt"]
            if root is not None
            else []
        )
        return drawing.id in named or not named

    def _chart(self, part: str, shape: Shape, frame: Frame, to_page: Matrix) -> None:
        if part in self._visited:
            return
        self._visited.add(part)
        root, relations = self.parts.root(part), self.parts.relations(part)
        if root is None:
            return
        in_chart = replace(shape, source="chart")
        own = child(root, "spPr")
        whole = fill_in(own)
        for one in descendants(root):
            if local(one) == "blipFill":
                spread = in_chart if one is whole else replace(in_chart, is_assumed=True)
                paint_fill(one, spread, relations, self.page, self.marks)
        for relation in relations.values():
            if relation.kind == "chartUserShapes" and relation.part is not None:
                self._chart_shapes(relation.part, frame, to_page)

    def _chart_shapes(self, part: str, frame: Frame, to_page: Matrix) -> None:
        """Shapes drawn into a chart, placed by shares of it (ISO/IEC 29500-1, 21.3.2)."""
        root = self.parts.root(part)
        inner = replace(self, relations=self.parts.relations(part))
        inner.source = "chart"
        for anchor in children(root) if root is not None else ():
            box = anchored(anchor, frame)
            for one in children(anchor):
                if local(one) in ("pic", "sp", "grpSp"):
                    inner.shape(one, to_page, box)


def _said_of(one: Element) -> Iterator[Element]:
    """What a shape says of its part in the presentation: a placeholder, a film."""
    for part in children(one):
        if local(part).startswith("nv"):
            properties = child(part, "nvPr")
            if properties is not None and len(properties):
                yield from descendants(properties)
            return


def _about(one: Element) -> Element | None:
    """Name and visibility of a shape."""
    for part in children(one):
        if local(part) == "cNvPr":
            return part
        if local(part).startswith("nv"):
            return child(part, "cNvPr")
        break
    return None


def _placeholder(one: Element) -> Element | None:
    return next((each for each in _said_of(one) if local(each) == "ph"), None)
