"""What an improved copy of a PDF does to each image: its original, its pixels, or why not."""

import math
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from enum import Enum
from typing import Any

from harnet.core.documents.comparison import Comparison, Outcome
from harnet.core.documents.same_shot import Registration, Sureness
from harnet.core.measure.geometry import Matrix
from harnet.core.measure.rounding import half_up
from harnet.core.measure.units import POINTS_PER_INCH
from harnet.core.targets.target import Target

MOST_TIMES, AT_TARGET = 1.5, 1.0
"""The density of a new image, at most so many times the target's; and on wish."""
_HAIR = 1e-6
_WORTH_IT = 1.02
"""What a new image must have more of, per edge, to be worth replacing the old one."""


class CopyColours(Enum):
    """The colour space of new images."""

    KEEP = "keep"
    """That of the image they replace."""
    TARGET = "target"
    """CMYK by the profile chosen, where the original is in colour."""


class Fate(Enum):
    """What becomes of an image."""

    REPLACED = "replaced"
    TRIMMED = "trimmed"
    LEFT = "left"


@dataclass(frozen=True, slots=True, kw_only=True)
class ImproveSettings:
    """How a copy is improved.

    `most_times` bounds the density of new images, as a multiple of the target's. `chooses` is how
    sure an original must be to be used. `threshold` is the multiple of the target above which
    images are trimmed, None to trim none; `quality` that of JPEG. `cuts` has cropped-off parts that
    nobody sees cut away for good.
    """

    target: Target
    most_times: float = MOST_TIMES
    colours: CopyColours = CopyColours.KEEP
    chooses: Sureness = Sureness.SURE
    threshold: float | None = None
    quality: int = 92
    cuts: bool = False
    accepts_edited: bool = False
    """Whether originals of images that somebody edited are used, which undoes the edit."""
    carries_tone: bool = True
    """Whether an original takes on the tone of the image; if not, its own tone is seen."""
    keeps_own_tone: frozenset[int] = frozenset()
    """Images, by their keys, whose originals keep their own tone all the same."""


@dataclass(frozen=True, slots=True)
class Use:
    """One time that an image is painted: the page, its place there, and where."""

    page_number: int
    place: int
    matrix: Matrix


@dataclass(frozen=True, slots=True, kw_only=True)
class DocumentImageObject:
    """An image as the PDF holds it, with every use of it.

    `key` tells it from the others; `quality` is that of its JPEG, None for others. Of documents
    other than PDFs: `part` is the file inside, `number` the page of its largest use as readers know
    it, `where` that place in words, `crop` what is cut off of it everywhere alike.
    """

    key: int
    px_w: int
    px_h: int
    colour: str
    bits: int
    size_bytes: int
    uses: Sequence[Use]
    is_bilevel: bool = False
    is_seen: bool = True
    quality: int | None = None
    part: str = ""
    number: int | None = None
    where: str = ""
    crop: tuple[float, float, float, float] | None = None

    @property
    def page(self) -> int | None:
        """The page of its largest use as readers know it; None where it has no number."""
        return self.number if self.part else self.largest.page_number

    @property
    def largest(self) -> Use:
        """The use that shows it largest, which decides about its pixels."""
        return max(self.uses, key=lambda use: use.matrix.u_length * use.matrix.v_length)

    def ppi_with(self, px_w: int, px_h: int) -> float:
        """The lower of its two densities at its largest use, with so many pixels."""
        matrix = self.largest.matrix
        across = px_w * POINTS_PER_INCH / matrix.u_length
        return min(across, px_h * POINTS_PER_INCH / matrix.v_length)

    @property
    def ppi(self) -> float:
        """The density at its largest use."""
        return self.ppi_with(self.px_w, self.px_h)


def image_as_values(image: DocumentImageObject) -> dict[str, Any]:
    """An image as JSON keeps it."""
    values = asdict(image)
    values["uses"] = [
        [use.page_number, use.place, list(use.matrix.as_tuple())] for use in image.uses
    ]
    return values


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """An original that an image may be part of: its file, how sure that is, where, how it looks."""

    path: str
    name: str
    sureness: Sureness
    registration: Registration
    comparison: Comparison

    @property
    def outcome(self) -> Outcome:
        """How the image looks beside it."""
        return self.comparison.outcome


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedImage:
    """What is to become of an image: its pixels afterwards, its original, or why it is left."""

    image: DocumentImageObject
    fate: Fate
    px_w: int
    px_h: int
    candidate: Candidate | None = None
    reason: str = ""
    is_cut: bool = False
    """Whether its cropped-off parts are cut away."""
    carries_tone: bool = False
    """Whether its original takes on its tone."""

    @property
    def looks_as_before(self) -> bool:
        """Whether the page is to look as before, only sharper; not so what was chosen knowingly."""
        if self.fate is not Fate.REPLACED or self.candidate is None:
            return True
        outcome = self.candidate.outcome
        return outcome is Outcome.SAME or (outcome is Outcome.ANOTHER_TONE and self.carries_tone)

    @property
    def ppi(self) -> float:
        """The density afterwards, at the largest use."""
        return self.image.ppi_with(self.px_w, self.px_h)

    @property
    def about_bytes(self) -> int:
        """Its bytes afterwards, if it takes as many for a pixel as it does now; an estimate."""
        share = self.px_w * self.px_h / (self.image.px_w * self.image.px_h)
        return half_up(self.image.size_bytes * share)


