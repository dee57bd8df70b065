"""What the API takes and gives, as pydantic models; lengths in points, densities in ppi."""

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from harnet.core.measure.geometry import Box
from harnet.studio.handoff.jobfile import Font

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


class _Taken(BaseModel):
    """A body: nothing unknown in it, nothing of another kind."""

    model_config = ConfigDict(
        extra="forbid", strict=True, allow_inf_nan=False, use_attribute_docstrings=True
    )


class _Given(BaseModel):
    """An answer: what its fields mean stands beside them."""

    model_config = ConfigDict(from_attributes=True, use_attribute_docstrings=True)


class Asked(BaseModel):
    """What stands behind the question mark of an address, or in the parts of a form."""

    model_config = ConfigDict(extra="forbid", use_attribute_docstrings=True)


def _example(values: dict[str, Any]) -> ConfigDict:
    """A body that can be sent as it stands; a test does."""
    return ConfigDict(json_schema_extra={"examples": [values]})


class Stretch(Asked):
    """Which part of a list is wanted."""

    limit: Annotated[int, Field(ge=1, le=500)] = 100
    """How many entries at most."""
    offset: Annotated[int, Field(ge=0, le=1_000_000_000)] = 0
    """How many entries to leave out first."""


class PicturesWanted(Stretch):
    """Which pictures are wanted: those whose name holds `find`."""

    find: Word = ""
    """A part of the file name, in upper or lower case."""


class DensityWanted(Asked):
    """A density."""

    ppi: Ppi
    """Pixels per inch."""


class FactsOut(_Given):
    """What a picture file says of itself; pixels are None for vector pictures."""

    kind: Literal["raster", "vector"]
    """Whether it is made of pixels or drawn."""
    format: str
    """The file format, in lower case, by its content."""
    px_w: int | None
    """Pixels across, upright."""
    px_h: int | None
    """Pixels down, upright."""
    density_x: float | None
    """The density that the file states across, in pixels per inch."""
    density_y: float | None
    """The density that the file states down, in pixels per inch."""
    colour: str
    """The colour model: rgb, grey, bilevel, cmyk, palette, lab, vector."""
    bits: int
    """Bits per channel."""
    channels: int
    """Channels, alpha included."""
    alpha: bool
    """Whether it has transparency."""
    lossy: bool
    """Whether it was compressed with loss."""
    icc: str | None
    """The name of its ICC profile."""
    frames: int
    """Pictures in the file; the first one counts."""
    jpeg_quality: int | None = None
    """The quality that a JPEG was written with, by its tables."""


class PictureOut(_Given):
    """A picture on a shelf."""

    id: int
    """The picture's number."""
    name: str
    """Its file name."""
    shelf: str | None
    """The shelf it is on; null where it is kept in a job alone."""
    sha256: str
    """The SHA-256 of its bytes."""
    size_bytes: int
    """The size of its file."""
    file_state: str
    """How its file stands: in place, changed, missing, loose."""
    facts: FactsOut
    """What its file says."""
    licence: str
    """Its licence, an SPDX identifier where it has one."""
    credit: str
    """Whom to credit."""
    added_at: datetime
    """When it came onto its shelf."""


class Pictures(_Given):
    """A part of the pictures, the latest first."""

    total: int
    """How many there are in all."""
    items: list[PictureOut]
    """The pictures of this part."""


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
    """The density that pictures should have."""
    bilevel_ppi: Ppi
    """The density that 1-bit pictures should have."""
    floor_ppi: Ppi
    """Below this a picture is coarse."""
    ceiling_ppi: Ppi
    """Above this a picture is surplus."""
    tolerance: Annotated[float, Field(ge=0, lt=1)] = 0.1
    """How far below the density is close enough, as a share of it."""
    reason: Annotated[str, Field(pattern=r"^[^\x00-\x1f]*$", max_length=1000)] = ""
    """Why just these figures."""
    colours: list[ColourWord] = []
    """The colour models that are expected; none expects any."""
    formats: list[Annotated[str, Field(pattern=r"^[a-z0-9]{1,12}$")]] = []
    """The file formats that are expected; none expects any."""
    profiled: list[ColourWord] = []
    """The colour models that must carry a profile."""
    allows_transparency: bool = True
    """Whether transparency may be there."""
    least_jpeg_quality: Annotated[int, Field(ge=0, le=100)] = 0
    """The lowest quality of JPEG that passes; 0 takes any."""
    severities: dict[str, Literal["blocking", "warning", "note", "off"]] = {}
    """How bad findings are by the ids of their rules, where that differs."""


