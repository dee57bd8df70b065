"""A PDF made elsewhere as values: its pages, and every picture that they paint."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from harnet.core.documents.userspace import bleed_between
from harnet.core.ledger.lines import VERDICTS, Line
from harnet.core.ledger.ruler_scale import ruler_step
from harnet.core.measure.density import EffectiveDensity, effective_density, headroom
from harnet.core.measure.geometry import Matrix
from harnet.core.measure.units import Unit
from harnet.core.measure.verdict import verdict_of_judged
from harnet.core.measure.wording import px_text, size_text
from harnet.core.pictures.picture import Colour
from harnet.core.targets.target import Target

Edges = tuple[float, float, float, float]
"""Left, bottom, right, top of a box, in points, y upwards."""
_LEAST_ROOM = -0.9999
"""A picture enlarged so far that its density rounds to nothing still has a place on the ruler."""


@dataclass(frozen=True, slots=True, kw_only=True)
class DocumentPage:
    """A page of a PDF: what is seen of it, the boxes that it states, what was noticed on it.

    `box` is what is seen, before the turn; `is_bare` says that a picture meets the edge where the
    page is cut and nothing lies beyond; `left_out` what of its content was not followed.
    """

    box: Edges
    turn_deg: int
    trim: Edges | None = None
    bleed: Edges | None = None
    is_transparent: bool = False
    is_bare: bool = False
    left_out: str = ""

    @property
    def cut(self) -> Edges:
        """Where the page is cut: its trim, or all that is seen."""
        return self.trim or self.box

    @property
    def bleed_pt(self) -> float:
        """How far the page reaches beyond where it is cut, on its narrowest side."""
        return bleed_between(self.cut, self.bleed or self.box)


def page_from(stored: Mapping[str, Any]) -> DocumentPage:
    """A page from what `page_values` made; what was not asked for then is False or empty."""
    return DocumentPage(
        box=_edges(stored["box"]),
        turn_deg=stored["turn"],
        trim=_edges(stored["trim"]) if stored["trim"] else None,
        bleed=_edges(stored["bleed"]) if stored["bleed"] else None,
        is_transparent=stored["is_transparent"],
        is_bare=stored.get("is_bare", False),
        left_out=stored["left_out"],
    )


def page_values(page: DocumentPage) -> dict[str, Any]:
    """A page as JSON keeps it."""
    return {
        "box": page.box,
        "turn": page.turn_deg,
        "trim": page.trim,
        "bleed": page.bleed,
        "is_transparent": page.is_transparent,
        "is_bare": page.is_bare,
        "left_out": page.left_out,
    }


def _edges(stored: Sequence[float]) -> Edges:
    left, bottom, right, top = stored
    return left, bottom, right, top


@dataclass(frozen=True, slots=True, kw_only=True)
class DocumentFacts:
    """A PDF as it was read: its pages, and what it says of itself.

    `loose_fonts` are the names of fonts that are not embedded. `intent` is the colour model whose
    figures its output intent explains, empty where it has none. `is_damaged` says that it had to be
    mended to be read.
    """

    name: str
    pages: Sequence[DocumentPage]
    version: str = ""
    unembedded_fonts: tuple[str, ...] = ()
    intent: str = ""
    is_damaged: bool = False


def read_from(name: str, stored: Mapping[str, Any], pages: Sequence[DocumentPage]) -> DocumentFacts:
    """A PDF from what is kept of it as a whole; what was not asked for then is empty."""
    return DocumentFacts(
        name=name,
        pages=pages,
        version=stored.get("version", ""),
        unembedded_fonts=tuple(stored.get("unembedded_fonts", ())),
        intent=stored.get("intent", ""),
        is_damaged=stored.get("is_damaged", False),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class ImageOnPage:
    """A picture as one page of a PDF paints it; a cut one is put together again.

    `place` is its place on the page in painting order, from 1; `matrix` maps its unit square to the
    page in points, y upwards; `object_number` is 0 for an inline image and for one that was cut.
    `unseen` says why it not visible, empty where it can; `source` is page, glyph or annotation;
    `pieces` are width and height of each piece in turn, empty for a whole one.
    """

    id: int
    page_number: int
    place: int
    px_w: int
    px_h: int
    colour: str
    bits: int
    matrix: Matrix
    object_number: int
    has_profile: bool
    has_alpha: bool
    filters: str
    unseen: str
    source: str
    pieces: tuple[int, ...]

    @property
    def density(self) -> EffectiveDensity:
        """The effective density, by formula 1."""
        return effective_density(self.px_w, self.px_h, self.matrix)

    @property
    def is_bilevel(self) -> bool:
        """Whether its pixels are ink or paper and nothing between."""
        return self.colour == Colour.BILEVEL.value

    @property
    def name(self) -> str:
        """By what a picture without a file name is spoken of."""
        return f"{px_text(self.px_w, self.px_h)} px"

    def size_in(self, unit: Unit) -> str:
        """Its width and height on the page, as text."""
        digits = 2 if unit is Unit.INCH else 1
        return size_text(self.matrix.u_length, self.matrix.v_length, unit, digits=digits)


def painted_from(number: int, stored: Mapping[str, Any]) -> ImageOnPage:
    """A picture from its fields as JSON and tables keep them, and the number it is known by."""
    matrix, pieces = Matrix(*stored["matrix"]), tuple(stored["pieces"])
    return ImageOnPage(**{**stored, "id": number, "matrix": matrix, "pieces": pieces})


def line_of(picture: ImageOnPage, target: Target) -> Line:
    """A painted picture as the ledger and the ruler take it, judged by a target.

    What not visible is listed, and not judged.
    """
    density = picture.density
    limits = target.for_bits(picture.is_bilevel)
    room = headroom(density.judged, limits.density_ppi)
    is_seen = not picture.unseen
    return Line(
        picture.id,
        picture.page_number,
        picture.name,
        VERDICTS.index(verdict_of_judged(density.judged, limits)),
        density.judged if is_seen else None,
        room if is_seen else None,
        ruler_step(max(room, _LEAST_ROOM)) if is_seen else None,
        density.evenness,
        density.is_uneven,
        picture.is_bilevel,
        False,
        picture.unseen or "seen",
        picture.colour,
        picture.source,
        picture.px_w * picture.px_h,
        picture.matrix.u_length * picture.matrix.v_length,
    )
