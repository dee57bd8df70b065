"""The pictures in a document made elsewhere, each as it is painted."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum
from typing import Any

from harnet.core.ledger.lines import VERDICTS, Line
from harnet.core.ledger.ruler_scale import ruler_step
from harnet.core.measure.density import (
    EffectiveDensity,
    effective_density,
    headroom,
    is_uneven,
)
from harnet.core.measure.geometry import Matrix
from harnet.core.measure.units import Unit
from harnet.core.measure.verdict import Verdict, verdict_of_judged
from harnet.core.measure.wording import px_text, size_text
from harnet.core.pictures.picture import Colour
from harnet.core.targets.target import Target

LEAST_ROOM = -0.9999
"""A picture enlarged so far that its density rounds to nothing still has a place on the ruler."""
Crop = tuple[float, float, float, float]
"""Shares of a picture that are cut off: left, top, right, bottom."""
_NO_CROP: Crop = (0.0, 0.0, 0.0, 0.0)


class ImageKind(Enum):
    """What is painted."""

    RASTER = "raster"
    VECTOR = "vector"
    LINKED = "linked"
    """A picture that the document names and does not hold; it is never fetched."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ImageOnPage:
    """A picture as one page of a document paints it; a cut one is put together again.

    `place` is its place on the page in painting order, from 1; `matrix` maps the unit square of the
    whole picture, cropped parts included, to the page in points, y upwards; `object_number` is 0
    for an inline image and for one that was cut. `unseen` says why it is not visible, empty where
    it is; `source` is where it stands: page, glyph or annotation in a PDF, and in others slide,
    header, table cell and so on. `pieces` are width and height of each piece in turn, empty for a
    whole one.

    Of documents other than PDFs: `crop` is what is cut off, `part` the file inside, `placed_ppi`
    the densities it was placed with before something scaled it later, None where it is as it was.
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
    kind: ImageKind = ImageKind.RASTER
    crop: Crop = _NO_CROP
    part: str = ""
    size_bytes: int = 0
    shape_name: str = ""
    heading: str = ""
    effects: tuple[str, ...] = ()
    link: str = ""
    placed_ppi: tuple[float, float] | None = None
    quality: int | None = None
    is_assumed: bool = False
    """Whether its size is not stated and was assumed."""

    @property
    def density(self) -> EffectiveDensity:
        """The effective density, by formula 1."""
        return effective_density(self.px_w, self.px_h, self.matrix)

    @property
    def is_bilevel(self) -> bool:
        """Whether its pixels are ink or paper and nothing between."""
        return self.colour == Colour.BILEVEL.value

    @property
    def is_judged(self) -> bool:
        """Whether it is made of pixels, and some of them are seen."""
        return self.kind is ImageKind.RASTER and not self.unseen

    @property
    def name(self) -> str:
        """By what a picture without a file name is spoken of."""
        if self.shape_name:
            return self.shape_name
        if self.kind is not ImageKind.RASTER:
            return f"{self.filters or 'vector'} picture" if not self.link else self.link
        return f"{px_text(self.px_w, self.px_h)} px"

    @property
    def shown(self) -> tuple[float, float]:
        """The shares of its width and of its height that are seen."""
        left, top, right, bottom = self.crop
        return max(0.0, 1 - left - right), max(0.0, 1 - top - bottom)

    @property
    def visible_share(self) -> float:
        """The share of its pixels that is seen, 0 to 1."""
        across, down = self.shown
        return across * down

    @property
    def shown_matrix(self) -> Matrix:
        """The map from the unit square to where what is seen of it lies, y upwards."""
        if self.crop == _NO_CROP:
            return self.matrix
        left, _, _, bottom = self.crop
        across, down = self.shown
        return Matrix(across, 0, 0, down, left, bottom).then(self.matrix)

    def size_in(self, unit: Unit) -> str:
        """Width and height of what is seen of it on the page, as text."""
        digits = 2 if unit is Unit.INCH else 1
        shown = self.shown_matrix
        return size_text(shown.u_length, shown.v_length, unit, digits=digits)


_ABOUT = ("part", "size_bytes", "shape_name", "heading", "link", "quality", "is_assumed")


def about_values(picture: ImageOnPage) -> dict[str, Any]:
    """What other documents than PDFs say of a picture, as JSON keeps it; the usual is left out."""
    usual = _USUAL
    values = {key: getattr(picture, key) for key in _ABOUT}
    values = {key: one for key, one in values.items() if one != getattr(usual, key)}
    if picture.kind is not ImageKind.RASTER:
        values["kind"] = picture.kind.value
    if picture.crop != _NO_CROP:
        values["crop"] = list(picture.crop)
    if picture.effects:
        values["effects"] = list(picture.effects)
    if picture.placed_ppi is not None:
        values["placed_ppi"] = list(picture.placed_ppi)
    return values


_USUAL = ImageOnPage(
    id=0,
    page_number=0,
    place=0,
    px_w=0,
    px_h=0,
    colour="",
    bits=0,
    matrix=Matrix(),
    object_number=0,
    has_profile=False,
    has_alpha=False,
    filters="",
    unseen="",
    source="",
    pieces=(),
)


def painted_from(number: int, stored: Mapping[str, Any]) -> ImageOnPage:
    """A picture from its fields as JSON and tables keep them, and the number it is known by."""
    values = {**stored}
    about = dict(values.pop("about", None) or {})
    if "kind" in about:
        about["kind"] = ImageKind(about["kind"])
    for key in ("crop", "effects", "placed_ppi"):
        if key in about:
            about[key] = tuple(about[key])
    matrix, pieces = Matrix(*stored["matrix"]), tuple(stored["pieces"])
    return ImageOnPage(**{**values, **about, "id": number, "matrix": matrix, "pieces": pieces})


def row_of(picture: ImageOnPage) -> dict[str, Any]:
    """A picture as JSON and tables keep it; what `painted_from` takes."""
    return {
        "page_number": picture.page_number,
        "place": picture.place,
        "px_w": picture.px_w,
        "px_h": picture.px_h,
        "colour": picture.colour,
        "bits": picture.bits,
        "matrix": list(picture.matrix.as_tuple()),
        "object_number": picture.object_number,
        "has_profile": picture.has_profile,
        "has_alpha": picture.has_alpha,
        "filters": picture.filters,
        "unseen": picture.unseen,
        "source": picture.source,
        "pieces": list(picture.pieces),
        "about": about_values(picture),
    }


def kept_for_lines(picture: ImageOnPage) -> dict[str, Any]:
    """What a table keeps of a picture beside its fields, so that any target can judge it there.

    `density_ppi` is rounded to be judged, and None for what has no pixels; `area_pt` is in square
    points.
    """
    shown = picture.shown_matrix
    density = picture.density if picture.kind is ImageKind.RASTER else None
    return {
        "name": picture.name,
        "density_ppi": density.judged if density is not None else None,
        "evenness": density.evenness if density is not None else 0.0,
        "area_pt": shown.u_length * shown.v_length,
    }


def line_of(picture: ImageOnPage, target: Target) -> Line:
    """A painted picture as the ledger and the ruler take it, judged by a target.

    What is not visible is listed, and not judged; so are vector pictures and links.
    """
    limits = target.for_bits(picture.is_bilevel)
    kept = kept_for_lines(picture)
    ppi = kept["density_ppi"]
    room = headroom(ppi, limits.density_ppi) if picture.is_judged else None
    verdict = Verdict.FULL if ppi is None else verdict_of_judged(ppi, limits)
    return Line(
        picture.id,
        picture.page_number,
        kept["name"],
        VERDICTS.index(verdict),
        ppi if picture.is_judged else None,
        room,
        ruler_step(max(room, LEAST_ROOM)) if room is not None else None,
        kept["evenness"],
        is_uneven(kept["evenness"]),
        picture.is_bilevel,
        False,
        picture.unseen or "seen",
        picture.colour,
        picture.source,
        picture.px_w * picture.px_h,
        kept["area_pt"],
    )
