"""What the API takes and gives, as pydantic models; lengths in points, densities in ppi."""

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

Word = Annotated[str, Field(pattern=r"^[^\x00-\x1f]*$", max_length=200)]
Title = Annotated[str, Field(pattern=r"^[^\x00-\x1f]*[^\s\x00-\x1f][^\x00-\x1f]*$", max_length=200)]
Key = Annotated[str, Field(pattern=r"^[a-z0-9-]{1,60}$")]
Ppi = Annotated[float, Field(ge=1, le=10_000)]
Length = Annotated[float, Field(ge=-100_000, le=100_000)]
Extent = Annotated[float, Field(gt=0.01, le=100_000)]
Number = Annotated[int, Field(ge=1, le=2_147_483_647)]
FitWord = Literal["contain", "cover", "none", "fill"]


class _Taken(BaseModel):
    """A body: nothing unknown in it, nothing of another kind."""

    model_config = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False)


class _Given(BaseModel):
    model_config = ConfigDict(from_attributes=True)


class Stretch(BaseModel):
    """Which part of a list is wanted."""

    model_config = ConfigDict(extra="forbid")
    limit: Annotated[int, Field(ge=1, le=500)] = 100
    offset: Annotated[int, Field(ge=0, le=1_000_000_000)] = 0


class PicturesWanted(Stretch):
    """Which pictures are wanted: those whose name holds `find`."""

    find: Word = ""


class DensityWanted(BaseModel):
    """A density."""

    model_config = ConfigDict(extra="forbid")
    ppi: Ppi


class FactsOut(_Given):
    """What a picture file says of itself; pixels are None for vector pictures."""

    kind: Literal["raster", "vector"]
    format: str
    px_w: int | None
    px_h: int | None
    density_x: float | None
    density_y: float | None
    colour: str
    bits: int
    channels: int
    alpha: bool
    lossy: bool
    icc: str | None
    frames: int
    jpeg_quality: int | None = None


class PictureOut(BaseModel):
    """A picture on a shelf."""

    id: int
    name: str
    shelf: str | None
    sha256: str
    size_bytes: int
    file_state: str
    facts: FactsOut
    licence: str
    credit: str
    added_at: datetime


class Pictures(BaseModel):
    """A part of the pictures, the latest first."""

    total: int
    items: list[PictureOut]


class ReachOut(BaseModel):
    """The largest size at a density; None for vector pictures, which have no end."""

    ppi: float
    width_pt: float | None
    height_pt: float | None


class TargetOut(BaseModel):
    """A target."""

    key: str
    name: str
    density_ppi: float
    bilevel_ppi: float
    floor_ppi: float
    ceiling_ppi: float
    tolerance: float
    reason: str


class Targets(BaseModel):
    """Every target."""

    items: list[TargetOut]


class TargetIn(_Taken):
    """A target by its key; a figure of one's own replaces its density for tone pictures.

    A figure alone changes the target that a job has already, or coated press.
    """

    key: Key | None = None
    ppi: Ppi | None = None


class JobIn(_Taken):
    """A new job; width and height are in `unit`."""

    title: Title
    width: Annotated[float, Field(gt=0, le=14_400)]
    height: Annotated[float, Field(gt=0, le=14_400)]
    unit: Literal["mm", "cm", "in", "pt", "px"] = "mm"
    px_per_inch: Annotated[float, Field(ge=1, le=2400)] | None = None
    """For pages in pixels: the density at which these stand; 96 where it is left out."""
    bleed_mm: Annotated[float, Field(ge=0, le=50)] = 0
    pages: Annotated[int, Field(ge=1, le=2000)] = 1
    is_facing: bool = False
    target: TargetIn = TargetIn()


class JobOut(BaseModel):
    """A job, with how its pictures and its gate stand."""

    id: int
    title: str
    width_pt: float
    height_pt: float
    bleed_pt: float
    pages: int
    is_facing: bool
    target: TargetOut
    verdicts: dict[str, int]
    findings: int
    blocking: int
    gate: Literal["open", "held"]
    created_at: datetime
    edited_at: datetime


class Jobs(BaseModel):
    """A part of the open jobs, the one edited last first."""

    total: int
    items: list[JobOut]


