"""Outputs as the API takes and gives them: settings, prediction, receipt."""

from datetime import datetime
from typing import Annotated, Literal

from pydantic import ConfigDict, Field, model_validator

from harnet.web.api.forms.base import RequestBody, ResponseForm, Sha256, Word, example

PageChoice = Annotated[str, Field(pattern=r"^(all|[0-9]{1,4}(-[0-9]{1,4})?)$")]


class PdfSettingsIn(RequestBody):
    """Settings of a PDF; what is left out is as the job's last PDF had it."""

    model_config = example({"mode": "trim", "to_ppi": 300, "crop_marks": True})

    mode: Literal["keep", "trim", "light"] | None = None
    """How pictures are treated; a mode on its own brings its usual figures."""
    to_ppi: Annotated[float, Field(ge=1, le=10_000)] | None = None
    """The density that denser pictures are downsampled to, in pixels per inch."""
    threshold: Annotated[float, Field(ge=1, le=100)] | None = None
    """Only pictures above this multiple of that density are downsampled."""
    quality: Annotated[int, Field(ge=1, le=100)] | None = None
    """Of JPEG."""
    lossless: bool | None = None
    """Whether downsampled pictures are stored without loss; overrides `quality`."""
    drops_cropped: bool | None = None
    """Whether cropped-off parts of recompressed pictures are dropped."""
    colour: Literal["keep", "intent"] | None = None
    """Whether colours are kept or converted to the output intent."""
    standard: Literal["pdf-1.7", "pdf-x-4"] | None = None
    """The standard that the PDF conforms to."""
    profile: Sha256 | None = None
    """The CMYK profile by the SHA-256 of its bytes."""
    crop_marks: bool | None = None
    """Whether crop marks are added around the trim."""
    registration_marks: bool | None = None
    """Whether registration marks are added around the trim."""
    pages: PageChoice | None = None
    """all, a page, or ranges such as 2-5."""
    language: Annotated[str, Field(pattern=r"^[A-Za-z]{2,8}(-[A-Za-z0-9]{1,8})*$")] | None = None
    """The language of the PDF as a BCP 47 tag."""


class ImageSettingsIn(RequestBody):
    """Settings of page images; what is left out is as the job had it last, or as usual.

    One of `density_ppi`, `width_px`, `height_px` and `limit_bytes` decides about the pixels; with
    a limit, `density_ppi` says at which density.
    """

    model_config = example({"format": "jpeg", "density_ppi": 150, "quality": 85})

    format: Literal["png", "jpeg", "tiff"] | None = None
    """The file format."""
    density_ppi: Annotated[float, Field(ge=72, le=1200)] | None = None
    """Pixels per inch."""
    width_px: Annotated[int, Field(ge=1, le=100_000)] | None = None
    """Pixels across."""
    height_px: Annotated[int, Field(ge=1, le=100_000)] | None = None
    """Pixels down."""
    limit_bytes: Annotated[int, Field(ge=1000, le=1_000_000_000)] | None = None
    """The largest size of a JPEG, in bytes."""
    quality: Annotated[int, Field(ge=1, le=100)] | None = None
    """Of JPEG."""
    compression: Literal["none", "lzw", "deflate"] | None = None
    """The compression of a TIFF."""
    colour: Literal["rgb", "cmyk"] | None = None
    """The colour model of the image; CMYK needs TIFF."""
    profile: Sha256 | None = None
    """The CMYK profile by the SHA-256 of its bytes."""
    pages: PageChoice | None = None
    """all, a page, or ranges such as 2-5."""
    names: (
        Annotated[str, Field(pattern=r"^[^\x00-\x1f]*\{page\}[^\x00-\x1f]*$", max_length=120)]
        | None
    ) = None
    """File names; {title}, {page} and {ppi} are filled in."""
    with_bleed: bool | None = None
    """Whether the bleed around the trim is part of the image."""


class OutputIn(RequestBody):
    """An output to make: a PDF, page images, or a handoff pack with such a PDF in it."""

    model_config = example(
        {
            "kind": "pdf",
            "pdf": {"mode": "light"},
            "reason": "A proof for the office.",
            "name": "Ines Marram",
        }
    )

    kind: Literal["pdf", "page image", "pack"]
    """What is to be made."""
    pdf: PdfSettingsIn | None = None
    """Of a PDF or a pack."""
    images: ImageSettingsIn | None = None
    """Of page images."""
    reason: Word = ""
    """Required while the gate is held; saved with the output."""
    name: Word = ""
    """Who gives the reason."""

    @model_validator(mode="after")
    def _fits(self) -> "OutputIn":
        other = "pdf" if self.kind == "page image" else "images"
        if getattr(self, other) is not None:
            raise ValueError(f"{other} does not apply to an output of kind {self.kind}")
        return self


class PredictionOut(ResponseForm):
    """How large a PDF will be; pictures that wait are not measured yet: ask again for those."""

    size_bytes: int
    """The predicted size of the file, for the pictures measured so far."""
    measured: int
    """How many pictures have been measured."""
    waiting: int
    """How many are still to be measured."""
    unreadable: list[str]
    """Pictures whose files cannot be read, by name."""


class ReceiptOut(ResponseForm):
    """What was promised of an output, and what was read back from it."""

    model_config = ConfigDict(extra="allow")
    is_kept: bool
    """Whether everything promised was found."""


class OutputOut(ResponseForm):
    """An output and how far it is; `is_as_promised` once it was read back."""

    id: int
    """The output's number."""
    job: int
    """The job's number."""
    kind: str
    """pdf, page image or pack."""
    file: str
    """The file's name."""
    state: str
    """waiting, working, done, failed or cancelled."""
    steps_done: int
    """Pages done so far."""
    steps_total: int
    """Pages in total; 0 until known."""
    size_bytes: int | None
    """The size of the finished file."""
    failure: str | None
    """Why it could not be made, as a sentence."""
    is_as_promised: bool | None
    """Whether everything promised was found when the file was read back."""
    requested_at: datetime
    """When it was requested."""
    finished_at: datetime | None
    """When it finished."""


class Outputs(ResponseForm):
    """The outputs of a job, the latest first."""

    items: list[OutputOut]
    """The outputs."""
