"""Whether a document's pictures look shrunk when it was saved: formula 15.

Common practice, no source: a hint, never a verdict.
"""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass

from harnet.core.documents.images import ImageKind, ImageOnPage

USUAL_PPI = (72, 96, 110, 150, 200, 220, 300, 330)
"""The densities that programs shrink pictures to."""
FEWEST, LEAST_SHARE, WITHIN = 4, 0.6, 0.01
_HAIR = 1e-9


@dataclass(frozen=True, slots=True)
class Shrunk:
    """So many of the pictures stand at exactly one of the usual densities."""

    ppi: int
    at_it: int
    pictures: int
    denser: tuple[int, ...]
    """The numbers of the pictures that still have more than that."""


def shrunk_to(pictures: Iterable[ImageOnPage]) -> Shrunk | None:
    """The usual density that most raster pictures of a document were placed with, if there is one.

    What a vector picture keeps for older programs does not count.
    """
    rasters = [one for one in pictures if one.kind is ImageKind.RASTER and one.is_judged]
    counts = Counter(
        usual for one in rasters if not one.is_assumed for usual in _usual_densities(one)
    )
    if not counts:
        return None
    ppi, count = max(counts.items(), key=lambda one: (one[1], one[0]))
    if count < FEWEST or count < LEAST_SHARE * len(rasters) - _HAIR:
        return None
    above = ppi * (1 + WITHIN)
    denser = tuple(one.id for one in rasters if min(_placed_ppi(one)) > above)
    return Shrunk(ppi, count, len(rasters), denser)


def _placed_ppi(picture: ImageOnPage) -> tuple[float, float]:
    """The densities that a picture was placed with, before something scaled it later."""
    return picture.placed_ppi or (picture.density.x, picture.density.y)


def _usual_densities(picture: ImageOnPage) -> list[int]:
    across, down = _placed_ppi(picture)
    return [
        usual
        for usual in USUAL_PPI
        if max(abs(across - usual), abs(down - usual)) <= WITHIN * usual + _HAIR
    ]