def improved_px(
    image: DocumentImageObject, registration: Registration, target_ppi: float, most_times: float
) -> tuple[int, int]:
    """The pixels of the part of the original, bounded by the target's density at the largest use.

    >>> use = Use(1, 1, Matrix(a=72, d=72))
    >>> image = DocumentImageObject(
    ...     key=1, px_w=100, px_h=100, colour="rgb", bits=8, size_bytes=1, uses=[use]
    ... )
    >>> five = Registration(
    ...     edge_px=100, to_original=Matrix.scaling(5, 5), similarity=1, points=9,
    ...     unevenness=0, beyond_px=0
    ... )
    >>> improved_px(image, five, 300, 1.5), improved_px(image, five, 400, 1.5)
    ((450, 450), (500, 500))
    """
    native_w, native_h = image.px_w * registration.scale, image.px_h * registration.scale
    native_ppi = image.ppi * registration.scale
    most_ppi = target_ppi * most_times
    if native_ppi <= most_ppi:
        return max(1, half_up(native_w)), max(1, half_up(native_h))
    # Rounded down, so that the bound holds to the last digit.
    sides = (side * most_ppi / native_ppi for side in (native_w, native_h))
    px_w, px_h = (max(1, math.floor(side + _HAIR)) for side in sides)
    return px_w, px_h


def planned(
    image: DocumentImageObject, candidate: Candidate | None, settings: ImproveSettings
) -> PlannedImage:
    """What becomes of an image that falls short, is denser than it needs to be, or is cropped."""
    one = _planned(image, candidate, settings)
    return replace(one, is_cut=True) if settings.cuts and image.crop is not None else one


def _planned(
    image: DocumentImageObject, candidate: Candidate | None, settings: ImproveSettings
) -> PlannedImage:
    limits = settings.target.for_bits(image.is_bilevel)
    falls_short = image.ppi < limits.passes_from_ppi

    def left(reason: str) -> PlannedImage:
        return PlannedImage(
            image=image,
            fate=Fate.LEFT,
            px_w=image.px_w,
            px_h=image.px_h,
            candidate=candidate,
            reason=reason,
        )

    if not image.is_seen:
        return left("not visible on any page")
    if not falls_short:
        return _trimmed(image, settings, limits.density_ppi) or left("dense enough")
    if candidate is None or candidate.sureness is Sureness.NONE:
        return left("no original found")
    if candidate.sureness is Sureness.PERHAPS and settings.chooses is Sureness.SURE:
        return left("may be the same shot; not chosen")
    outcome = candidate.outcome
    if outcome is Outcome.ANOTHER:
        return left("another shot")
    if outcome is Outcome.EDITED and not settings.accepts_edited:
        return left("the same shot, edited; not chosen")
    px_w, px_h = improved_px(image, candidate.registration, limits.density_ppi, settings.most_times)
    if px_w < image.px_w * _WORTH_IT:
        return left("its original has no more pixels")
    carries = settings.carries_tone and image.key not in settings.keeps_own_tone
    return PlannedImage(
        image=image,
        fate=Fate.REPLACED,
        px_w=px_w,
        px_h=px_h,
        candidate=candidate,
        carries_tone=carries and outcome is Outcome.ANOTHER_TONE,
    )


def _trimmed(
    image: DocumentImageObject, settings: ImproveSettings, target_ppi: float
) -> PlannedImage | None:
    if settings.threshold is None or image.is_bilevel:
        return None
    if image.ppi <= target_ppi * settings.threshold:
        return None
    share = target_ppi / image.ppi
    px_w, px_h = half_up(image.px_w * share), half_up(image.px_h * share)
    if min(px_w, px_h) < 1:
        return None
    return PlannedImage(image=image, fate=Fate.TRIMMED, px_w=px_w, px_h=px_h)
