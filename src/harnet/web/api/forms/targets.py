"""Targets as the API takes and gives them."""

from harnet.studio.targets.fields import TargetFields
from harnet.web.api.forms.base import (
    Key,
    Ppi,
    RequestBody,
    ResponseForm,
    example,
)


class TargetValues(RequestBody, TargetFields):
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


class TargetOut(ResponseForm, TargetFields):
    """A target; densities in pixels per inch."""

    key: str
    """The target's key, for commands and addresses."""


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
