"""The job of a handoff pack as open JSON: the form that `job.json` has, also written by hand.

Lengths are points (1/72 inch), the origin is the trim's top left corner, y grows downwards.
"""

from collections import Counter
from dataclasses import asdict
from datetime import datetime
from typing import Annotated, Literal, get_args

from pydantic import BaseModel, ConfigDict, Field, model_validator

from harnet.core.copies.recipe import Recipe
from harnet.core.layout.placing import Content, Fit
from harnet.core.layout.shape import Shape
from harnet.core.output.page_images import ImageSettings
from harnet.core.output.pdf_settings import PdfSettings
from harnet.core.pictures.picture import Colour as Samples
from harnet.core.pictures.picture import Facts, Kind
from harnet.core.pictures.rights import Rights
from harnet.media.pagedrawing.text_lines import FONT_NAMES
from harnet.studio.layout.text_styles import TEXT_STYLES
from harnet.studio.presets.forms import MOST_PRESETS, Preset
from harnet.studio.targets.files import TargetEntry

JOB_FILE, PICTURES_FOLDER = "job.json", "pictures/"
Length = Annotated[float, Field(gt=-1_000_000, lt=1_000_000)]
Extent = Annotated[float, Field(ge=0, le=200_000)]
PageLength = Annotated[float, Field(ge=10, le=14_400)]
Colour = Annotated[str, Field(pattern="^#[0-9a-fA-F]{6}$")]
UnitName = Literal["mm", "cm", "in", "pt", "px"]
Font = Literal["sans-400", "sans-600", "serif-400", "serif-600", "slab-400", "mono-400"]
assert set(get_args(Font)) == set(FONT_NAMES)
TextStyleName = Literal["heading", "body", "caption", "credit"]
assert set(get_args(TextStyleName)) == set(TEXT_STYLES)


class _Entry(BaseModel):
    model_config = ConfigDict(extra="forbid", use_attribute_docstrings=True)


class FileEntry(_Entry):
    """What a picture's file said of itself when it was packed without it.

    By these a picture comes back with its crop, and takes its file again once that is found.
    """

    format: Annotated[str, Field(pattern="^[a-z0-9]{1,12}$")]
    """The file's format, as jpeg, tiff, svg."""
    px_w: Annotated[int, Field(ge=1, le=2_147_483_647)] | None = None
    """Its width in pixels, in display orientation; none for a vector picture."""
    px_h: Annotated[int, Field(ge=1, le=2_147_483_647)] | None = None
    """Its height in pixels, in display orientation; none for a vector picture."""
    width_pt: Annotated[float, Field(gt=0, le=1_000_000)] | None = None
    """A vector picture's own width, in points."""
    height_pt: Annotated[float, Field(gt=0, le=1_000_000)] | None = None
    """A vector picture's own height, in points."""
    density_x: Annotated[float, Field(gt=0, le=1_000_000)] | None = None
    """The density tag across, in pixels per inch."""
    density_y: Annotated[float, Field(gt=0, le=1_000_000)] | None = None
    """The density tag down, in pixels per inch."""
    colour: Samples = Samples.RGB
    """The colour model of its samples."""
    bits: Annotated[int, Field(ge=0, le=64)] = 8
    """Bits a channel; 0 of a vector picture."""
    alpha: bool = False
    """Whether it is transparent in places."""

    @model_validator(mode="after")
    def _has_a_size(self) -> "FileEntry":
        pixels, points = (self.px_w, self.px_h), (self.width_pt, self.height_pt)
        if sorted((pixels.count(None), points.count(None))) != [0, 2]:
            raise ValueError("a picture has either pixels or, as a vector picture, points")
        return self

    @classmethod
    def of(cls, facts: Facts) -> "FileEntry":
        """What the facts of a file say."""
        is_vector = facts.is_vector
        return cls(
            format=facts.format,
            px_w=None if is_vector else facts.px_w,
            px_h=None if is_vector else facts.px_h,
            width_pt=facts.width_pt if is_vector else None,
            height_pt=facts.height_pt if is_vector else None,
            density_x=facts.density_x,
            density_y=facts.density_y,
            colour=facts.colour,
            bits=facts.bits,
            alpha=facts.alpha,
        )

    @property
    def facts(self) -> Facts:
        """The facts of the file as far as they are known."""
        channels = {Samples.GREY: 1, Samples.BILEVEL: 1, Samples.PALETTE: 1, Samples.CMYK: 4}
        return Facts(
            kind=Kind.VECTOR if self.px_w is None else Kind.RASTER,
            format=self.format,
            px_w=self.px_w,
            px_h=self.px_h,
            density_x=self.density_x,
            density_y=self.density_y,
            colour=self.colour,
            bits=self.bits,
            channels=channels.get(self.colour, 3) + self.alpha,
            alpha=self.alpha,
            lossy=self.format == "jpeg",
            icc=None,
            frames=1,
            size_bytes=0,
            width_pt=self.width_pt,
            height_pt=self.height_pt,
        )


