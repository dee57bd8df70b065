"""A job's placed pictures as values, with their figures; and values back into rows."""

from collections.abc import Iterable
from dataclasses import dataclass

from harnet.core.figures import Figures, figures_of
from harnet.core.geometry import Box
from harnet.core.placing import Content, Placement
from harnet.core.preflight.finding import Checked, FileState
from harnet.core.shape import Shape
from harnet.core.target import Target
from harnet.core.units import CSS_PX_PER_INCH, Unit
from harnet.core.verdict import Verdict
from harnet.store.models import Item, Job, Page
from harnet.studio.jobs import target_of, target_of_row
from harnet.studio.pictures import source_of, state_of

PICTURE, TEXT, RECTANGLE, LINE, FRAME = "picture", "text", "rectangle", "line", "frame"


@dataclass(frozen=True, slots=True)
class Placed:
    """A placed picture: its row, its geometry, its figures against the job's target."""

    item: Item
    page_number: int
    placement: Placement
    figures: Figures
    file_state: FileState

    @property
    def name(self) -> str:
        """The picture's file name."""
        return self.item.picture.file_name if self.item.picture else ""


def placement_of(item: Item) -> Placement:
    """The geometry of a picture's row."""
    assert item.picture is not None
    content = Content(
        item.scale_x or 1.0,
        item.scale_y or 1.0,
        item.offset_x or 0.0,
        item.offset_y or 0.0,
        item.flip_h,
        item.flip_v,
    )
    shape = Shape(item.shape or Shape.RECTANGLE.value)
    return Placement(
        source_of(item.picture),
        frame_of(item),
        content,
        item.rotation_deg or 0.0,
        shape,
        item.radius_pt or 0.0,
    )


def frame_of(item: Item) -> Box:
    """The frame of any row."""
    return Box(item.x_pt, item.y_pt, item.width_pt, item.height_pt)


def write_placement(item: Item, placement: Placement) -> None:
    """Writes a geometry into its row."""
    write_box(item, placement.frame)
    content = placement.content
    item.rotation_deg = placement.rotation_deg
    item.scale_x, item.scale_y = content.scale_x, content.scale_y
    item.offset_x, item.offset_y = content.offset_x, content.offset_y
    item.flip_h, item.flip_v = content.flip_h, content.flip_v
    item.shape, item.radius_pt = placement.shape.value, placement.radius_pt


def write_box(item: Item, box: Box) -> None:
    """Writes a frame into its row."""
    item.x_pt, item.y_pt, item.width_pt, item.height_pt = box.x, box.y, box.width, box.height


def file_state_of(item: Item) -> FileState:
    """How the bytes of a placed picture stand."""
    assert item.picture is not None
    if item.holding == "linked":
        return state_of(item.picture)
    return FileState(item.holding)


def target_for(item: Item, job_target: Target) -> Target:
    """The target that a placement is judged by: its own, else its page's, else the job's."""
    for row in (item, item.page):
        if row is not None and row.target_key is not None:
            return target_of_row(row.target_key, row.target_ppi or job_target.density_ppi)
    return job_target


def target_on(page: Page, job: Job) -> Target:
    """The target of new placements on a page: its own, else the job's."""
    if page.target_key is None:
        return target_of(job)
    return target_of_row(page.target_key, page.target_ppi or job.target_ppi)


def has_own_target(item: Item) -> bool:
    """Whether a placement is judged by another target than its job."""
    return item.target_key is not None or item.page.target_key is not None


def placed_from(
    item: Item, page_number: int, target: Target, placement: Placement | None = None
) -> Placed:
    """A placed picture with its figures; `placement` stands in for the row's own geometry.

    `target` is the job's; the placement's or the page's own goes before it.
    """
    geometry = placement or placement_of(item)
    figures = figures_of(geometry, target_for(item, target))
    return Placed(item, page_number, geometry, figures, file_state_of(item))


def placed_on(page: Page, target: Target) -> list[Placed]:
    """The pictures of one page, lowest first."""
    number = page.position + 1
    return [placed_from(item, number, target) for item in page.items if item.kind == PICTURE]


def placed_in(job: Job) -> list[Placed]:
    """The pictures of a job, page by page."""
    target = target_of(job)
    return [placed for page in job.pages for placed in placed_on(page, target)]


def unit_of(job: Job) -> tuple[Unit, float]:
    """The unit a job is measured in, and the pixels per inch it means by px."""
    return Unit.named(job.unit), job.px_per_inch or CSS_PX_PER_INCH


def checked_from(job: Job, placed: Placed) -> Checked:
    """A placed picture as the preflight rules see it."""
    unit, _ = unit_of(job)
    return Checked(
        placed.item.id,
        placed.page_number,
        placed.name,
        placed.placement,
        placed.figures,
        placed.file_state,
        Unit.MM if unit is Unit.PX else unit,
        placed.item.picture is not None and placed.item.picture.looks_drawn,
    )


def verdict_counts(placed: Iterable[Placed]) -> dict[Verdict, int]:
    """How many pictures have each verdict, worst first, zeros included."""
    counts = dict.fromkeys(Verdict, 0)
    for one in placed:
        counts[one.figures.verdict] += 1
    return counts


def worst_verdict(placed: Iterable[Placed]) -> Verdict | None:
    """The worst verdict among pictures, None where there are none."""
    order = list(Verdict)
    return min((one.figures.verdict for one in placed), key=order.index, default=None)


def by_shortfall(placed: Iterable[Placed]) -> list[Placed]:
    """Pictures by headroom, the farthest short first; vector art last."""
    return sorted(
        placed,
        key=lambda one: (
            one.figures.headroom is None,
            one.figures.headroom if one.figures.headroom is not None else 0.0,
            one.page_number,
            one.item.id,
        ),
    )
