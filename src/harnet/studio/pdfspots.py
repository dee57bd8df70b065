"""The spot of a page where a picture lies, for the pictures beside findings."""

from collections.abc import Sequence
from dataclasses import dataclass

from harnet.core.geometry import Matrix
from harnet.core.userspace import seen_space
from harnet.media.pdf.clip import bounds_of
from harnet.store.pdfmodels import PaintedPicture
from harnet.studio.pdfsubjects import PageValues

_MARGIN = 0.12
_LEAST_PT = 36.0


@dataclass(frozen=True, slots=True)
class Spot:
    """A part of a page as it is seen, in points from its top left; and the picture's outline."""

    page_number: int
    page_w_pt: float
    page_h_pt: float
    left: float
    top: float
    width: float
    height: float
    outline: Sequence[tuple[float, float]]


def outline_on(picture: PaintedPicture, page: PageValues) -> list[tuple[float, float]]:
    """The corners of a picture on its page as it is seen, in points from its top left."""
    matrix = Matrix(*picture.matrix).then(seen_space(page["box"], page["turn"]).matrix)
    return [matrix.applied(x, y) for x, y in ((0, 0), (1, 0), (1, 1), (0, 1))]


def spot_of(picture: PaintedPicture, page: PageValues) -> Spot:
    """The picture with some of the page around it, as far as the page goes."""
    space = seen_space(page["box"], page["turn"])
    outline = outline_on(picture, page)
    bounds = bounds_of(outline)
    assert bounds is not None
    left, width = _stretch(bounds[0], bounds[2], space.width_pt)
    top, height = _stretch(bounds[1], bounds[3], space.height_pt)
    return Spot(
        picture.page_number,
        space.width_pt,
        space.height_pt,
        left,
        top,
        width,
        height,
        outline,
    )


def _stretch(start: float, end: float, whole: float) -> tuple[float, float]:
    """A stretch of an edge around another one: its start and its length."""
    margin = max(_MARGIN * (end - start), (_LEAST_PT - (end - start)) / 2)
    first = min(max(0.0, start - margin), max(0.0, whole - 1))
    last = max(min(whole, end + margin), first + 1)
    return first, last - first