class PictureEntry(_Entry):
    """A picture, whether it stands on a page or is the original of a print copy that does."""

    name: Annotated[str, Field(min_length=1, max_length=255)]
    """Its name on the shelf, by which placements refer to it; each is unique."""
    file: Annotated[str, Field(pattern=r"^pictures/[^/\\]{1,255}$")] | None
    """Its file within the pack; null where the file was missing or is not included."""
    sha256: Annotated[str, Field(pattern="^[0-9a-f]{64}$")] | None = None
    """SHA-256 of the file, in hexadecimal; a file that differs is refused."""
    rights: Rights = Rights()
    """Its licence (an SPDX identifier where there is one), its credit line, its origin."""
    without_file: FileEntry | None = None
    """Where there is no file: the facts known about it."""
    copy_of: str | None = None
    """Of a print copy: the name of the picture that it was made from."""
    recipe: Recipe | None = None
    """Of a print copy: the recipe by which it was made. Crops are in pixels of the original."""


class AcceptedEntry(_Entry):
    """A preflight finding that was accepted."""

    rule: Annotated[str, Field(pattern="^[a-z0-9-]{1,40}$")]
    """The rule that found it, by its id."""
    badness: Annotated[float, Field(ge=-1e12, le=1e12, allow_inf_nan=False)]
    """How bad it was then, in the rule's own unit; once worse, the finding reopens."""
    headline: Annotated[str, Field(max_length=1000)]
    """The finding in a few words."""
    reason: Annotated[str, Field(min_length=1, max_length=2000)]
    """Why it is accepted."""
    name: Annotated[str, Field(min_length=1, max_length=120)]
    """Who accepted it."""
    accepted_at: datetime
    """When, in UTC."""


class _Framed(_Entry):
    x_pt: Length
    """The frame's left edge before rotation; points from the trim's left edge."""
    y_pt: Length
    """The frame's top edge before rotation; points from the trim's top edge, downwards."""
    width_pt: Extent
    """The frame's width, in points."""
    height_pt: Extent
    """The frame's height, in points."""
    rotation_deg: Annotated[float, Field(ge=-360, le=360)] = 0.0
    """Its rotation: degrees clockwise, about the frame's centre."""
    accepted: Annotated[list[AcceptedEntry], Field(max_length=100)] = []
    """Accepted findings on it, at most one per rule."""

    @model_validator(mode="after")
    def _accepted_once(self) -> "_Framed":
        rules = Counter(one.rule for one in self.accepted)
        if rules and max(rules.values()) > 1:
            raise ValueError(f"“{rules.most_common(1)[0][0]}” is accepted twice")
        return self


class ContentEntry(_Entry):
    """How a picture lies in its frame, before the frame is turned."""

    scale_x: Annotated[float, Field(gt=0, le=1e6)]
    """Points that a pixel takes across; 72 divided by it is the effective density in ppi. Of a
    vector picture: points that one of its own points takes."""
    scale_y: Annotated[float, Field(gt=0, le=1e6)]
    """Points that a pixel takes down."""
    offset_x: Length = 0.0
    """From the frame's left edge to the picture's, in points; below 0 where it is cropped."""
    offset_y: Length = 0.0
    """From the frame's top edge to the picture's, in points; below 0 where it is cropped."""
    flip_h: bool = False
    """Mirrored, left to right."""
    flip_v: bool = False
    """Mirrored, top to bottom."""

    @classmethod
    def of(cls, content: Content) -> "ContentEntry":
        """An entry of these figures."""
        return cls.model_validate(asdict(content))

    @property
    def content(self) -> Content:
        """The same as the core takes it."""
        return Content(**self.model_dump())


