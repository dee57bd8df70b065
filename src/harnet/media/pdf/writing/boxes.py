"""The boxes of a PDF page (ISO 32000-2, 14.11.2)."""

from dataclasses import dataclass

from harnet.media.pagedrawing.plan import PagePlan
from harnet.media.pdf.writing.marks import room_for_marks

Edges = tuple[float, float, float, float]


@dataclass(frozen=True, slots=True)
class PageBoxes:
    """A page's boxes in points from the media box's corner: left, bottom, right, top."""

    media: Edges
    bleed: Edges
    trim: Edges


def boxes_of(plan: PagePlan, has_marks: bool) -> PageBoxes:
    """The boxes of a page: the trim in the bleed in the media box, with room for marks."""
    bleed = plan.bleed_pt
    room = room_for_marks(bleed) if has_marks else bleed
    width, height = plan.width_pt, plan.height_pt
    return PageBoxes(
        (0, 0, width + 2 * room, height + 2 * room),
        (room - bleed, room - bleed, room + width + bleed, room + height + bleed),
        (room, room, room + width, room + height),
    )
