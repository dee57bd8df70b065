"""Jobs as the API takes and gives them."""

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from harnet.web.api.forms.base import RequestBody, ResponseForm, Title, example
from harnet.web.api.forms.targets import TargetIn, TargetOut


class JobIn(RequestBody):
    """A new job; width and height are in `unit`."""

    model_config = example(
        {
            "title": "Tide tables",
            "width": 210,
            "height": 297,
            "pages": 4,
            "target": {"key": "coated"},
        }
    )

    title: Title
    """The job's title."""
    width: Annotated[float, Field(gt=0, le=14_400)]
    """The pages' width."""
    height: Annotated[float, Field(gt=0, le=14_400)]
    """The pages' height."""
    unit: Literal["mm", "cm", "in", "pt", "px"] = "mm"
    """The unit of width and height, and of the job."""
    px_per_inch: Annotated[float, Field(ge=1, le=2400)] | None = None
    """For pages in pixels: pixels per inch; 96 if omitted."""
    bleed_mm: Annotated[float, Field(ge=0, le=50)] = 0
    """The bleed around each page, in millimetres."""
    pages: Annotated[int, Field(ge=1, le=2000)] = 1
    """How many pages it starts with."""
    is_facing: bool = False
    """Whether it has facing pages, as in a book."""
    target: TargetIn = TargetIn()
    """What its pictures are checked against; coated press if omitted."""


class JobOut(ResponseForm):
    """A job, with how its pictures and its gate stand."""

    id: int
    """The job's number."""
    title: str
    """Its title."""
    width_pt: float
    """The width of its pages."""
    height_pt: float
    """The height of its pages."""
    bleed_pt: float
    """The bleed around its pages."""
    pages: int
    """How many pages it has."""
    is_facing: bool
    """Whether it has facing pages, as in a book."""
    target: TargetOut
    """What its pictures are checked against."""
    verdicts: dict[str, int]
    """How many placements have each verdict."""
    findings: int
    """How many findings are open."""
    blocking: int
    """How many of these are blocking."""
    gate: Literal["open", "held"]
    """Whether a PDF may be made without a reason."""
    created_at: datetime
    """When it was created."""
    edited_at: datetime
    """When it was last edited."""


class Jobs(ResponseForm):
    """A part of the open jobs, the one edited last first."""

    total: int
    """How many open jobs there are in total."""
    items: list[JobOut]
    """The jobs of this page of the list."""
