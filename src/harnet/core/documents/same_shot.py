"""Whether an image in a document is part of an original: formula 17, on what registration found."""

from dataclasses import dataclass
from enum import Enum

from harnet.core.measure.geometry import Matrix

SURE_SIMILARITY, SMALL_SURE_SIMILARITY, LEAST_SIMILARITY = 0.90, 0.80, 0.50
"""Structural similarity at which an image is surely, or may be, part of an original: see the trial
in docs/registration.md. The second is for images that lost detail: of a quarter of the original's
size or less, or JPEG of a quality below 60."""
LOW_QUALITY, SMALL_SHARE = 60, 0.26
_MOST_UNEVEN, _MOST_UNEVEN_PX = 0.01, 1.0
"""By how much the two scales may differ: a hundredth, or what rounding to whole pixels brings."""
_MOST_BEYOND_PX = 1.0
_SURE_POINTS, _LEAST_POINTS = 6, 5


class Sureness(Enum):
    """How sure it is that an image shows part of an original."""

    SURE = "sure"
    PERHAPS = "perhaps"
    NONE = "none"


@dataclass(frozen=True, slots=True, kw_only=True)
class Registration:
    """Where an image lies on an original.

    `edge_px` is the shorter edge of the image. `to_original` maps pixels of the image to those of
    the upright original, both from the upper left corner, y downwards. `similarity` is the
    structural similarity there; `points` are the points that agree; `unevenness` is by how much the
    two scales differ; `beyond_px` how far the image reaches beyond the original, in its own pixels.
    """

    edge_px: int
    to_original: Matrix
    similarity: float
    points: int
    unevenness: float
    beyond_px: float

    @property
    def scale(self) -> float:
        """Pixels of the original to one of the image, along an edge."""
        return float(abs(self.to_original.determinant) ** 0.5)

    @property
    def is_mirrored(self) -> bool:
        """Whether the image shows the original as a mirror does."""
        return self.to_original.determinant < 0


def sureness_of(registration: Registration | None, jpeg_quality: int | None = None) -> Sureness:
    """How sure it is; `jpeg_quality` is that of the image, None for one without loss.

    >>> sureness_of(None)
    <Sureness.NONE: 'none'>
    """
    if registration is None or registration.points < _LEAST_POINTS:
        return Sureness.NONE
    if registration.similarity < LEAST_SIMILARITY:
        return Sureness.NONE
    has_lost = registration.scale * SMALL_SHARE >= 1 or (
        jpeg_quality is not None and jpeg_quality < LOW_QUALITY
    )
    wanted = SMALL_SURE_SIMILARITY if has_lost else SURE_SIMILARITY
    is_sure = (
        registration.similarity >= wanted
        and registration.points >= _SURE_POINTS
        and registration.unevenness <= max(_MOST_UNEVEN, _MOST_UNEVEN_PX / registration.edge_px)
        and registration.beyond_px <= _MOST_BEYOND_PX
    )
    return Sureness.SURE if is_sure else Sureness.PERHAPS
