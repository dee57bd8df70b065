"""What the API takes and gives, as pydantic models; lengths in points, densities in ppi."""

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from harnet.core.measure.geometry import Box
from harnet.studio.handoff.job_file import Font

Word = Annotated[str, Field(pattern=r"^[^\x00-\x1f]*$", max_length=200)]
Title = Annotated[str, Field(pattern=r"^[^\x00-\x1f]*[^\s\x00-\x1f][^\x00-\x1f]*$", max_length=200)]
Key = Annotated[str, Field(pattern=r"^[a-z0-9-]{1,60}$")]
Ppi = Annotated[float, Field(ge=1, le=10_000)]
Length = Annotated[float, Field(ge=-100_000, le=100_000)]
Extent = Annotated[float, Field(gt=0.01, le=100_000)]
Number = Annotated[int, Field(ge=1, le=2_147_483_647)]
Prose = Annotated[str, Field(pattern=r"^[^\x00-\x09\x0b-\x1f]*$", max_length=100_000)]
ColourWord = Literal["rgb", "cmyk", "grey", "lab", "palette", "bilevel", "vector"]
FitWord = Literal["contain", "cover", "none", "fill"]

WorkState = Literal["waiting", "working", "done", "failed", "cancelled"]


class _Taken(BaseModel):
    """A body: nothing unknown in it, nothing of another kind."""

    model_config = ConfigDict(
        extra="forbid", strict=True, allow_inf_nan=False, use_attribute_docstrings=True
    )


class _Given(BaseModel):
    """An answer: what its fields mean stands beside them."""

    model_config = ConfigDict(from_attributes=True, use_attribute_docstrings=True)


class RequestForm(BaseModel):
    """What stands behind the question mark of an address, or in the parts of a form."""

    model_config = ConfigDict(extra="forbid", use_attribute_docstrings=True)


def _example(values: dict[str, Any]) -> ConfigDict:
    """A body that can be sent as it stands; a test does."""
    return ConfigDict(json_schema_extra={"examples": [values]})


class ListRange(RequestForm):
    """Which part of a list is wanted."""

    limit: Annotated[int, Field(ge=1, le=500)] = 100
    """The most entries to return."""
    offset: Annotated[int, Field(ge=0, le=1_000_000_000)] = 0
    """How many entries to skip."""


class PictureQuery(ListRange):
    """Which pictures are wanted: those whose name holds `find`."""

    find: Word = ""
    """Part of the file name; case does not matter."""


class DensityQuery(RequestForm):
    """A density."""

    ppi: Ppi
    """Pixels per inch."""


class FactsOut(_Given):
    """What a picture file says of itself; pixels are None for vector pictures."""

    kind: Literal["raster", "vector"]
    """Whether it is raster or vector."""
    format: str
    """The file format, in lower case, by its content."""
    px_w: int | None
    """Pixels across, in display orientation."""
    px_h: int | None
    """Pixels down, in display orientation."""
    density_x: float | None
    """The density tag across, in pixels per inch."""
    density_y: float | None
    """The density tag down, in pixels per inch."""
    colour: str
    """The colour model: rgb, grey, bilevel, cmyk, palette, lab, vector."""
    bits: int
    """Bits per channel."""
    channels: int
    """Channels, alpha included."""
    alpha: bool
    """Whether it has transparency."""
    lossy: bool
    """Whether its compression is lossy."""
    icc: str | None
    """The name of its ICC profile."""
    frames: int
    """How many images the file holds; the first one is used."""
    jpeg_quality: int | None = None
    """The JPEG quality, estimated from its tables."""


class PictureOut(_Given):
    """A picture on a shelf."""

    id: int
    """The picture's number."""
    name: str
    """Its file name."""
    shelf: str | None
    """The shelf it is on; null where only a job holds it."""
    sha256: str
    """The SHA-256 of its bytes."""
    size_bytes: int
    """The size of its file."""
    file_state: str
    """How its file stands: in place, changed, missing, loose."""
    facts: FactsOut
    """The facts read from its file."""
    licence: str
    """Its licence, an SPDX identifier where it has one."""
    credit: str
    """The credit line."""
    added_at: datetime
    """When it was added to its shelf."""


