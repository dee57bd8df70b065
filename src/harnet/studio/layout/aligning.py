"""Several selected items brought in line, spread evenly or made alike, each as one edit."""

from collections.abc import Sequence

from sqlalchemy.orm import Session

from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.aligning import Align, AlignTo, Spread, aligned, distributed
from harnet.core.layout.by_figures import FrameFigures
from harnet.core.layout.hand.gesture import moved, moved_box
from harnet.core.layout.placing import Adjusts, Placement
from harnet.core.layout.turned_box import bounds_of
from harnet.core.measure.geometry import Box
from harnet.core.measure.wording import counted
from harnet.store.history import recorded
from harnet.store.tables.jobs import Item, Job
from harnet.studio.common.errors import Refused, sentence_of
from harnet.studio.layout.gestures import geometry_of
from harnet.studio.layout.placed import PICTURE, frame_of, placement_of, write_box, write_placement
from harnet.studio.layout.placing import scale_to_figure, set_figures


def align(
    session: Session, job: Job, items: Sequence[Item], how: Align, to: AlignTo = AlignTo.SELECTION
) -> None:
    """Brings items of one page in line.

    Raises:
        Refused: nothing is selected, or one item alone is to be in line with itself.
    """
    _require_one_page(items)
    boxes = [bounds_of(geometry_of(item).corners) for item in items]
    if len(items) == 1 and to in (AlignTo.SELECTION, AlignTo.FIRST):
        to = AlignTo.PAGE
    _move(session, job, items, aligned(boxes, how, _goal(job, items, boxes, to)), "Align")


def _goal(job: Job, items: Sequence[Item], boxes: Sequence[Box], to: AlignTo) -> Box:
    page, margin = items[0].page, job.margin_pt
    if to is AlignTo.FIRST:
        return boxes[0]
    if to is AlignTo.PAGE:
        return Box(0, 0, page.width_pt, page.height_pt)
    if to is AlignTo.MARGINS:
        return Box(margin, margin, page.width_pt - 2 * margin, page.height_pt - 2 * margin)
    return bounds_of(corner for box in boxes for corner in box.corners())


def spread_evenly(session: Session, job: Job, items: Sequence[Item], way: Spread) -> None:
    """Makes the gaps between items of one page equal; the outer two stay.

    Raises:
        Refused: fewer than three.
    """
    _require_one_page(items)
    boxes = [bounds_of(geometry_of(item).corners) for item in items]
    try:
        ways = distributed(boxes, way)
    except ValueOutOfRange as error:
        raise Refused(sentence_of(error)) from None
    _move(session, job, items, ways, "Distribute")


def make_alike(session: Session, job: Job, items: Sequence[Item], what: str) -> None:
    """Gives all the width, the height or the density of the one selected first.

    Pictures keep their scale and are cropped, but for the density, which scales frame and picture.

    Raises:
        Refused: fewer than two, no such figure, or the first has no density.
    """
    if len(items) < 2:
        raise Refused("Select at least two; the first one leads.")
    first, *others = items
    with recorded(session, job, f"Same {what}: {counted(len(items), 'item')}"):
        if what in ("width", "height"):
            box = frame_of(first)
            for item in others:
                figures = FrameFigures(
                    width_pt=box.width if what == "width" else None,
                    height_pt=box.height if what == "height" else None,
                )
                set_figures(session, job, item, figures)
        elif what == "density":
            density = placement_of(first).density if first.kind == PICTURE else None
            if density is None:
                raise Refused("What was selected first has no density; begin with a picture.")
            pictures = [item for item in others if item.kind == PICTURE]
            scale_to_figure(session, job, pictures, density.worst, Adjusts.FRAME)
        else:
            raise Refused(f"“{what}” is not something that can be made the same.")


def _move(
    session: Session,
    job: Job,
    items: Sequence[Item],
    ways: Sequence[tuple[float, float]],
    verb: str,
) -> None:
    with recorded(session, job, f"{verb} {counted(len(items), 'item')}"):
        for item, (dx, dy) in zip(items, ways, strict=True):
            geometry = geometry_of(item)
            if isinstance(geometry, Placement):
                write_placement(item, moved(geometry, dx, dy))
            else:
                write_box(item, moved_box(geometry, dx, dy).box)


def _require_one_page(items: Sequence[Item]) -> None:
    if not items:
        raise Refused("Select something first.")
    if len({item.page_id for item in items}) > 1:
        raise Refused("Select items of one page.")
