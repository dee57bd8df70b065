"""What is made of a checked PDF, as the API takes and gives it."""

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Field

from harnet.web.api.forms.base import (
    Number,
    RequestBody,
    ResponseForm,
    Sha256,
    WorkState,
    example,
)

SurenessWord = Literal["sure", "perhaps"]
OutcomeWord = Literal["same", "another-tone", "edited", "another"]
VerdictWord = Literal["coarse", "thin", "near", "full", "surplus"]


class PasswordIn(RequestBody):
    """The password of a PDF that needs one; kept with it, so that copies are locked as it is."""

    model_config = example({"password": "low water at six"})

    password: Annotated[str, Field(min_length=1, max_length=200)]
    """The password of its owner or of its readers."""


class PlaceOnPage(RequestBody):
    """An image by where it is painted, as the report of the check lists it."""

    page: Number
    """The page, from 1."""
    place: Number
    """Its place on the page in painting order, from 1."""


class ImagesIn(RequestBody):
    """Which images become files: all of them, or some."""

    model_config = example({"images": [{"page": 1, "place": 1}], "alpha": True})

    images: Annotated[list[PlaceOnPage], Field(min_length=1, max_length=10_000)] | None = None
    """The images; all if left out."""
    alpha: bool = False
    """Whether masks become alpha; such images leave as PNG or TIFF."""


class CopyIn(RequestBody):
    """How an improved copy is to be; by `images`, or all whose originals are that sure."""

    model_config = example({"choose": "sure", "trim": True, "at_target": True})

    choose: SurenessWord | None = None
    """Replace images whose originals are surely the same shot, or also those that may be; the sure
    ones if `images` is left out, too. None that somebody edited."""
    images: Annotated[list[Number], Field(max_length=10_000)] | None = None
    """Or these, by their keys in the plan; edited ones, too."""
    own_tone: bool = False
    """Whether originals keep their own tone, which changes how the pages look."""
    own_tone_images: Annotated[list[Number], Field(max_length=10_000)] = []
    """Images, by their keys, whose originals keep their own tone all the same."""
    trim: bool = False
    """Whether images far above the target are downsampled to it."""
    at_target: bool = False
    """Whether new images have the target's density at most, instead of 1.5 × that."""
    colours: Literal["keep", "target"] = "keep"
    """New images in the colours of the old ones, or in CMYK."""
    profile: Sha256 | None = None
    """The CMYK profile by the SHA-256 of its bytes; the generic one if left out."""
    cut_away: bool = False
    """Whether what is cropped off is cut away for good; in slide decks and texts."""


class PagePixelsOut(ResponseForm):
    """The pixels that a page leaves with as an image."""

    page: int
    """The page, from 1."""
    width_pt: float
    """What leaves of it across, in points."""
    height_pt: float
    """What leaves of it down, in points."""
    density_ppi: float
    """At which density, in pixels per inch."""
    px_w: int
    """Pixels across."""
    px_h: int
    """Pixels down."""


class PagesPixels(ResponseForm):
    """The pixels of each page that is wanted."""

    items: list[PagePixelsOut]
    """The pages in order."""


class PlanImageOut(ResponseForm):
    """An image of the PDF, and what an improved copy does to it."""

    key: int
    """What it is chosen by."""
    page: int | None
    """The page of its largest use; null where it has no number."""
    where: str
    """Where that is, in words; empty in a PDF."""
    place: int
    """Its place on that page, in painting order."""
    uses: int
    """How often it is painted."""
    px_w: int
    """Pixels across."""
    px_h: int
    """Pixels down."""
    ppi: float
    """Its effective density at its largest use."""
    verdict: VerdictWord
    """How that stands to the target."""
    colour: str
    """Its colour model."""
    bits: int
    """Bits per channel."""
    bytes: int
    """As the PDF stores it."""
    fate: Literal["replaced", "trimmed", "left"]
    """What becomes of it."""
    original: str | None
    """The picture that it shows a part of."""
    sureness: SurenessWord | None
    """How sure that is."""
    similarity: float | None
    """Structural similarity with that part."""
    outcome: OutcomeWord | None
    """How it looks beside that part: the same, in another tone, or edited."""
    tone: str | None
    """In words, what was done to its tone; null without another tone."""
    carries_tone: bool
    """Whether the original takes on that tone."""
    difference: float | None
    """The mean CIE76 difference in CIELAB, with the tone carried over."""
    largest_difference: float | None
    """The largest mean difference over a connected place, beyond what resampling explains."""
    places: list[list[float]]
    """The places that differ: left, top, right and bottom as shares of the image."""
    new_px_w: int
    """Pixels across in the copy."""
    new_px_h: int
    """Pixels down in the copy."""
    new_ppi: float
    """Its effective density in the copy."""
    new_verdict: VerdictWord
    """How that stands to the target."""
    reason: str
    """Why it is left; empty if it is not."""


class PlanOut(ResponseForm):
    """What an improved copy would do to each image, by the originals found last."""

    target_ppi: float
    """The density of the target."""
    images: list[PlanImageOut]
    """Every image, as they are painted."""


class WorkOut(ResponseForm):
    """Something that is made of a checked PDF in the background."""

    id: int
    """Its number."""
    check: int
    """The check's number."""
    kind: Literal["images", "page images", "originals", "copy"]
    """What is made: images as files, pages as images, a look for originals, an improved copy."""
    state: WorkState
    """Its state."""
    steps_done: int
    """How many images or pages are done."""
    steps_total: int
    """Of how many; 0 until known."""
    file: str
    """The name of the file that was made; empty if there is none."""
    size_bytes: int | None
    """Its size."""
    failure: str | None
    """Why it could not be made, as a sentence."""
    copy_check: int | None
    """The check of an improved copy."""
    requested_at: datetime
    """When it was asked for."""
    finished_at: datetime | None
    """When it was made."""


class Works(ResponseForm):
    """What was made of a check."""

    items: list[WorkOut]
    """The latest first."""


class CopyReceiptOut(ResponseForm):
    """The receipt of a copy in its published form, docs/schemas/improved-copy.schema.json."""

    version: int = 1
    """The version of its form; 1 told nothing of colour."""
    file: str
    """The PDF that was improved."""
    target_ppi: float
    """The density of the target."""
    is_proven: bool
    """Whether the copy was handed out."""
    faults: list[str]
    """Where the copy was not what was promised."""
    broken: list[str]
    """What the copy breaks: signatures, claims of conformance."""
    images: list[dict[str, Any]]
    """What was done to each image."""