class TargetOut(_Given):
    """A target."""

    key: str
    """What the target is called in commands and addresses."""
    name: str
    """Its name."""
    density_ppi: float
    """The density that pictures should have."""
    bilevel_ppi: float
    """The density that 1-bit pictures should have."""
    floor_ppi: float
    """Below this a picture is coarse."""
    ceiling_ppi: float
    """Above this a picture is surplus."""
    tolerance: float
    """How far below the density is close enough, as a share of it."""
    reason: str
    """Why just these figures."""


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
    """A density of one's own, in pixels per inch."""


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
    """For pages in pixels: the density at which these stand; 96 where it is left out."""
    bleed_mm: Annotated[float, Field(ge=0, le=50)] = 0
    """The bleed around each page, in millimetres."""
    pages: Annotated[int, Field(ge=1, le=2000)] = 1
    """How many pages it begins with."""
    is_facing: bool = False
    """Whether pages lie side by side, as in a book."""
    target: TargetIn = TargetIn()
    """What its pictures are judged by; coated press where it is left out."""


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
    """Whether pages lie side by side, as in a book."""
    target: TargetOut
    """What its pictures are judged by."""
    verdicts: dict[str, int]
    """How many placements have each verdict."""
    findings: int
    """How many findings are open."""
    blocking: int
    """How many of these hold the gate."""
    gate: Literal["open", "held"]
    """Whether a PDF may be made without a reason."""
    created_at: datetime
    """When it was made."""
    edited_at: datetime
    """When it was edited last."""


class Jobs(_Given):
    """A part of the open jobs, the one edited last first."""

    total: int
    """How many open jobs there are in all."""
    items: list[JobOut]
    """The jobs of this part."""


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
    """Where it goes; at native size in the page's middle where it is left out."""
    fit: FitWord = "cover"
    """How it lies in its frame, in the words of CSS Images."""


class PlacementChange(_Taken):
    """A change: of the frame, of the scale, or both, in that order; one edit each.

    With `version`, only if nobody changed it since.
    """

    model_config = _example({"scale_to": "reach", "gives_way": "crop"})

    version: Number | None = None
    """Only if the placement still has this version."""
    frame: FrameValues | None = None
    """The new frame."""
    scale_to: Literal["native", "reach", "even"] | None = None
    """Scale to native size, to its reach, or to one density for both axes."""
    scale_to_ppi: Ppi | None = None
    """Scale to this density, in pixels per inch."""
    gives_way: Literal["frame", "crop"] = "frame"
    """What follows when it is scaled: the frame, or what the frame shows of it."""


class PlacementOut(_Given):
    """A placed picture with its figures; densities are None for vector pictures."""

    id: int
    """The placement's number."""
    version: int
    """Goes up with every change."""
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
    """The density that is judged: the lower one."""
    target_ppi: float
    """The density it should have."""
    verdict: str
    """coarse, thin, near, full or surplus."""
    headroom: float | None
    """How far above the target it is, as a share; below it a negative one."""
    evenness: float
    """The higher density over the lower one; 1 is even."""
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
    """Where lines stand in the frame's width."""
    link: Annotated[str, Field(pattern=r"^((https?://|mailto:)[!-~]{1,1900})?$")] = ""
    """Where the frame leads when it is pressed in a PDF: a web or a mail address."""


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
    """Where it stands."""
    text: Prose
    """Its words; a line feed ends a paragraph."""
    type: TypeValues = TypeValues()
    """How it is set."""


class TextChange(_Taken):
    """A change of a text; what is left out stays."""

    model_config = _example({"text": "Low water at six."})

    version: Number | None = None
    """Only if the text still has this version."""
    frame: FrameValues | None = None
    """The new frame."""
    text: Prose | None = None
    """The new words."""
    type: TypeValues | None = None
    """How it is set from now on."""


class TextOut(_Given):
    """A text of a job, with what its frame cannot show."""

    id: int
    """The text's number."""
    version: int
    """Goes up with every change."""
    page: int
    """The page's number, from 1."""
    text: str
    """Its words."""
    frame: FrameValues
    """Its frame on the page."""
    type: TypeValues
    """How it is set."""
    lines: int
    """How many lines its words take."""
    lines_lost: int
    """How many of them do not fit the frame."""
    missing_glyphs: list[str]
    """The letters that its font does not have."""