class PlacedEntry(_Framed):
    """A placed picture; `content` says how it lies in its frame, else `fit` lays it in."""

    kind: Literal["picture"]
    """What it is."""
    picture: str
    """The name of an entry of `pictures`."""
    content: ContentEntry | None = None
    """How it lies in its frame; if omitted, `fit` decides."""
    fit: Fit = Fit.COVER
    """In the terms of CSS Images (object-fit): contain, cover, none or fill."""
    shape: Shape = Shape.RECTANGLE
    """The frame's shape."""
    radius_pt: Extent = 0.0
    """The radius of rounded corners, in points."""
    target: TargetEntry | None = None
    """What this placement is checked against, if not the page's or the job's target."""
    column: Annotated[str, Field(max_length=200)] = ""
    """The table column that this frame of a pattern page takes its picture from."""


class FrameEntry(_Framed):
    """An empty frame."""

    kind: Literal["frame"]
    """What it is."""
    shape: Shape = Shape.RECTANGLE
    """The frame's shape."""
    radius_pt: Extent = 0.0
    """The radius of rounded corners, in points."""
    column: Annotated[str, Field(max_length=200)] = ""
    """The table column that this frame of a pattern page takes its picture from."""
    wanted: Annotated[str, Field(max_length=255)] = ""
    """The file name of a picture that belongs here and was not found."""


class TextStyleEntry(_Entry):
    """How texts are set."""

    font: Font = "serif-400"
    """Family and weight."""
    size_pt: Annotated[float, Field(gt=0, le=2000)] = 9.5
    """The size of the type, in points."""
    leading_pt: Annotated[float, Field(gt=0, le=4000)] = 13.0
    """From one line of type to the next, in points."""
    colour: Colour = "#1c2833"
    """The colour of the type."""
    align: Literal["left", "center", "right"] = "left"
    """How lines are aligned in the frame."""
    space_pt: Annotated[float, Field(ge=0, le=1000)] = 0.0
    """The space between two paragraphs besides the leading, in points."""


class TypeEntry(TextStyleEntry):
    """How a text is set."""

    link: Annotated[str, Field(max_length=2000)] = ""
    """Its link in a PDF."""
    named: TextStyleName | Literal[""] = ""
    """The text style of the job that it follows; empty for none."""


class TextEntry(_Framed):
    """A text frame."""

    kind: Literal["text"]
    """What it is."""
    text: Annotated[str, Field(max_length=100_000)]
    """Its text; a line feed ends a paragraph."""
    style: TypeEntry = TypeEntry()
    """Its type style."""


class RectangleEntry(_Framed):
    """A rectangle, filled and stroked or either."""

    kind: Literal["rectangle"]
    """What it is."""
    fill: Colour | None = None
    """The colour inside; none leaves it empty."""
    stroke: Colour | None = None
    """The colour of its edge; none draws no edge."""
    stroke_pt: Annotated[float, Field(ge=0, le=1000)] = 1.0
    """The width of its edge, in points."""


class LineEntry(_Framed):
    """A straight line along the middle of its frame."""

    kind: Literal["line"]
    """What it is."""
    stroke: Colour = "#1c2833"
    """Its colour."""
    stroke_pt: Annotated[float, Field(ge=0, le=1000)] = 1.0
    """Its width, in points."""


ItemEntry = Annotated[
    PlacedEntry | FrameEntry | TextEntry | RectangleEntry | LineEntry,
    Field(discriminator="kind"),
]


class GuidesEntry(_Entry):
    """The guides of a page: lines on the screen that snap and are never printed."""

    x: Annotated[list[Length], Field(max_length=200)] = []
    """Upright guides: points from the trim's left edge."""
    y: Annotated[list[Length], Field(max_length=200)] = []
    """Level guides: points from the trim's top edge, downwards."""


