"""Drawings of spreadsheets of ISO/IEC 29500-1 (clause 18, 20.5): pictures anchored to cells."""

from bisect import bisect_right
from dataclasses import dataclass, field
from math import ceil

from harnet.core.documents.document import DocumentPage, PageKind
from harnet.core.documents.images import ImageOnPage
from harnet.core.measure.geometry import Matrix
from harnet.core.measure.units import CSS_PX_PER_INCH, POINTS_PER_INCH
from harnet.media.packages.gathering import PageGatherer, ReadDocument, Shape
from harnet.media.packages.media import MediaStore
from harnet.media.packages.office.fills import Marks
from harnet.media.packages.office.geometry import Frame, frame_of
from harnet.media.packages.office.settings import sheet_settings
from harnet.media.packages.office.shapes import ShapeWalk
from harnet.media.packages.office.vml import VmlWalk
from harnet.media.packages.relationships import Parts
from harnet.media.packages.xml import (
    Element,
    attribute,
    child,
    children,
    is_on,
    local,
    number,
    points,
)

_LETTER_PX, _PADDING_PX = 7, 5
"""A digit of the usual font and the room beside it at 96 ppi (18.3.1.13, from memory)."""
_USUAL_LETTERS, _USUAL_ROW_PT = 64 / 7, 15.0
_MOST_CELLS = 1_048_576


@dataclass(slots=True)
class SheetsReader:
    """Reads the drawings of a spreadsheet, sheet by sheet."""

    parts: Parts
    media: MediaStore
    part: str
    marks: Marks = field(default_factory=lambda: Marks({}))

    def read(self) -> ReadDocument:
        """Every sheet with what is drawn on it.

        Raises:
            Refused: its main part cannot be read.
        """
        root = self.parts.require_root(self.part, "spreadsheet")
        relations = self.parts.relations(self.part)
        listed = child(root, "sheets")
        sheets = (
            [one for one in children(listed) if local(one) == "sheet"] if listed is not None else []
        )
        pages: list[DocumentPage] = []
        images: list[ImageOnPage] = []
        for number_, one in enumerate(sheets, 1):
            relation = relations.get(_relation_of(one))
            gathered = PageGatherer(self.media, number_, PageKind.SHEET, title=one.get("name", ""))
            if relation is not None and relation.part is not None:
                self._sheet(relation.part, gathered)
                self.parts.forget(relation.part)
            pages.append(gathered.page())
            images += gathered.images
        saving = sheet_settings(root, self.marks.counts)
        return ReadDocument(
            pages=pages, images=images, whole={"parts": len(sheets), "saving": saving}
        )

    def _sheet(self, part: str, page: PageGatherer) -> None:
        root = self.parts.root(part)
        if root is None:
            page.left_out.append(self.parts.faults.get(part, part))
            return
        relations = self.parts.relations(part)
        cells = _Cells.of(root)
        for one in children(root):
            kind = local(one)
            relation = relations.get(_relation_of(one))
            if relation is None or relation.part is None:
                continue
            if kind == "drawing":
                self._drawing(relation.part, page, cells)
            elif kind in ("legacyDrawing", "legacyDrawingHF"):
                self._older(relation.part, page, "header" if kind.endswith("HF") else "note")
            elif kind == "picture":
                self._background(relation.part, page)

    def _drawing(self, part: str, page: PageGatherer, cells: "_Cells") -> None:
        root = self.parts.root(part)
        if root is None:
            page.left_out.append(self.parts.faults.get(part, part))
            return
        walk = ShapeWalk(
            parts=self.parts,
            page=page,
            relations=self.parts.relations(part),
            marks=self.marks,
            source="cells",
        )
        for anchor in children(root):
            start = child(anchor, "from")
            walk.heading = _cell_name(start) if start is not None else ""
            for one in children(anchor):
                if local(one) in ("pic", "sp", "grpSp", "graphicFrame"):
                    self._anchored(one, anchor, walk, cells)

    def _anchored(self, one: Element, anchor: Element, walk: ShapeWalk, cells: "_Cells") -> None:
        """A shape at the size of its anchor; of two cells, as its own transform states it."""
        extent = child(anchor, "ext")
        kind = local(one)
        stated = frame_of(child(one, "xfrm")) if kind == "graphicFrame" else _own_frame(one)
        if extent is not None:
            width, height = points(extent.get("cx")), points(extent.get("cy"))
        elif stated is not None and min(stated.width, stated.height) > 0:
            width, height = stated.width, stated.height
        else:
            width, height = cells.between(child(anchor, "from"), child(anchor, "to"))
        frame = Frame(
            x=0,
            y=0,
            width=max(0.0, width),
            height=max(0.0, height),
            turn_deg=stated.turn_deg if stated is not None else 0.0,
            is_mirrored=stated is not None and stated.is_mirrored,
            is_upside_down=stated is not None and stated.is_upside_down,
        )
        if kind == "graphicFrame":
            data = child(one, "graphic", "graphicData")
            if data is not None:
                shape = Shape(
                    matrix=frame.matrix,
                    own_w_pt=frame.width,
                    own_h_pt=frame.height,
                    source="cells",
                    heading=walk.heading,
                )
                walk.graphic(data, shape, frame, Matrix())
        else:
            walk.shape(one, Matrix(), frame)

    def _older(self, part: str, page: PageGatherer, source: str) -> None:
        root = self.parts.root(part)
        if root is not None:
            VmlWalk(page=page, relations=self.parts.relations(part), source=source).walk(root)

    def _background(self, part: str, page: PageGatherer) -> None:
        """A sheet's background is tiled, one picture pixel per CSS pixel (common practice)."""
        px_w, px_h = self.media.look_at(part).px
        width = px_w * POINTS_PER_INCH / CSS_PX_PER_INCH
        height = px_h * POINTS_PER_INCH / CSS_PX_PER_INCH
        page.picture(
            part,
            Shape(
                matrix=Matrix.scaling(width, height),
                own_w_pt=width,
                own_h_pt=height,
                source="background",
                is_assumed=True,
            ),
        )


