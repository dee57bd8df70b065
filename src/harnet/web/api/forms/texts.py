"""Texts as the API takes and gives them."""

from typing import Annotated, Literal

from pydantic import Field

from harnet.studio.handoff.job_file import Font
from harnet.web.api.forms.base import Number, Prose, RequestBody, ResponseForm, example
from harnet.web.api.forms.placements import FrameValues


class TypeValues(RequestBody):
    """How a text is set."""

    font: Font = "serif-400"
    """Family and weight of a font that Harnet ships."""
    size_pt: Annotated[float, Field(ge=1, le=2000)] = 9.5
    """The size of the type."""
    leading_pt: Annotated[float, Field(ge=1, le=2000)] = 13.0
    """From one baseline to the next."""
    colour: Annotated[str, Field(pattern="^#[0-9a-f]{6}$")] = "#1c2833"
    """Its colour, as #rrggbb."""
    align: Literal["left", "center", "right"] = "left"
    """How lines are aligned in the frame."""
    space_pt: Annotated[float, Field(ge=0, le=1000)] = 0.0
    """The space between two paragraphs besides the leading."""
    link: Annotated[str, Field(pattern=r"^((https?://|mailto:)[!-~]{1,1900})?$")] = ""
    """Its link in a PDF: a web or mail address."""


class TextIn(RequestBody):
    """A text frame to add."""

    model_config = example(
        {
            "page": 1,
            "frame": {"x_pt": 36, "y_pt": 300, "width_pt": 200, "height_pt": 40},
            "text": "High water at noon.",
            "type": {"font": "serif-400", "size_pt": 12, "leading_pt": 15},
        }
    )

    page: Annotated[int, Field(ge=1, le=2000)] = 1
    """The page's number, from 1."""
    frame: FrameValues
    """Its frame on the page."""
    text: Prose
    """Its text; a line feed ends a paragraph."""
    type: TypeValues = TypeValues()
    """Its type style."""


class TextChange(RequestBody):
    """A change of a text; what is left out stays."""

    model_config = example({"text": "Low water at six."})

    version: Number | None = None
    """Make the change only if the text still has this version."""
    frame: FrameValues | None = None
    """The new frame."""
    text: Prose | None = None
    """The new text."""
    type: TypeValues | None = None
    """Its new type style."""


class TextOut(ResponseForm):
    """A text of a job, with what its frame cannot show."""

    id: int
    """The text's number."""
    version: int
    """Increases with every change."""
    page: int
    """The page's number, from 1."""
    text: str
    """Its words."""
    frame: FrameValues
    """Its frame on the page."""
    type: TypeValues
    """Its type style."""
    lines: int
    """How many lines its text takes."""
    lines_lost: int
    """How many of these lines do not fit the frame."""
    missing_glyphs: list[str]
    """The characters that its font does not have."""


class Texts(ResponseForm):
    """Every text of a job, page by page."""

    items: list[TextOut]
    """The texts."""
