"""A job's placed pictures as values, with their figures; and values back into rows."""

from dataclasses import dataclass

from harnet.core.layout.figures import Figures, figures_of
from harnet.core.layout.placing import Content, Placement
from harnet.core.layout.shape import Shape
from harnet.core.measure.geometry import Box
from harnet.core.measure.units import CSS_PX_PER_INCH, Unit
from harnet.core.preflight.subject import FileState
from harnet.core.targets.target import Target
from harnet.core.targets.values import target_from_values
from harnet.store.tables.jobs import Item, Job, Page
from harnet.studio.jobs.jobs import target_of
from harnet.studio.pictures.picture import source_of

PICTURE, TEXT, RECTANGLE, LINE, FRAME = "picture", "text", "rectangle", "line", "frame"


@dataclass(frozen=True, slots=True, kw_only=True)
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
        source=source_of(item.picture),
        frame=frame_of(item),
        content=content,
        rotation_deg=item.rotation_deg or 0.0,
        shape=shape,
        radius_pt=item.radius_pt or 0.0,
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
    """How the bytes of a placed picture stood when its file was looked at last."""
    assert item.picture is not None
    if item.holding == "linked":
        return FileState(item.picture.file_state)
    return FileState(item.holding)


def target_for(item: Item, job_target: Target) -> Target:
    """The target that a placement is judged by: its own, else its page's, else the job's."""
    for row in (item, item.page):
        if row is not None and row.target is not None:
            return target_from_values(row.target)
    return job_target


def target_on(page: Page, job: Job) -> Target:
    """The target of new placements on a page: its own, else the job's."""
    return target_of(job) if page.target is None else target_from_values(page.target)


def has_own_target(item: Item) -> bool:
    """Whether a placement is judged by another target than its job."""
    return item.target is not None or item.page.target is not None


def placed_from(
    item: Item, page_number: int, target: Target, placement: Placement | None = None
) -> Placed:
    """A placed picture with its figures; `placement` stands in for the row's own geometry.

    `target` is the job's; the placement's or the page's own goes before it.
    """
    geometry = placement or placement_of(item)
    figures = figures_of(geometry, target_for(item, target))
    return Placed(
        item=item,
        page_number=page_number,
        placement=geometry,
        figures=figures,
        file_state=file_state_of(item),
    )


def unit_of(job: Job) -> tuple[Unit, float]:
    """The unit a job is measured in, and the pixels per inch it means by px."""
    return Unit.named(job.unit), job.px_per_inch or CSS_PX_PER_INCH