class Texts(_Given):
    """Every text of a job, page by page."""

    items: list[TextOut]
    """The texts."""


class FindingOut(_Given):
    """A finding of preflight; `accepted_by` and `reason` where somebody let it pass."""

    rule: str
    """The id of the rule that found it."""
    severity: str
    """blocking, warning or note."""
    page: int
    """The page's number, from 1."""
    item: int
    """The number of what it was found on."""
    name: str
    """What it was found on, by name."""
    headline: str
    """What was found, in few words."""
    sentence: str
    """What was found, and what can be done."""
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
    state: Literal["waiting", "working", "done", "failed"]
    """How far it is."""
    pages_read: int
    """How many pages are read."""
    pages: int
    """How many pages it has; 0 until that is known."""
    trouble: str | None
    """Why it could not be read, as a sentence."""
    target: TargetOut
    """What its pictures are judged by."""
    verdicts: dict[str, int]
    """How many images have each verdict so far."""
    asked_at: datetime
    """When it was handed in."""
    finished_at: datetime | None
    """When it was read."""


class Checks(_Given):
    """A part of the checked PDFs, the latest first."""

    total: int
    """How many there are in all."""
    items: list[CheckOut]
    """The checks of this part."""


class ReportOut(_Given):
    """A report in its published form, docs/schemas/."""

    model_config = ConfigDict(extra="allow")
    format: str
    """What the report is of."""
    version: int
    """The version of its form."""
    findings: list[dict[str, Any]]
    """Everything that was found."""
    pictures: list[dict[str, Any]]
    """Every picture with its figures."""


PageChoice = Annotated[str, Field(pattern=r"^(all|[0-9]{1,4}(-[0-9]{1,4})?)$")]
Sha256 = Annotated[str, Field(pattern="^[0-9a-f]{64}$")]


class PdfSettingsIn(_Taken):
    """Settings of a PDF; what is left out is as the job's last PDF had it."""

    model_config = _example({"mode": "trim", "to_ppi": 300, "crop_marks": True})

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
    """Asked for where findings hold the gate; kept with the output."""
    name: Word = ""
    """Whose reason it is."""

    @model_validator(mode="after")
    def _fits(self) -> "OutputIn":
        other = "pdf" if self.kind == "page image" else "images"
        if getattr(self, other) is not None:
            raise ValueError(f"{other} says nothing about an output of kind {self.kind}")
        return self


class PredictionOut(_Given):
    """How large a PDF will be; pictures that wait are not weighed yet: ask again for those."""

    size_bytes: int
    """The bytes of the whole file, of what is weighed."""
    weighed: int
    """How many pictures were weighed."""
    waiting: int
    """How many were not yet."""
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
    state: Literal["waiting", "working", "done", "failed", "cancelled"]
    """How far it is."""
    done_steps: int
    """Steps done so far: a picture is one, a page two."""
    all_steps: int
    """Steps in all; 0 until that is known."""
    trouble: str | None
    """Why it could not be opened, as a sentence."""
    job: int | None
    """The number of the job that it became."""
    asked_at: datetime
    """When it was handed in."""
    finished_at: datetime | None
    """When it ended."""


class SwapIn(_Taken):
    """Another picture for a placement; what is seen stays as well as it can."""

    model_config = _example({"picture": 1})

    picture: Number
    """The picture's number."""
    version: Number | None = None
    """Only if nobody changed the placement since it had this version."""


class AcceptIn(_Taken):
    """Why a finding may pass, and who says so."""

    model_config = _example({"reason": "The client sent nothing better.", "name": "Ines Marram"})

    reason: Title
    """Why it may pass."""
    name: Annotated[Title, Field(max_length=120)]
    """Who lets it pass."""


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
    done_steps: int
    """Pages done so far."""
    all_steps: int
    """Pages in all; 0 until that is known."""
    size_bytes: int | None
    """The size of the finished file."""
    trouble: str | None
    """Why it could not be made, as a sentence."""
    is_as_promised: bool | None
    """Whether everything promised was found when it was read back."""
    asked_at: datetime
    """When it was asked for."""
    finished_at: datetime | None
    """When it ended."""


class Outputs(_Given):
    """The outputs of a job, the latest first."""

    items: list[OutputOut]
    """The outputs."""