def _relation_of(element: Element) -> str:
    for key, value in element.attrib.items():
        if key.startswith("{") and key.endswith("}id"):
            return str(value)
    return ""


def _own_frame(one: Element) -> Frame | None:
    for name in ("spPr", "grpSpPr"):
        properties = child(one, name)
        if properties is not None:
            return frame_of(child(properties, "xfrm"))
    return None


def _cell_name(start: Element) -> str:
    """A cell as spreadsheets write it: B2."""
    column, row = _cell(start)
    letters = ""
    column += 1
    while column > 0:
        column, rest = divmod(column - 1, 26)
        letters = chr(ord("A") + rest) + letters
    return f"{letters}{row + 1}"


def _cell(point: Element | None) -> tuple[int, int]:
    found = [0, 0]
    for one in children(point) if point is not None else ():
        if local(one) in ("col", "row"):
            value = int(min(_MOST_CELLS, max(0.0, number((one.text or "").strip()))))
            found[local(one) == "row"] = value
    return found[0], found[1]


@dataclass(slots=True)
class _Cells:
    """Widths of columns and heights of rows, in points."""

    usual_w_pt: float
    usual_h_pt: float
    columns: list[tuple[int, int, float]] = field(default_factory=list)
    rows: dict[int, float] = field(default_factory=dict)

    @classmethod
    def of(cls, root: Element) -> "_Cells":
        """The cells of a sheet."""
        formats = child(root, "sheetFormatPr")
        letters = _USUAL_LETTERS
        height = _USUAL_ROW_PT
        if formats is not None:
            height = number(formats.get("defaultRowHeight"), height)
            base = number(formats.get("baseColWidth"), 8.0)
            # Rounded up to a multiple of 8 px.
            base_px = ceil((base * _LETTER_PX + _PADDING_PX) / 8) * 8
            letters = number(formats.get("defaultColWidth"), base_px / _LETTER_PX)
        cells = cls(_column_pt(letters), height)
        for one in children(root):
            kind = local(one)
            if kind == "cols":
                for each in children(one):
                    width = _column_pt(number(each.get("width"), _USUAL_LETTERS))
                    width = 0.0 if is_on(each.get("hidden")) else width
                    first, last = int(number(each.get("min"))), int(number(each.get("max")))
                    cells.columns.append((first - 1, last - 1, width))
            elif kind == "sheetData":
                for each in one:
                    stated = each.get("ht")
                    if stated is not None or is_on(each.get("hidden")):
                        row = int(number(attribute(each, "r"))) - 1
                        hidden = is_on(each.get("hidden"))
                        cells.rows[row] = 0.0 if hidden else number(stated, height)
        cells.columns.sort()
        return cells

    def between(self, start: Element | None, end: Element | None) -> tuple[float, float]:
        """Width and height of what two anchors span."""
        x1, y1 = self._point(start)
        x2, y2 = self._point(end)
        return max(0.0, x2 - x1), max(0.0, y2 - y1)

    def _point(self, point: Element | None) -> tuple[float, float]:
        if point is None:
            return 0.0, 0.0
        column, row = _cell(point)
        beyond = [0.0, 0.0]
        for one in children(point):
            if local(one) in ("colOff", "rowOff"):
                beyond[local(one) == "rowOff"] = points((one.text or "").strip())
        return self._left(column) + beyond[0], self._top(row) + beyond[1]

    def _left(self, column: int) -> float:
        x = column * self.usual_w_pt
        for first, last, width in self.columns[: bisect_right(self.columns, (column, 0, 0.0))]:
            x += (min(last, column - 1) - first + 1) * (width - self.usual_w_pt)
        return x

    def _top(self, row: int) -> float:
        return row * self.usual_h_pt + sum(
            height - self.usual_h_pt for number_, height in self.rows.items() if number_ < row
        )


def _column_pt(letters: float) -> float:
    """A column's width in points, from its width in letters of the usual font."""
    px = int((256 * letters + int(128 / _LETTER_PX)) / 256 * _LETTER_PX)
    if letters < 1:
        px = int(letters * (_LETTER_PX + _PADDING_PX))
    return max(0, px) * POINTS_PER_INCH / CSS_PX_PER_INCH
