"""The job of a handoff pack as open JSON: the form that `job.json` has, also written by hand.

Lengths are points (1/72 inch), the origin is the trim's top left corner, y grows downwards.
"""

from datetime import datetime
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from harnet.core.placing import Content, Fit
from harnet.core.rights import Rights
from harnet.core.shape import Shape
from harnet.media.textlines import FONT_NAMES
from harnet.studio.targetfiles import TargetEntry

JOB_FILE, PICTURES_FOLDER = "job.json", "pictures/"
Length = Annotated[float, Field(gt=-1_000_000, lt=1_000_000, description="In points.")]
Extent = Annotated[float, Field(ge=0, le=200_000, description="In points.")]
PageLength = Annotated[float, Field(ge=10, le=14_400, description="In points.")]
Colour = Annotated[str, Field(pattern="^#[0-9a-fA-F]{6}$", description="Red, green and blue.")]
Font = Literal["sans-400", "sans-600", "serif-400", "serif-600", "slab-400", "mono-400"]
assert set(Font.__args__) == set(FONT_NAMES)  # type: ignore[attr-defined]


class _Entry(BaseModel):
    model_config = ConfigDict(extra="forbid")


class PictureEntry(_Entry):
    """A picture: its name, and its file within the pack; no file where it was missing."""

    name: Annotated[str, Field(min_length=1, max_length=255)]
    file: Annotated[str, Field(pattern=r"^pictures/[^/\\]{1,255}$")] | None
    sha256: Annotated[str, Field(pattern="^[0-9a-f]{64}$")] | None = None
    """Of the file's bytes; what differs is refused."""
    rights: Rights = Rights()


class _Framed(_Entry):
    x_pt: Length
    y_pt: Length
    width_pt: Extent
    height_pt: Extent
    rotation_deg: Annotated[float, Field(ge=-360, le=360)] = 0.0
    """Clockwise, about the frame's middle."""


class PlacedEntry(_Framed):
    """A placed picture; `content` says how it lies in its frame, else `fit` lays it in."""

    kind: Literal["picture"]
    picture: str
    """The name of an entry of `pictures`."""
    content: Content | None = None
    """Scales in points a pixel; offsets from the frame's top left corner to the picture's."""
    fit: Fit = Fit.COVER
    """In the words of CSS Images: contain, cover, none or fill."""
    shape: Shape = Shape.RECTANGLE
    radius_pt: Extent = 0.0
    target: TargetEntry | None = None
    column: str = ""
    """The column of rows that this frame of a pattern page takes its picture from."""


class FrameEntry(_Framed):
    """An empty frame."""

    kind: Literal["frame"]
    shape: Shape = Shape.RECTANGLE
    radius_pt: Extent = 0.0
    column: str = ""
    wanted: str = ""
    """The file name of a picture that was asked for and not found."""


class TypeEntry(_Entry):
    """How a text is set."""

    font: Font = "serif-400"
    size_pt: Annotated[float, Field(gt=0, le=2000)] = 9.5
    leading_pt: Annotated[float, Field(gt=0, le=4000)] = 13.0
    colour: Colour = "#1c2833"
    align: Literal["left", "center", "right"] = "left"
    link: Annotated[str, Field(max_length=2000)] = ""
    """Where the frame leads to when it is pressed in a PDF."""


class TextEntry(_Framed):
    """A text frame."""

    kind: Literal["text"]
    text: Annotated[str, Field(max_length=100_000)]
    style: TypeEntry = TypeEntry()


class RectangleEntry(_Framed):
    """A rectangle, filled and stroked or either."""

    kind: Literal["rectangle"]
    fill: Colour | None = None
    stroke: Colour | None = None
    stroke_pt: Annotated[float, Field(ge=0, le=1000)] = 1.0


class LineEntry(_Framed):
    """A straight line along the middle of its frame."""

    kind: Literal["line"]
    stroke: Colour = "#1c2833"
    stroke_pt: Annotated[float, Field(ge=0, le=1000)] = 1.0


ItemEntry = Annotated[
    PlacedEntry | FrameEntry | TextEntry | RectangleEntry | LineEntry,
    Field(discriminator="kind"),
]


class PageEntry(_Entry):
    """A page; its size is the job's where it says none. Items stand lowest first."""

    width_pt: PageLength | None = None
    height_pt: PageLength | None = None
    target: TargetEntry | None = None
    items: Annotated[list[ItemEntry], Field(max_length=20_000)] = []


class JobFile(_Entry):
    """A job."""

    model_config = ConfigDict(extra="forbid", title="Harnet job")

    format: Literal["harnet job"]
    version: Literal[1]
    title: Annotated[str, Field(min_length=1, max_length=200)]
    width_pt: PageLength
    height_pt: PageLength
    bleed_pt: Annotated[float, Field(ge=0, le=142)] = 0.0
    margin_pt: Annotated[float, Field(ge=0, le=7200)] = 0.0
    unit: Literal["mm", "cm", "in", "pt", "px"] = "mm"
    """The unit that the job is measured in on the screen."""
    px_per_inch: Annotated[float, Field(ge=1, le=2400)] | None = None
    is_facing: bool = False
    target: TargetEntry | None = None
    """What its pictures are judged by; coated press, 300 ppi, where it says none."""
    edited_at: datetime | None = None
    pictures: Annotated[list[PictureEntry], Field(max_length=20_000)] = []
    pages: Annotated[list[PageEntry], Field(min_length=1, max_length=2000)]

    @model_validator(mode="after")
    def _names_agree(self) -> "JobFile":
        names = [picture.name for picture in self.pictures]
        if len(set(names)) != len(names):
            twice = next(name for name in names if names.count(name) > 1)
            raise ValueError(f"two pictures are called “{twice}”")
        known = set(names)
        for number, page in enumerate(self.pages, 1):
            for item in page.items:
                if isinstance(item, PlacedEntry) and item.picture not in known:
                    raise ValueError(
                        f"page {number} places “{item.picture}”, which is not among the pictures"
                    )
        return self