class FrameValues(_Taken):
    """A frame, from the trim's top left corner, y downwards."""

    x_pt: Length
    y_pt: Length
    width_pt: Extent
    height_pt: Extent


class PlacementIn(_Taken):
    """A picture to place: at native size, or laid into a frame."""

    picture: Number
    page: Annotated[int, Field(ge=1, le=2000)] = 1
    frame: FrameValues | None = None
    fit: FitWord = "cover"
    """How it lies in its frame, in the words of CSS Images."""


class PlacementChange(_Taken):
    """A change: of the frame, of the scale, or both, in that order; one edit each.

    With `version`, only if nobody changed it since.
    """

    version: Number | None = None
    frame: FrameValues | None = None
    scale_to: Literal["native", "reach", "even"] | None = None
    scale_to_ppi: Ppi | None = None
    gives_way: Literal["frame", "crop"] = "frame"


class PlacementOut(BaseModel):
    """A placed picture with its figures; densities are None for vector pictures."""

    id: int
    version: int
    page: int
    picture: int
    name: str
    frame: FrameValues
    ppi_x: float | None
    ppi_y: float | None
    ppi_judged: float | None
    target_ppi: float
    verdict: str
    headroom: float | None
    evenness: float
    file_state: str


class Placements(BaseModel):
    """Every placed picture of a job, page by page."""

    items: list[PlacementOut]


class FindingOut(BaseModel):
    """A finding of preflight; `accepted_by` and `reason` where somebody let it pass."""

    rule: str
    severity: str
    page: int
    item: int
    name: str
    headline: str
    sentence: str
    accepted_by: str | None = None
    reason: str | None = None


class Findings(BaseModel):
    """The findings of a job, worst first: open ones, and those that were accepted."""

    gate: Literal["open", "held"]
    items: list[FindingOut]
    accepted: list[FindingOut]


class CheckOut(BaseModel):
    """A PDF that is checked: how far that is, and what was found so far."""

    id: int
    file: str
    sha256: str
    size_bytes: int
    state: Literal["waiting", "working", "done", "failed"]
    pages_read: int
    pages: int
    trouble: str | None
    target: TargetOut
    verdicts: dict[str, int]
    asked_at: datetime
    finished_at: datetime | None


class Checks(BaseModel):
    """A part of the checked PDFs, the latest first."""

    total: int
    items: list[CheckOut]


class ReportOut(BaseModel):
    """A report in its published form, docs/schemas/."""

    model_config = ConfigDict(extra="allow")
    format: str
    version: int
    findings: list[dict[str, Any]]
    pictures: list[dict[str, Any]]


class _Settings(_Taken):
    model_config = ConfigDict(use_attribute_docstrings=True)


PageChoice = Annotated[str, Field(pattern=r"^(all|[0-9]{1,4}(-[0-9]{1,4})?)$")]
Sha256 = Annotated[str, Field(pattern="^[0-9a-f]{64}$")]


class PdfSettingsIn(_Settings):
    """Settings of a PDF; what is left out is as the job's last PDF had it."""

    mode: Literal["keep", "trim", "light"] | None = None
    """What happens to pictures; a mode given alone brings its usual figures."""
    to_ppi: Annotated[float, Field(ge=1, le=10_000)] | None = None
    """What denser pictures are downsampled to, in pixels per inch."""
    threshold: Annotated[float, Field(ge=1, le=100)] | None = None
    """From how many times that density on."""
    quality: Annotated[int, Field(ge=1, le=100)] | None = None
    """Of JPEG."""
    lossless: bool | None = None
    """Whether what is downsampled stays without loss; goes before `quality`."""
    drops_cropped: bool | None = None
    """Whether what frames crop off is left out of pictures that are stored anew anyway."""
    colour: Literal["keep", "intent"] | None = None
    """Whether colours stay, or become the inks of the output intent."""
    standard: Literal["pdf-1.7", "pdf-x-4"] | None = None
    """The standard that the PDF keeps to."""
    profile: Sha256 | None = None
    """The CMYK profile by the SHA-256 of its bytes."""
    crop_marks: bool | None = None
    """Whether crop marks stand around the trim."""
    registration_marks: bool | None = None
    """Whether registration marks stand around the trim."""
    pages: PageChoice | None = None
    """all, a page, or a range as 2-5."""
    language: Annotated[str, Field(pattern=r"^[A-Za-z]{2,8}(-[A-Za-z0-9]{1,8})*$")] | None = None
    """The language that the PDF names, as BCP 47 has it."""


