"""Laying out demo pages with a few words: picture, text and rectangle, in millimetres."""

from dataclasses import asdict, dataclass

from harnet.core.layout.hand.gesture import flipped
from harnet.core.layout.placing import Content, Fit, Placement, fitted
from harnet.core.layout.shape import Shape
from harnet.core.measure.geometry import Box
from harnet.core.measure.units import MM_PER_INCH, POINTS_PER_INCH
from harnet.media.pagedrawing.text_lines import TextStyle
from harnet.store.tables.jobs import Item, Page
from harnet.store.tables.pictures import Picture
from harnet.studio.layout.placed import (
    FRAME,
    LINE,
    PICTURE,
    RECTANGLE,
    TEXT,
    write_box,
    write_placement,
)
from harnet.studio.layout.text_styles import TYPE_FIELDS
from harnet.studio.pictures.picture import source_of

_PT_PER_MM = POINTS_PER_INCH / MM_PER_INCH

HEADING = TextStyle(font="sans-600", size_pt=19, leading_pt=22, colour="#0b5f6b", named="heading")
TITLE = TextStyle(font="sans-600", size_pt=30, leading_pt=33, colour="#fbfaf6")
BODY = TextStyle(
    font="serif-400", size_pt=9.2, leading_pt=12.6, space_pt=4, colour="#1c2833", named="body"
)
CAPTION = TextStyle(font="sans-400", size_pt=7.4, leading_pt=9.6, colour="#566573", named="caption")
LIGHT_BODY = TextStyle(font="serif-400", size_pt=10.5, leading_pt=14, colour="#f3eee2")

STYLES = {
    style.named: {name: asdict(style)[name] for name in TYPE_FIELDS}
    for style in (HEADING, BODY, CAPTION)
}
"""The text styles of jobs whose texts are set like these."""

MmBox = tuple[float, float, float, float]


@dataclass
class DemoPage:
    """Puts items onto one page, each above the last; boxes are x, y, width, height in mm."""

    page: Page
    shelf: dict[str, Picture]

    def picture(
        self,
        name: str,
        box: MmBox,
        ppi: float | tuple[float, float] | None = None,
        rotation_deg: float = 0,
        shape: Shape = Shape.RECTANGLE,
        radius_mm: float = 0,
        flip_h: bool = False,
    ) -> None:
        """A picture covering its frame, or at an effective ppi (two for an uneven one)."""
        picture = self.shelf[name]
        source, frame = source_of(picture), _frame(box)
        content = fitted(source, frame, Fit.COVER)
        if ppi is not None:
            ppi_x, ppi_y = ppi if isinstance(ppi, tuple) else (ppi, ppi)
            scale_x, scale_y = POINTS_PER_INCH / ppi_x, POINTS_PER_INCH / ppi_y
            content = Content(
                scale_x,
                scale_y,
                (frame.width - source.px_w * scale_x) / 2,
                (frame.height - source.px_h * scale_y) / 2,
            )
        item = self._new(PICTURE)
        item.picture = picture
        radius = radius_mm * _PT_PER_MM
        placement = Placement(
            source=source,
            frame=frame,
            content=content,
            rotation_deg=rotation_deg,
            shape=shape,
            radius_pt=radius,
        )
        write_placement(item, flipped(placement, across=True) if flip_h else placement)

    def frame(self, box: MmBox) -> None:
        """A frame that has no picture yet."""
        write_box(self._new(FRAME), _frame(box))

    def line(self, box: MmBox, stroke: str, stroke_pt: float) -> None:
        """A line along the middle of a box."""
        item = self._new(LINE)
        item.style = {"stroke": stroke, "stroke_pt": stroke_pt}
        write_box(item, _frame(box))

    def text(self, words: str, box: MmBox, style: TextStyle = BODY) -> None:
        """A text frame."""
        item = self._new(TEXT)
        item.text, item.style = words, asdict(style)
        write_box(item, _frame(box))

    def rectangle(self, box: MmBox, fill: str) -> None:
        """A filled rectangle."""
        item = self._new(RECTANGLE)
        item.style = {"fill": fill, "stroke": None, "stroke_pt": 0}
        write_box(item, _frame(box))

    def _new(self, kind: str) -> Item:
        item = Item(kind=kind, position=len(self.page.items) + 1, style={})
        self.page.items.append(item)
        return item


def _frame(box: MmBox) -> Box:
    x, y, width, height = (length * _PT_PER_MM for length in box)
    return Box(x, y, width, height)
