"""Targets as the API takes and gives them."""

from typing import Annotated, Literal

from pydantic import Field

from harnet.web.api.forms.base import (
    ColourWord,
    Key,
    Ppi,
    RequestBody,
    ResponseForm,
    Title,
    example,
)


class TargetValues(RequestBody):
    """A target as it is kept; densities in pixels per inch."""

    model_config = example(
        {
            "name": "Quay posters",
            "density_ppi": 150,
            "bilevel_ppi": 600,
            "floor_ppi": 100,
            "ceiling_ppi": 300,
            "reason": "Seen from two metres.",
        }
    )

    name: Annotated[Title, Field(max_length=100)]
    """Its name."""
    density_ppi: Ppi
    """The density that pictures need."""
    bilevel_ppi: Ppi
    """The density that 1-bit pictures need."""
    floor_ppi: Ppi
    """Below this a picture is coarse."""
    ceiling_ppi: Ppi
    """Above this a picture is surplus."""
    tolerance: Annotated[float, Field(ge=0, lt=1)] = 0.1
    """How far below the density still passes, as a share of it."""
    reason: Annotated[str, Field(pattern=r"^[^\x00-\x1f]*$", max_length=1000)] = ""
    """Why these figures."""
    colours: list[ColourWord] = []
    """The colour models that are allowed; empty allows any."""
    formats: list[Annotated[str, Field(pattern=r"^[a-z0-9]{1,12}$")]] = []
    """The file formats that are allowed; empty allows any."""
    profiled: list[ColourWord] = []
    """The colour models that must carry a profile."""
    allows_transparency: bool = True
    """Whether transparency is allowed."""
    least_jpeg_quality: Annotated[int, Field(ge=0, le=100)] = 0
    """The lowest JPEG quality that passes; 0 allows any."""
    severities: dict[str, Literal["blocking", "warning", "note", "off"]] = {}
    """Severities by rule id, where they differ from the defaults."""


class TargetOut(ResponseForm):
    """A target."""

    key: str
    """The target's key, for commands and addresses."""
    name: str
    """Its name."""
    density_ppi: float
    """The density that pictures need."""
    bilevel_ppi: float
    """The density that 1-bit pictures need."""
    floor_ppi: float
    """Below this a picture is coarse."""
    ceiling_ppi: float
    """Above this a picture is surplus."""
    tolerance: float
    """How far below the density still passes, as a share of it."""
    reason: str
    """Why these figures."""


class Targets(ResponseForm):
    """Every target."""

    items: list[TargetOut]
    """The targets."""


class TargetIn(RequestBody):
    """A target by its key; a figure of one's own replaces its density for tone pictures.

    A figure alone changes the target that a job has already, or coated press.
    """

    model_config = example({"key": "coated", "ppi": 240})

    key: Key | None = None
    """The key of a target."""
    ppi: Ppi | None = None
    """A custom density, in pixels per inch."""