class Pictures(_Given):
    """A part of the pictures, the latest first."""

    total: int
    """How many there are in total."""
    items: list[PictureOut]
    """The pictures of this page of the list."""


class ReachOut(_Given):
    """The largest size at a density; None for vector pictures, which have no end."""

    ppi: float
    """The density, in pixels per inch."""
    width_pt: float | None
    """The largest width at that density."""
    height_pt: float | None
    """The largest height at that density."""


class TargetValues(_Taken):
    """A target as it is kept; densities in pixels per inch."""

    model_config = _example(
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


class TargetOut(_Given):
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


class Targets(_Given):
    """Every target."""

    items: list[TargetOut]
    """The targets."""


class TargetIn(_Taken):
    """A target by its key; a figure of one's own replaces its density for tone pictures.

    A figure alone changes the target that a job has already, or coated press.
    """

    model_config = _example({"key": "coated", "ppi": 240})

    key: Key | None = None
    """The key of a target."""
    ppi: Ppi | None = None
    """A custom density, in pixels per inch."""


class JobIn(_Taken):
    """A new job; width and height are in `unit`."""

    model_config = _example(
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


class JobOut(_Given):
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


class Jobs(_Given):
    """A part of the open jobs, the one edited last first."""

    total: int
    """How many open jobs there are in total."""
    items: list[JobOut]
    """The jobs of this page of the list."""


class FrameValues(_Taken):
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


class PlacementIn(_Taken):
    """A picture to place: at native size, or laid into a frame."""

    model_config = _example(
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
    frame: FrameValues | None = None
    """Its frame; if omitted, native size in the middle of the page."""
    fit: FitWord = "cover"
    """How it fits its frame, in the terms of CSS Images (object-fit)."""


class PlacementChange(_Taken):
    """A change: of the frame, of the scale, or both, in that order; one edit each.

    With `version`, only if nobody changed it since.
    """

    model_config = _example({"scale_to": "reach", "adjusts": "crop"})

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


class PlacementOut(_Given):
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


class Placements(_Given):
    """Every placed picture of a job, page by page."""

    items: list[PlacementOut]
    """The placements."""


class TypeValues(_Taken):
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
    link: Annotated[str, Field(pattern=r"^((https?://|mailto:)[!-~]{1,1900})?$")] = ""
    """Its link in a PDF: a web or mail address."""


class TextIn(_Taken):
    """A text frame to add."""

    model_config = _example(
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


class TextChange(_Taken):
    """A change of a text; what is left out stays."""

    model_config = _example({"text": "Low water at six."})

    version: Number | None = None
    """Make the change only if the text still has this version."""
    frame: FrameValues | None = None
    """The new frame."""
    text: Prose | None = None
    """The new text."""
    type: TypeValues | None = None
    """Its new type style."""


class TextOut(_Given):
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


class Texts(_Given):
    """Every text of a job, page by page."""

    items: list[TextOut]
    """The texts."""


class FindingOut(_Given):
    """A finding of preflight; `accepted_by` and `reason` where someone let it pass."""

    rule: str
    """The id of the rule that found it."""
    severity: str
    """blocking, warning or note."""
    page: int
    """The page's number, from 1."""
    item: int
    """The number of the item it was found on."""
    name: str
    """The name of what it was found on."""
    headline: str
    """The finding in a few words."""
    sentence: str
    """The finding, and what can be done about it."""
    accepted_by: str | None = None
    """Who accepted it."""
    reason: str | None = None
    """Why it was accepted."""


class Findings(_Given):
    """The findings of a job, worst first: open ones, and those that were accepted."""

    gate: Literal["open", "held"]
    """Whether a PDF may be made without a reason."""
    items: list[FindingOut]
    """The open findings."""
    accepted: list[FindingOut]
    """Those that were accepted."""


class CheckOut(_Given):
    """A PDF that is checked: how far that is, and what was found so far."""

    id: int
    """The check's number."""
    file: str
    """The file's name."""
    sha256: str
    """The SHA-256 of its bytes."""
    size_bytes: int
    """Its size."""
    state: WorkState
    """Its state."""
    pages_read: int
    """How many pages have been read."""
    pages: int
    """How many pages it has; 0 until known."""
    failure: str | None
    """Why it could not be read, as a sentence."""
    target: TargetOut
    """What its pictures are checked against."""
    verdicts: dict[str, int]
    """How many images have each verdict so far."""
    requested_at: datetime
    """When it was uploaded."""
    finished_at: datetime | None
    """When it was read."""


class Checks(_Given):
    """A part of the checked PDFs, the latest first."""

    total: int
    """How many there are in total."""
    items: list[CheckOut]
    """The checks of this page of the list."""


class _ReportOut(_Given):
    model_config = ConfigDict(extra="allow")
    format: str
    """What the report is about."""
    version: int
    """The version of its format."""
    findings: list[dict[str, Any]]
    """Every finding."""


class JobReportOut(_ReportOut):
    """A report on a job in its published form, docs/schemas/job-report.schema.json."""

    pictures: list[dict[str, Any]]
    """Every placed picture with its figures."""


class CheckReportOut(_ReportOut):
    """A report on a check in its published form, docs/schemas/pdf-report.schema.json."""

    images: list[dict[str, Any]]
    """Every image with its figures."""


PageChoice = Annotated[str, Field(pattern=r"^(all|[0-9]{1,4}(-[0-9]{1,4})?)$")]
Sha256 = Annotated[str, Field(pattern="^[0-9a-f]{64}$")]


class PdfSettingsIn(_Taken):
    """Settings of a PDF; what is left out is as the job's last PDF had it."""

    model_config = _example({"mode": "trim", "to_ppi": 300, "crop_marks": True})

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


class ImageSettingsIn(_Taken):
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


class OutputIn(_Taken):
    """An output to make: a PDF, page images, or a handoff pack with such a PDF in it."""

    model_config = _example(
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


class PredictionOut(_Given):
    """How large a PDF will be; pictures that wait are not measured yet: ask again for those."""

    size_bytes: int
    """The predicted size of the file, for the pictures measured so far."""
    measured: int
    """How many pictures have been measured."""
    waiting: int
    """How many are still to be measured."""
    unreadable: list[str]
    """Pictures whose files cannot be read, by name."""


class ReceiptOut(_Given):
    """What was promised of an output, and what was read back from it."""

    model_config = ConfigDict(extra="allow")
    is_kept: bool
    """Whether everything promised was found."""


class PackOut(_Given):
    """A handoff pack that is being opened; `job` is what it became."""

    id: int
    """The opening's number."""
    file: str
    """The pack's file name."""
    title: str
    """The title of the job in it."""
    state: WorkState
    """Its state."""
    steps_done: int
    """Steps done so far: one per picture, two per page."""
    steps_total: int
    """Steps in total; 0 until known."""
    failure: str | None
    """Why it could not be opened, as a sentence."""
    job: int | None
    """The number of the job that it became."""
    requested_at: datetime
    """When it was uploaded."""
    finished_at: datetime | None
    """When it finished."""


class SwapIn(_Taken):
    """Another picture for a placement; what is seen stays as well as it can."""

    model_config = _example({"picture": 1})

    picture: Number
    """The picture's number."""
    version: Number | None = None
    """Make the swap only if the placement still has this version."""


class AcceptIn(_Taken):
    """Why a finding may pass, and who says so."""

    model_config = _example({"reason": "The client sent nothing better.", "name": "Ines Marram"})

    reason: Title
    """Why it is accepted."""
    name: Annotated[Title, Field(max_length=120)]
    """Who accepts it."""


class OutputOut(_Given):
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


class Outputs(_Given):
    """The outputs of a job, the latest first."""

    items: list[OutputOut]
    """The outputs."""
