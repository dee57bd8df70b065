"""Text documents of ISO/IEC 29500-1, clause 17: pictures in reading order, under headings."""

import re
from dataclasses import dataclass, field, replace

from harnet.core.documents.document import PageKind
from harnet.core.measure.geometry import Matrix
from harnet.media.packages.gathering import HIDDEN, PageGatherer, ReadDocument, Shape
from harnet.media.packages.media import MediaStore
from harnet.media.packages.office.fills import Marks
from harnet.media.packages.office.geometry import Frame
from harnet.media.packages.office.settings import text_settings
from harnet.media.packages.office.shapes import ShapeWalk
from harnet.media.packages.office.themes import Theme, theme_of
from harnet.media.packages.office.vml import VmlWalk
from harnet.media.packages.relationships import Parts, Relationship
from harnet.media.packages.xml import (
    Element,
    attribute,
    child,
    children,
    descendants,
    is_on,
    local,
    number,
    points,
)

DELETED = "deleted, and the change is not accepted yet"
_HEADING = re.compile(r"(heading|title)\s*\d*\Z", re.IGNORECASE)
_DEEPEST_OUTLINE = 9
_ASIDE = (
    ("header", "header"),
    ("footer", "footer"),
    ("footnotes", "footnote"),
    ("endnotes", "endnote"),
    ("comments", "comment"),
)


@dataclass(slots=True)
class TextReader:
    """Reads a text document: its body, then headers, footers and notes."""

    parts: Parts
    media: MediaStore
    part: str
    marks: Marks = field(default_factory=lambda: Marks({}))
    _headings: frozenset[str] = frozenset()

    def read(self) -> ReadDocument:
        """The whole text.

        Raises:
            Refused: its main part cannot be read.
        """
        root = self.parts.require_root(self.part, "text document")
        self._headings = _heading_styles(self.parts.root(self.parts.first(self.part, "styles")))
        page = PageGatherer(self.media, 1, PageKind.TEXT)
        theme = theme_of(self.parts, self.part)
        self._story(root, self.part, page, "body", theme)
        seen = {self.part}
        for kind, source in _ASIDE:
            for relation in self.parts.of_kind(self.part, kind):
                if relation.part is not None and relation.part not in seen:
                    seen.add(relation.part)
                    self._story(self.parts.root(relation.part), relation.part, page, source, theme)
        self._bullets(page)
        whole = {
            "parts": 1 + len(_sections(root)),
            "saving": text_settings(self.parts, self.part, self.marks.counts),
        }
        return ReadDocument(pages=[page.page()], images=page.images, whole=whole)

    def _story(
        self, root: Element | None, part: str, page: PageGatherer, source: str, theme: Theme
    ) -> None:
        if root is not None:
            story = _Story(self, part, page, source, theme, self.parts.relations(part))
            story.walk(root)
        elif part in self.parts.faults:
            page.left_out.append(self.parts.faults[part])

    def _bullets(self, page: PageGatherer) -> None:
        """Pictures that lists have as bullets (17.9.20): each once, at the size of its shape."""
        part = self.parts.first(self.part, "numbering")
        root = self.parts.root(part)
        if root is None or part is None:
            return
        for one in children(root):
            if local(one) == "numPicBullet":
                self._story(one, part, page, "bullet", Theme({}))

    def is_heading(self, paragraph: Element) -> bool:
        """Whether a paragraph is a heading, by its style or by its outline level."""
        properties = child(paragraph, "pPr")
        if properties is None:
            return False
        level = child(properties, "outlineLvl")
        if level is not None:
            return number(attribute(level, "val")) < _DEEPEST_OUTLINE
        style = child(properties, "pStyle")
        return style is not None and attribute(style, "val") in self._headings


