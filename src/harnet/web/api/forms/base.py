"""What all bodies and answers of the API share; lengths in points, densities in ppi."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

Word = Annotated[str, Field(pattern=r"^[^\x00-\x1f]*$", max_length=200)]
Title = Annotated[str, Field(pattern=r"^[^\x00-\x1f]*[^\s\x00-\x1f][^\x00-\x1f]*$", max_length=200)]
Key = Annotated[str, Field(pattern=r"^[a-z0-9-]{1,60}$")]
Ppi = Annotated[float, Field(ge=1, le=10_000)]
Length = Annotated[float, Field(ge=-100_000, le=100_000)]
Extent = Annotated[float, Field(gt=0.01, le=100_000)]
Number = Annotated[int, Field(ge=1, le=2_147_483_647)]
Prose = Annotated[str, Field(pattern=r"^[^\x00-\x09\x0b-\x1f]*$", max_length=100_000)]
FitWord = Literal["contain", "cover", "none", "fill"]
WorkState = Literal["waiting", "working", "done", "failed", "cancelled"]
Sha256 = Annotated[str, Field(pattern="^[0-9a-f]{64}$")]


class RequestBody(BaseModel):
    """A body: nothing unknown in it, nothing of another kind."""

    model_config = ConfigDict(
        extra="forbid", strict=True, allow_inf_nan=False, use_attribute_docstrings=True
    )


class ResponseForm(BaseModel):
    """An answer: what its fields mean stands beside them."""

    model_config = ConfigDict(from_attributes=True, use_attribute_docstrings=True)


class RequestForm(BaseModel):
    """What stands behind the question mark of an address, or in the parts of a form."""

    model_config = ConfigDict(extra="forbid", use_attribute_docstrings=True)


def example(values: dict[str, Any]) -> ConfigDict:
    """A body that can be sent as it stands; a test does."""
    return ConfigDict(json_schema_extra={"examples": [values]})


class ListRange(RequestForm):
    """Which part of a list is wanted."""

    limit: Annotated[int, Field(ge=1, le=500)] = 100
    """The most entries to return."""
    offset: Annotated[int, Field(ge=0, le=1_000_000_000)] = 0
    """How many entries to skip."""
