"""What reports show of a PDF: samples of its pages beside findings, and rows of a table."""

from collections.abc import Sequence
from dataclasses import dataclass

from harnet.core.documents.document import DocumentFacts, DocumentPage
from harnet.core.documents.images import ImageOnPage
from harnet.core.documents.places import where_text
from harnet.core.documents.userspace import seen_space
from harnet.core.ledger.lines import Line
from harnet.core.measure.units import Unit
from harnet.core.measure.wording import density_text, px_text
from harnet.core.pictures.colour_words import colour_text
from harnet.core.preflight.finding import Finding
from harnet.media.errors import UnreadableFile
from harnet.media.pagedrawing.sample import page_spot
from harnet.media.pdf.walking.clip import bounds_of
from harnet.studio.common.errors import NotThere
from harnet.studio.documents.drawing import Drawings

MOST_FINDINGS, MOST_ROWS = 400, 2_000
"""Findings and pictures beyond are counted; the CSV holds them all."""
_SPOT_PX, _MOST_SPOTS = 320, 40
_MARGIN = 0.12
_LEAST_PT = 36.0


@dataclass(frozen=True, slots=True, kw_only=True)
class PageSample:
    """A part of a page as it is seen, in points from its top left; and the picture's outline."""

    page_number: int
    page_w_pt: float
    page_h_pt: float
    left: float
    top: float
    width: float
    height: float
    outline: Sequence[tuple[float, float]]

    @property
    def view_box(self) -> str:
        """The part of the page, as a drawing's viewBox."""
        return f"{self.left:.2f} {self.top:.2f} {self.width:.2f} {self.height:.2f}"


def outline_on(picture: ImageOnPage, page: DocumentPage) -> list[tuple[float, float]]:
    """The corners of a picture on its page as it is seen, in points from its top left."""
    matrix = picture.shown_matrix.then(seen_space(page.box, page.turn_deg).matrix)
    return [matrix.applied(x, y) for x, y in ((0, 0), (1, 0), (1, 1), (0, 1))]


def spot_of(picture: ImageOnPage, page: DocumentPage) -> PageSample:
    """The picture with some of the page around it, as far as the page goes."""
    space = seen_space(page.box, page.turn_deg)
    outline = outline_on(picture, page)
    bounds = bounds_of(outline)
    assert bounds is not None
    left, width = _stretch(bounds[0], bounds[2], space.width_pt)
    top, height = _stretch(bounds[1], bounds[3], space.height_pt)
    return PageSample(
        page_number=picture.page_number,
        page_w_pt=space.width_pt,
        page_h_pt=space.height_pt,
        left=left,
        top=top,
        width=width,
        height=height,
        outline=outline,
    )


def _stretch(start: float, end: float, whole: float) -> tuple[float, float]:
    """A stretch of an edge around another one: its start and its length."""
    margin = max(_MARGIN * (end - start), (_LEAST_PT - (end - start)) / 2)
    first = min(max(0.0, start - margin), max(0.0, whole - 1))
    last = max(min(whole, end + margin), first + 1)
    return first, last - first


class Spots:
    """Pictures of samples, each page drawn once; none beyond a bound."""

    def __init__(
        self,
        pictures: Sequence[ImageOnPage],
        pages: Sequence[DocumentPage],
        drawings: Drawings,
    ) -> None:
        self._pictures = {picture.id: picture for picture in pictures}
        self._pages = pages
        self._drawings = drawings
        self._drawn: dict[int, bytes | None] = {}
        self._count = 0

    def on(self, finding: Finding) -> bytes | None:
        """The spot that a finding is about, as JPEG; None on the PDF as a whole."""
        picture = self._pictures.get(finding.item_id)
        if picture is None or self._count >= _MOST_SPOTS:
            return None
        if not self._pages[picture.page_number - 1].is_drawn:
            self._count += 1
            return self._alone(picture)
        page = self._page(picture.page_number)
        if page is None:
            return None
        self._count += 1
        spot = spot_of(picture, self._pages[picture.page_number - 1])
        part = (
            spot.left / spot.page_w_pt,
            spot.top / spot.page_h_pt,
            spot.width / spot.page_w_pt,
            spot.height / spot.page_h_pt,
        )
        return page_spot(page, part, _SPOT_PX)

    def _alone(self, picture: ImageOnPage) -> bytes | None:
        """What is seen of a picture that stands on no page."""
        try:
            whole = self._drawings.image(picture)
        except (UnreadableFile, NotThere):
            return None
        left, top, _, _ = picture.crop
        return page_spot(whole, (left, top, *picture.shown), _SPOT_PX)

    def _page(self, number: int) -> bytes | None:
        if number not in self._drawn:
            try:
                self._drawn[number] = self._drawings.page(number)
            except (UnreadableFile, NotThere):
                # The words stand without the picture of the spot.
                self._drawn[number] = None
        return self._drawn[number]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownRow:
    """A picture as a report's table has it, all as texts."""

    page: str
    pixels: str
    size: str
    ppi: str
    verdict: str
    colour: str


def shown_rows(
    read: DocumentFacts, pictures: Sequence[ImageOnPage], lines: Sequence[Line], unit: Unit
) -> list[ShownRow]:
    """The rows of a report's table, in painting order, as many as a person reads."""
    return [
        ShownRow(
            page=where_text(read, picture),
            pixels=px_text(picture.px_w, picture.px_h) if picture.px_w else picture.kind.value,
            size=picture.size_in(unit),
            ppi=density_text(picture.density) if picture.px_w else "",
            verdict=picture.unseen or line.verdict.value,
            colour=colour_text(picture.colour, picture.bits) if picture.px_w else "",
        )
        for picture, line in zip(pictures[:MOST_ROWS], lines, strict=False)
    ]