@dataclass(slots=True)
class _Story:
    """One run of text: the body, a header, a note."""

    reader: TextReader
    part: str
    page: PageGatherer
    source: str
    theme: Theme
    relations: dict[str, Relationship]
    heading: str = ""
    _in_cell: int = 0
    _in_box: int = 0
    _unseen: str = ""

    @property
    def where(self) -> str:
        """Where a picture stands at this moment."""
        if self._in_box:
            return "text box"
        return "table cell" if self._in_cell and self.source == "body" else self.source

    def walk(self, element: Element) -> None:
        """Everything below an element, in reading order."""
        for one in children(element):
            self._one(one)

    def _one(self, one: Element) -> None:
        name = local(one)
        if name == "p":
            if self.source == "body" and not self._in_box and self.reader.is_heading(one):
                self.heading = _text_of(one)
            self.walk(one)
        elif name == "tc":
            self._in_cell += 1
            self.walk(one)
            self._in_cell -= 1
        elif name in ("del", "moveFrom"):
            self._with_unseen(one, DELETED)
        elif name == "r" and _is_hidden(one):
            self._with_unseen(one, HIDDEN)
        elif name in ("inline", "anchor"):
            self._drawing(one)
        elif name in ("pict", "object", "background"):
            self._older(one, name)
        else:
            self.walk(one)

    def _with_unseen(self, element: Element, why: str) -> None:
        before = self._unseen
        self._unseen = before or why
        self.walk(element)
        self._unseen = before

    def _box_text(self, content: Element) -> None:
        self._in_box += 1
        self.walk(content)
        self._in_box -= 1

    def _drawing(self, drawing: Element) -> None:
        """A drawing in the text, at the size that it takes there (20.4.2.7)."""
        extent, data = child(drawing, "extent"), child(drawing, "graphic", "graphicData")
        if data is None:
            return
        about = child(drawing, "docPr")
        name = about.get("name", "") if about is not None else ""
        is_hidden = about is not None and is_on(about.get("hidden"))
        width = points(extent.get("cx")) if extent is not None else 0.0
        height = points(extent.get("cy")) if extent is not None else 0.0
        frame = replace(_turned(data), width=max(0.0, width), height=max(0.0, height))
        unseen = self._unseen or (HIDDEN if is_hidden else "")
        walk = ShapeWalk(
            parts=self.reader.parts,
            page=self.page,
            relations=self.relations,
            marks=self.reader.marks,
            source=self.where,
            theme=self.theme,
            heading=self.heading,
            unseen=unseen,
            on_text=self._box_text,
        )
        shape = Shape(
            matrix=frame.matrix,
            own_w_pt=frame.width,
            own_h_pt=frame.height,
            source=self.where,
            name=name,
            heading=self.heading,
            unseen=unseen,
        )
        first = len(self.page.images)
        walk.graphic(data, shape, frame, Matrix())
        self._name_pictures(first, name)

    def _name_pictures(self, first: int, name: str) -> None:
        """Pictures without a name of their own take that of their drawing."""
        for place in range(first, len(self.page.images)):
            image = self.page.images[place]
            if not image.shape_name:
                self.page.images[place] = replace(image, shape_name=name)

    def _older(self, one: Element, name: str) -> None:
        walk = VmlWalk(
            page=self.page,
            relations=self.relations,
            source="preview" if name == "object" else self.where,
            heading=self.heading,
            unseen=self._unseen,
            on_text=self._box_text,
        )
        walk.walk(one)
        for each in children(one):
            if local(each) == "drawing":
                self.walk(each)


def _turned(data: Element) -> Frame:
    """Rotation and flips of the one thing that a drawing holds; its size is the drawing's."""
    frame = Frame(x=0, y=0, width=0, height=0)
    for one in children(data):
        properties = child(one, "spPr")
        if properties is None:
            properties = child(one, "grpSpPr")
        xfrm = child(properties, "xfrm") if properties is not None else None
        if xfrm is not None:
            return replace(
                frame,
                turn_deg=number(xfrm.get("rot")) / 60_000,
                is_mirrored=is_on(xfrm.get("flipH")),
                is_upside_down=is_on(xfrm.get("flipV")),
            )
    return frame


def _is_hidden(run: Element) -> bool:
    properties = child(run, "rPr")
    hidden = child(properties, "vanish") if properties is not None else None
    return hidden is not None and is_on(attribute(hidden, "val", "1"))


def _text_of(paragraph: Element) -> str:
    return "".join(one.text or "" for one in descendants(paragraph) if local(one) == "t")


def _heading_styles(root: Element | None) -> frozenset[str]:
    """The ids of styles that make a paragraph a heading: by name, by level, or based on one."""
    found: set[str] = set()
    based: dict[str, str] = {}
    for one in children(root) if root is not None else ():
        if local(one) != "style":
            continue
        own, name, base = attribute(one, "styleId"), child(one, "name"), child(one, "basedOn")
        level = child(one, "pPr", "outlineLvl")
        is_level = level is not None and number(attribute(level, "val")) < _DEEPEST_OUTLINE
        if is_level or (name is not None and _HEADING.match(attribute(name, "val"))):
            found.add(own)
        elif base is not None and level is None:
            based[own] = attribute(base, "val")
    for _ in range(len(based)):
        more = {own for own, base in based.items() if base in found and own not in found}
        if not more:
            break
        found |= more
    return frozenset(found)


def _sections(root: Element) -> list[Element]:
    """Breaks between sections inside the text; the last section has its own below the body."""
    properties = (one for one in descendants(root) if local(one) == "pPr")
    return [one for each in properties for one in children(each) if local(one) == "sectPr"]
