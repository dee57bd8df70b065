"""Pages of a document as images: how many pixels each leaves with."""

from collections.abc import Sequence
from dataclasses import dataclass

from harnet.core.documents.document import DocumentPage
from harnet.core.documents.userspace import seen_space
from harnet.core.output.page_images import ImageSettings, page_numbers


@dataclass(frozen=True, slots=True)
class PagePixels:
    """A page of a document as an image: its size in points, its density, its pixels."""

    page_number: int
    width_pt: float
    height_pt: float
    density_ppi: float
    px_w: int
    px_h: int


def pixels_of_pages(pages: Sequence[DocumentPage], settings: ImageSettings) -> list[PagePixels]:
    """The pixels of each page that is wanted: within its trim, or all that is seen of it.

    Raises:
        ValueOutOfRange: there is no such page.

    >>> page = DocumentPage(box=(0, 0, 720, 360), turn_deg=90)
    >>> [one] = pixels_of_pages([page], ImageSettings(density_ppi=100))
    >>> one.px_w, one.px_h
    (500, 1000)
    """
    found = []
    for number in page_numbers(settings.pages, len(pages)):
        page = pages[number - 1]
        space = seen_space(page.box if settings.with_bleed else page.cut, page.turn_deg)
        width, height = space.width_pt, space.height_pt
        px_w, px_h = settings.px_for(width, height)
        ppi = settings.density_for(width, height)
        found.append(PagePixels(number, width, height, ppi, px_w, px_h))
    return found
