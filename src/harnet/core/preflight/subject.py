"""What the rules look at: placed pictures, text frames and empty frames, with their page."""

from dataclasses import dataclass, field
from enum import Enum

from harnet.core.documents.document import Leftover, Repeated, SavingSettings
from harnet.core.documents.shrinking import Shrunk
from harnet.core.layout.figures import Figures
from harnet.core.layout.page_edges import Side
from harnet.core.layout.placing import Placement
from harnet.core.measure.geometry import Box
from harnet.core.measure.units import Unit
from harnet.core.pictures.detail import Detail
from harnet.core.pictures.picture import Facts
from harnet.core.pictures.rights import Rights
from harnet.core.targets.target import Target


class FileState(Enum):
    """How the file of a placed picture stands."""

    IN_PLACE = "in place"
    CHANGED = "changed"
    """Its bytes are no longer those that were placed."""
    MISSING = "missing"
    """No longer on its shelf."""
    CARRIED = "carried"
    """Its bytes are kept with the job."""
    LOOSE = "loose"
    """Pasted: its bytes are kept with the job, and nobody knows the file they came from."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Around:
    """The page that a subject is on, lengths in points, and what lies over the subject.

    `spine` is the edge at which the page meets its neighbour; it needs no bleed.
    """

    page_w_pt: float
    page_h_pt: float
    bleed_pt: float = 0.0
    spine: Side | None = None
    beside: Box | None = None
    """The page beside in the spread, as this page sees it, where the subject reaches onto it."""
    across_pt: float = 0.0
    """How far the subject reaches over the fold."""
    hidden_by: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Checked:
    """One placed picture as the rules see it."""

    item_id: int
    page_number: int
    name: str
    placement: Placement
    figures: Figures
    file_state: FileState
    unit: Unit
    facts: Facts
    around: Around
    target: Target
    rights: Rights = field(default_factory=Rights)
    looks_drawn: bool = False
    """A raster picture that is nearly all black and white, like a drawing."""
    detail: Detail | None = None
    noun: str = "picture"
    """What findings call it: a picture that Harnet knows, or an image in a document."""


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckedImage(Checked):
    """One image of a document made elsewhere as the rules see it.

    `cropped_share` is how much of it is cut off and still in the file, `cropped_bytes` about how
    many bytes that takes.
    """

    cropped_share: float = 0.0
    cropped_bytes: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckedText:
    """One text frame as the rules see it."""

    item_id: int
    page_number: int
    name: str
    frame: Box
    lines: int
    lines_lost: int
    unit: Unit
    around: Around
    target: Target
    font: str = ""
    missing_glyphs: tuple[str, ...] = ()
    """The characters that the font cannot print."""
    other_font: str = ""
    """A font that has them all, empty where none has."""


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckedFrame:
    """One frame without a picture as the rules see it."""

    item_id: int
    page_number: int
    name: str
    frame: Box
    unit: Unit
    around: Around
    target: Target
    needed_px: tuple[int, int]
    asked_for: str = ""
    """The picture that a row or a pack wanted here and that was not found."""


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckedDocument:
    """A document made elsewhere, as a whole; page numbers from 1.

    `pages_without_bleed` have pictures at their edge and nothing beyond it; `left_out` are pages
    with what of them was not followed; `is_damaged` says that it had to be mended to be read. The
    rest is of other documents than PDFs: `part` is what its pages are called, `left_out_of` what
    was not followed in parts without a number, `shrunk` how many of its pictures stand at which
    density.
    """

    name: str
    target: Target
    pages: int
    unembedded_fonts: tuple[str, ...] = ()
    pages_without_trim: tuple[int, ...] = ()
    pages_without_bleed: tuple[int, ...] = ()
    transparent_pages: tuple[int, ...] = ()
    left_out: tuple[tuple[int, str], ...] = ()
    is_damaged: bool = False
    noun: str = "PDF"
    part: str = "page"
    left_out_of: tuple[tuple[str, str], ...] = ()
    shrunk: Shrunk | None = None
    denser: tuple[str, ...] = ()
    """Where pictures stand that have more than what the others were shrunk to."""
    saving: SavingSettings = field(default_factory=SavingSettings)
    links: tuple[str, ...] = ()
    """The addresses of pictures that it names and does not hold."""
    leftovers: tuple[Leftover, ...] = ()
    repeated: tuple[Repeated, ...] = ()
    item_id: int = 0
    page_number: int = 0
    """0: the whole."""


Subject = Checked | CheckedText | CheckedFrame | CheckedDocument
