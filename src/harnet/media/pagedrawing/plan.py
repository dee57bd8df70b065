"""Pages as the writers draw them: values only, lowest part first."""

from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from harnet.core.layout.placing import Placement
from harnet.core.measure.geometry import Box
from harnet.core.pictures.picture import Facts
from harnet.media.pagedrawing.text_lines import TextStyle


@dataclass(frozen=True, slots=True, kw_only=True)
class PicturePart:
    """A placed picture; `path` is None where its file is missing, or no longer what was judged."""

    item_id: int
    name: str
    sha256: str
    path: Path | None
    facts: Facts
    placement: Placement
    is_changed: bool = False
    """Whether there is a file, but not the one that was judged."""


@dataclass(frozen=True, slots=True)
class PictureFile:
    """A picture apart from any page."""

    name: str
    path: Path | None
    facts: Facts
    sha256: str = ""
    """Its bytes' hash; empty where they need not be those of before."""


AnyPicture = PicturePart | PictureFile


@dataclass(frozen=True, slots=True)
class TextPart:
    """A text frame."""

    frame: Box
    rotation_deg: float
    text: str
    style: TextStyle


@dataclass(frozen=True, slots=True, kw_only=True)
class RectanglePart:
    """A filled or stroked rectangle; colours as `#rrggbb` or None."""

    frame: Box
    rotation_deg: float
    fill: str | None
    stroke: str | None
    stroke_pt: float


@dataclass(frozen=True, slots=True)
class LinePart:
    """A straight line along the middle of its frame, which may be turned."""

    frame: Box
    rotation_deg: float
    stroke: str
    stroke_pt: float


Part = PicturePart | TextPart | RectanglePart | LinePart


@dataclass(frozen=True, slots=True, kw_only=True)
class PagePlan:
    """A page: its trim size, its bleed and its parts, in points."""

    number: int
    width_pt: float
    height_pt: float
    bleed_pt: float
    parts: tuple[Part, ...]


@dataclass(frozen=True, slots=True)
class PagesToDraw:
    """What outputs are made of: pages with their numbers, a title, and when it was edited last."""

    title: str
    plans: tuple[PagePlan, ...]
    edited_at: datetime
