"""Presets as they stand in files: named settings of PDFs and of page images."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from harnet.core.output.page_images import ImageSettings
from harnet.core.output.pdf_settings import PdfSettings

MOST_PRESETS = 200
Name = Annotated[str, Field(min_length=1, max_length=80)]


class PdfPreset(BaseModel):
    """Settings of a PDF under a name."""

    model_config = ConfigDict(use_attribute_docstrings=True, extra="forbid")

    kind: Literal["pdf"]
    """What it is a preset of."""
    name: Name
    """Its name."""
    settings: PdfSettings
    """The settings."""


class ImagePreset(BaseModel):
    """Settings of page images under a name."""

    model_config = ConfigDict(use_attribute_docstrings=True, extra="forbid")

    kind: Literal["page image"]
    """What it is a preset of."""
    name: Name
    """Its name."""
    settings: ImageSettings
    """The settings."""


Preset = Annotated[PdfPreset | ImagePreset, Field(discriminator="kind")]


class PresetFile(BaseModel):
    """A file of presets, as it is exported and read in."""

    model_config = ConfigDict(use_attribute_docstrings=True, extra="forbid", title="Harnet presets")

    format: Literal["harnet presets"]
    """What this file is."""
    version: Literal[1]
    """The version of this format."""
    presets: Annotated[
        list[Preset],
        Field(min_length=1, max_length=MOST_PRESETS),
    ]
    """The presets."""