class GridEntry(_Entry):
    """The columns and the grid inside the margins of every page; on the screen alone."""

    columns: Annotated[int, Field(ge=0, le=24)] = 0
    """How many columns stand inside the margins; 0 for none."""
    gutter_pt: Annotated[float, Field(ge=0, le=1000)] = 0.0
    """The space between two columns, in points."""
    step_pt: Annotated[float, Field(ge=0, le=1000)] = 0.0
    """The distance of the grid's lines, in points; 0 for no grid."""


class PageEntry(_Entry):
    """A page."""

    width_pt: PageLength | None = None
    """The trim's width in points; the job's where it is left out."""
    height_pt: PageLength | None = None
    """The trim's height in points; the job's where it is left out."""
    target: TargetEntry | None = None
    """What its pictures are checked against, if not the job's target."""
    guides: GuidesEntry = GuidesEntry()
    """Its guides."""
    items: Annotated[list[ItemEntry], Field(max_length=20_000)] = []
    """The items on it, from back to front."""


class OutputEntry(_Entry):
    """The job's default output settings."""

    pdf: PdfSettings | None = None
    """Of PDFs."""
    images: ImageSettings | None = None
    """Of page images."""
    presets: Annotated[list[Preset], Field(max_length=MOST_PRESETS)] = []
    """The presets of the studio that hold just these settings."""


class JobFile(_Entry):
    """A job: its pages, from the first to the last, and the pictures on them.

    Lengths are points (1/72 inch) from the trim's top left corner, y grows downwards; angles are
    degrees clockwise; densities are pixels per inch; times are UTC.
    """

    model_config = ConfigDict(extra="forbid", title="Harnet job", use_attribute_docstrings=True)

    format: Literal["harnet job"]
    """What this file is."""
    version: Literal[1]
    """The version of this format; older versions are still read."""
    title: Annotated[str, Field(min_length=1, max_length=200)]
    """The job's name."""
    width_pt: PageLength
    """The trim's width in points, of pages that say none."""
    height_pt: PageLength
    """The trim's height in points, of pages that say none."""
    bleed_pt: Annotated[float, Field(ge=0, le=142)] = 0.0
    """The bleed around the trim, in points."""
    margin_pt: Annotated[float, Field(ge=0, le=7200)] = 0.0
    """The margin inside the trim, in points; it is drawn on the screen and nowhere else."""
    unit: UnitName = "mm"
    """The unit that the job is measured in on the screen."""
    px_per_inch: Annotated[float, Field(ge=1, le=2400)] | None = None
    """Where `unit` is px: how many pixels make an inch."""
    is_facing: bool = False
    """Whether it has facing pages, the first alone on the right."""
    target: TargetEntry | None = None
    """What its pictures are checked against; coated press, 300 ppi, if omitted."""
    text_styles: dict[TextStyleName, TextStyleEntry] = {}
    """Its text styles, those that differ from the usual ones."""
    grid: GridEntry = GridEntry()
    """Its columns and its grid."""
    edited_at: datetime | None = None
    """When it was last changed, in UTC."""
    outputs: OutputEntry = OutputEntry()
    """Its output settings."""
    pictures: Annotated[list[PictureEntry], Field(max_length=20_000)] = []
    """Every picture that its pages place, and the originals of its print copies."""
    pages: Annotated[list[PageEntry], Field(min_length=1, max_length=2000)]
    """Its pages, from the first to the last."""

    @model_validator(mode="after")
    def _names_agree(self) -> "JobFile":
        names = [picture.name for picture in self.pictures]
        known = set(names)
        if len(known) != len(names):
            twice = next(name for name, count in Counter(names).items() if count > 1)
            raise ValueError(f"two pictures are called “{twice}”")
        for picture in self.pictures:
            if picture.copy_of is not None and picture.copy_of not in known:
                raise ValueError(
                    f"“{picture.name}” is a copy of “{picture.copy_of}”, which is not among the"
                    " pictures"
                )
        for number, page in enumerate(self.pages, 1):
            for item in page.items:
                if isinstance(item, PlacedEntry) and item.picture not in known:
                    raise ValueError(
                        f"page {number} places “{item.picture}”, which is not among the pictures"
                    )
        return self

    @property
    def placed_names(self) -> set[str]:
        """The names of the pictures that stand on a page."""
        items = (item for page in self.pages for item in page.items)
        return {item.picture for item in items if isinstance(item, PlacedEntry)}
