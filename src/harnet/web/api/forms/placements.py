"""Placements as the API takes and gives them."""

from typing import Annotated, Literal

from pydantic import Field

from harnet.core.measure.geometry import Box
from harnet.web.api.forms.base import (
    Extent,
    FitWord,
    Length,
    Number,
    Ppi,
    RequestBody,
    ResponseForm,
    example,
)


class FrameValues(RequestBody):
    """A frame, from the trim's top left corner, y downwards."""

    x_pt: Length
    """From the trim's left edge."""
    y_pt: Length
    """From the trim's top edge, downwards."""
    width_pt: Extent
    """Its width."""
    height_pt: Extent
    """Its height."""

    @classmethod
    def of(cls, box: Box) -> "FrameValues":
        """A frame that is there, whatever its size."""
        return cls.model_construct(x_pt=box.x, y_pt=box.y, width_pt=box.width, height_pt=box.height)

    @property
    def box(self) -> Box:
        """The frame as the core takes it."""
        return Box(self.x_pt, self.y_pt, self.width_pt, self.height_pt)


class PlacementIn(RequestBody):
    """A picture to place: at native size, or laid into a frame."""

    model_config = example(
        {
            "picture": 1,
            "page": 1,
            "frame": {"x_pt": 36, "y_pt": 48, "width_pt": 144, "height_pt": 96},
            "fit": "cover",
        }
    )

    picture: Number
    """The picture's number."""
    page: Annotated[int, Field(ge=1, le=2000)] = 1
    """The page's number, from 1."""
    pdf_page: Annotated[int, Field(ge=1, le=100_000)] | None = None
    """Of a PDF: which of its pages; it becomes a picture of its own. The first if left out."""
    frame: FrameValues | None = None
    """Its frame; if omitted, native size in the middle of the page."""
    fit: FitWord = "cover"
    """How it fits its frame, in the terms of CSS Images (object-fit)."""


class PlacementChange(RequestBody):
    """A change: of the frame, of the scale, or both, in that order; one edit each.

    With `version`, only if nobody changed it since.
    """

    model_config = example({"scale_to": "reach", "adjusts": "crop"})

    version: Number | None = None
    """Make the change only if the placement still has this version."""
    frame: FrameValues | None = None
    """The new frame."""
    scale_to: Literal["native", "reach", "even"] | None = None
    """Scale to native size, to reach, or even out."""
    scale_to_ppi: Ppi | None = None
    """Scale to this density, in pixels per inch."""
    adjusts: Literal["frame", "crop"] = "frame"
    """What changes when it is scaled: the frame, or the crop."""


class PlacementOut(ResponseForm):
    """A placed picture with its figures; densities are None for vector pictures."""

    id: int
    """The placement's number."""
    version: int
    """Increases with every change."""
    page: int
    """The page's number, from 1."""
    picture: int
    """The picture's number."""
    name: str
    """The picture's file name."""
    frame: FrameValues
    """Its frame on the page."""
    ppi_x: float | None
    """Effective density across, in pixels per inch."""
    ppi_y: float | None
    """Effective density down, in pixels per inch."""
    ppi_judged: float | None
    """The density that is checked: the lower of the two."""
    target_ppi: float
    """The density it needs."""
    verdict: str
    """coarse, thin, near, full or surplus."""
    headroom: float | None
    """How far above the target it is, as a share; negative below it."""
    evenness: float
    """The higher density divided by the lower one; 1 is even."""
    file_state: str
    """How its file stands: in place, changed, missing, carried, loose."""


class Placements(ResponseForm):
    """Every placed picture of a job, page by page."""

    items: list[PlacementOut]
    """The placements."""


class SwapIn(RequestBody):
    """Another picture for a placement; what is seen stays as well as it can."""

    model_config = example({"picture": 1})

    picture: Number
    """The picture's number."""
    version: Number | None = None
    """Make the swap only if the placement still has this version."""
