"""What a target is in a file, a report and the API: its fields, said once."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

TargetPpi = Annotated[float, Field(gt=0, le=1_000_000)]
ColourWord = Literal["rgb", "cmyk", "grey", "lab", "palette", "bilevel", "vector", "spot"]
SeverityWord = Literal["blocking", "warning", "note", "off"]
_NAME = r"^[^\x00-\x1f]*[^\s\x00-\x1f][^\x00-\x1f]*$"
_TEXT = r"^[^\x00-\x08\x0b\x0c\x0e-\x1f]*$"


class TargetFields(BaseModel):
    """A target without its key; densities in ppi, the tolerance as a share of the density."""

    model_config = ConfigDict(use_attribute_docstrings=True)

    name: Annotated[str, Field(pattern=_NAME, max_length=100)]
    """Its name."""
    density_ppi: TargetPpi
    """The density that pictures need, in pixels per inch."""
    bilevel_ppi: TargetPpi
    """The density that 1-bit pictures need, in pixels per inch."""
    floor_ppi: TargetPpi
    """Below this a picture is coarse, in pixels per inch."""
    ceiling_ppi: TargetPpi
    """Above this a picture is surplus, in pixels per inch."""
    tolerance: Annotated[float, Field(ge=0, lt=1)] = 0.1
    """How far below the density still passes, as a share of it."""
    screen_lpi: Annotated[float, Field(ge=0, le=400)] = 0
    """The line screen it is printed with, in lines per inch; 0 where there is none."""
    reason: Annotated[str, Field(pattern=_TEXT, max_length=1000)] = ""
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
    severities: dict[str, SeverityWord] = {}
    """Severities by rule id, where they differ from the defaults."""
