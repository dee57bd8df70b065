"""What a view draws of a document: a page with its images outlined, or an image by itself."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from harnet.core.documents.document import DocumentPage
from harnet.core.documents.images import ImageKind, ImageOnPage, line_of
from harnet.core.documents.userspace import SeenSpace, seen_space
from harnet.core.ledger.lines import Line
from harnet.core.measure.wording import density_text, ppi_text
from harnet.core.targets.target import Target
from harnet.studio.documents.reporting.samples import outline_on


@dataclass(frozen=True, slots=True, kw_only=True)
class ImageOutline:
    """A picture's outline on the page as it is drawn, in points, and its badge."""

    picture: ImageOnPage
    line: Line
    points: str
    ppi: str
    badge: str
    badge_x: float
    badge_y: float
    badge_w: float
    letter_pt: float
    has_badge: bool
    """Whether it has room for one."""

    @property
    def badge_h(self) -> float:
        """How high its badge is."""
        return 1.5 * self.letter_pt

    @property
    def badge_top(self) -> float:
        """The badge's upper edge."""
        return self.badge_y - self.badge_h

    @property
    def badge_text_x(self) -> float:
        """Where the badge's text begins."""
        return self.badge_x + 0.4 * self.letter_pt

    @property
    def badge_text_y(self) -> float:
        """The base line of the badge's text."""
        return self.badge_y - 0.4 * self.letter_pt


@dataclass(frozen=True, slots=True)
class ImageAlone:
    """An image that stands on no page, with the part of it that is seen, in its own pixels."""

    picture: ImageOnPage
    px_w: int
    px_h: int
    x: float
    y: float
    width: float
    height: float

    @property
    def cropped_off(self) -> str:
        """The path around what is cut off: all of it but what is seen."""
        seen = f"M{self.x:.2f} {self.y:.2f}h{self.width:.2f}v{self.height:.2f}h-{self.width:.2f}Z"
        return f"M0 0H{self.px_w}V{self.px_h}H0Z {seen}"


def page_space(pages: Sequence[DocumentPage], number: int) -> SeenSpace | None:
    """A page as it is drawn; None where it has no size."""
    if not 1 <= number <= len(pages):
        return None
    page = pages[number - 1]
    return seen_space(page.box, page.turn_deg) if page.is_drawn else None


def image_alone(
    pictures: Iterable[ImageOnPage], chosen: ImageOnPage | None, number: int
) -> ImageAlone | None:
    """The image that is shown where there is no page to draw: the chosen one, else the first."""
    if chosen is None:
        of_page = (one for one in pictures if one.page_number == number and one.is_judged)
        chosen = next(of_page, None)
    if chosen is None or chosen.kind is ImageKind.LINKED:
        return None
    left, top, _, _ = chosen.crop
    width, height = chosen.px_w or 400, chosen.px_h or 300
    across, down = chosen.shown
    return ImageAlone(
        chosen, width, height, left * width, top * height, across * width, down * height
    )


def image_outlines(
    pages: Sequence[DocumentPage], number: int, pictures: Iterable[ImageOnPage], target: Target
) -> list[ImageOutline]:
    """The images of a page that are judged, each with its badge."""
    drawing = page_space(pages, number)
    if drawing is None:
        return []
    size_pt = _badge_pt(drawing)
    outlines = []
    for picture in pictures:
        if picture.page_number != number or not picture.is_judged:
            continue
        corners = outline_on(picture, pages[number - 1])
        line = line_of(picture, target)
        badge = f"{ppi_text(line.judged_ppi or 0.0)} ppi"
        left = max(0.0, min(x for x, _ in corners))
        right = min(drawing.width_pt, max(x for x, _ in corners))
        bottom = min(drawing.height_pt, max(y for _, y in corners))
        width = size_pt * (0.55 * len(badge) + 0.8)
        outlines.append(
            ImageOutline(
                picture=picture,
                line=line,
                points=" ".join(f"{x:.2f},{y:.2f}" for x, y in corners),
                ppi=density_text(picture.density),
                badge=badge,
                badge_x=left,
                badge_y=bottom,
                badge_w=width,
                letter_pt=size_pt,
                has_badge=right - left >= width,
            )
        )
    return outlines


def _badge_pt(drawing: SeenSpace) -> float:
    """Letters of badges, in points of the page: about the same on screen for every page."""
    return max(drawing.width_pt * 0.6, drawing.height_pt) / 34