class ImageSettingsIn(_Settings):
    """Settings of page images; what is left out is as the job's last page images had it.

    One of `density_ppi`, `width_px`, `height_px` and `limit_bytes` decides about the pixels; with
    a limit, `density_ppi` says at which density.
    """

    format: Literal["png", "jpeg", "tiff"] | None = None
    """The file format."""
    density_ppi: Annotated[float, Field(ge=72, le=1200)] | None = None
    """Pixels per inch."""
    width_px: Annotated[int, Field(ge=1, le=100_000)] | None = None
    """Pixels across."""
    height_px: Annotated[int, Field(ge=1, le=100_000)] | None = None
    """Pixels down."""
    limit_bytes: Annotated[int, Field(ge=1000, le=1_000_000_000)] | None = None
    """The most bytes a JPEG may have."""
    quality: Annotated[int, Field(ge=1, le=100)] | None = None
    """Of JPEG."""
    packing: Literal["none", "lzw", "deflate"] | None = None
    """How a TIFF is packed."""
    colour: Literal["rgb", "cmyk"] | None = None
    """The colour of the image; inks need TIFF."""
    profile: Sha256 | None = None
    """The CMYK profile by the SHA-256 of its bytes."""
    pages: PageChoice | None = None
    """all, a page, or a range as 2-5."""
    names: (
        Annotated[str, Field(pattern=r"^[^\x00-\x1f]*\{page\}[^\x00-\x1f]*$", max_length=120)]
        | None
    ) = None
    """How files are called, with {title}, {page} and {ppi}."""
    with_bleed: bool | None = None
    """Whether the bleed around the trim is part of the image."""


class OutputIn(_Settings):
    """An output to make: a PDF, page images, or a handoff pack with such a PDF in it."""

    kind: Literal["pdf", "page image", "pack"]
    """What is to be made."""
    pdf: PdfSettingsIn | None = None
    """Of a PDF or a pack."""
    images: ImageSettingsIn | None = None
    """Of page images."""
    reason: Word = ""
    """Asked for where findings hold the gate; kept with the output."""
    name: Word = ""
    """Whose reason it is."""

    @model_validator(mode="after")
    def _fits(self) -> "OutputIn":
        other = "pdf" if self.kind == "page image" else "images"
        if getattr(self, other) is not None:
            raise ValueError(f"{other} says nothing about an output of kind {self.kind}")
        return self


class PredictionOut(BaseModel):
    """How large a PDF will be; pictures that wait are not weighed yet: ask again for those."""

    size_bytes: int
    weighed: int
    waiting: int
    unreadable: list[str]


class ReceiptOut(BaseModel):
    """What was promised of an output, and what was read back from it."""

    model_config = ConfigDict(extra="allow")
    is_kept: bool


class PackOut(BaseModel):
    """A handoff pack that is being opened; `job` is what it became."""

    id: int
    file: str
    title: str
    state: Literal["waiting", "working", "done", "failed", "cancelled"]
    done_steps: int
    all_steps: int
    trouble: str | None
    job: int | None
    asked_at: datetime
    finished_at: datetime | None


class SwapIn(_Settings):
    """Another picture for a placement; what is seen stays as well as it can."""

    picture: Number
    """The picture's number."""
    version: Number | None = None
    """Only if nobody changed the placement since it had this version."""


class AcceptIn(_Settings):
    """Why a finding may pass, and who says so."""

    reason: Title
    """Why it may pass."""
    name: Annotated[Title, Field(max_length=120)]
    """Who lets it pass."""


class OutputOut(BaseModel):
    """An output and how far it is; `is_as_promised` once it was read back."""

    id: int
    job: int
    kind: str
    file: str
    state: str
    done_steps: int
    all_steps: int
    size_bytes: int | None
    trouble: str | None
    is_as_promised: bool | None
    asked_at: datetime
    finished_at: datetime | None


class Outputs(BaseModel):
    """The outputs of a job, the latest first."""

    items: list[OutputOut]
