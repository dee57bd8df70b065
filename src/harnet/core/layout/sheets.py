"""Sheets and pages that everybody knows, and at which density typical photographs fill one."""

from dataclasses import dataclass

from harnet.core.measure.units import POINTS_PER_INCH, Unit, to_points

A_SERIES_MM = {
    "A6": (105, 148),
    "A5": (148, 210),
    "A4": (210, 297),
    "A3": (297, 420),
    "A2": (420, 594),
    "A1": (594, 841),
    "A0": (841, 1189),
}
"""ISO 216 (from memory): width and height in portrait, in millimetres, the smallest first."""
LETTER_SERIES_IN = {
    "Business card": (2.0, 3.5),
    "Half letter": (5.5, 8.5),
    "Letter": (8.5, 11.0),
    "Legal": (8.5, 14.0),
    "Tabloid": (11.0, 17.0),
    "Poster 18 × 24": (18.0, 24.0),
    "Poster 24 × 36": (24.0, 36.0),
}
"""Common practice, no source (letter and tabloid: ANSI A and B, from memory), in inches."""


@dataclass(frozen=True, slots=True)
class PageFormat:
    """A common page, in portrait where it has a long side; lengths in `unit`."""

    name: str
    width: float
    height: float
    unit: Unit

    @property
    def size_pt(self) -> tuple[float, float]:
        """Width and height in points; a pixel is 1/96 inch."""
        return to_points(self.width, self.unit), to_points(self.height, self.unit)


def _in_mm(name: str, width: float, height: float) -> PageFormat:
    return PageFormat(name, width, height, Unit.MM)


def _in_px(name: str, width: float, height: float) -> PageFormat:
    return PageFormat(name, width, height, Unit.PX)


PAGE_FORMATS: dict[str, tuple[PageFormat, ...]] = {
    "Paper, millimetres": (
        *(_in_mm(name, *A_SERIES_MM[name]) for name in ("A3", "A4", "A5", "A6")),
        _in_mm("Business card", 55, 85),
    ),
    "Paper, inches": tuple(
        PageFormat(name, *LETTER_SERIES_IN[name], Unit.INCH)
        for name in ("Letter", "Legal", "Tabloid", "Half letter", "Business card")
    ),
    "Posters and banners": (
        *(_in_mm(name, *A_SERIES_MM[name]) for name in ("A2", "A1", "A0")),
        _in_mm("Poster 500 × 700", 500, 700),
        PageFormat("Poster 18 × 24 in", 18, 24, Unit.INCH),
        PageFormat("Poster 24 × 36 in", 24, 36, Unit.INCH),
        _in_mm("Banner 850 × 2000", 850, 2000),
    ),
    "Slides": (
        PageFormat("Slide 16:9", 13 + 1 / 3, 7.5, Unit.INCH),
        PageFormat("Slide 4:3", 10, 7.5, Unit.INCH),
    ),
    "Screens, pixels": (
        _in_px("Full HD 1920 × 1080", 1920, 1080),
        _in_px("4K 3840 × 2160", 3840, 2160),
        _in_px("Square post 1080 × 1080", 1080, 1080),
        _in_px("Portrait post 1080 × 1350", 1080, 1350),
        _in_px("Story 1080 × 1920", 1080, 1920),
    ),
}
"""Common practice, no source, but for the A series."""
TYPICAL_PHOTOGRAPHS = (
    ("a screenshot of 1920 × 1080 px", 1920, 1080),
    ("a 12-megapixel photograph", 4000, 3000),
    ("a 24-megapixel photograph", 6000, 4000),
    ("a 45-megapixel photograph", 8192, 5464),
)
"""Common practice, no source: what telephones and cameras deliver."""


def filling_ppi(px_w: int, px_h: int, width_pt: float, height_pt: float) -> float:
    """The density of a picture that covers a whole page, turned to lie as the page does.

    >>> round(filling_ppi(4000, 3000, 595.28, 841.89), 1)
    342.1
    """
    longer_px, shorter_px = max(px_w, px_h), min(px_w, px_h)
    longer_pt, shorter_pt = max(width_pt, height_pt), min(width_pt, height_pt)
    return POINTS_PER_INCH * min(longer_px / longer_pt, shorter_px / shorter_pt)
