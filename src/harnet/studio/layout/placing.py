"""Laying out: placing pictures and changing what is placed, each as one undoable edit."""

from collections.abc import Callable, Collection, Iterable, Sequence
from contextlib import nullcontext
from dataclasses import replace
from itertools import groupby
from operator import attrgetter

from sqlalchemy import select
from sqlalchemy.orm import Session, attributes, contains_eager, joinedload, object_session

from harnet.core.copies.frame_copy import with_copy
from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.by_figures import FrameFigures, box_with, placement_with
from harnet.core.layout.hand.gesture import moved
from harnet.core.layout.placing import (
    Adjusts,
    EvenBy,
    Fit,
    Placement,
    evened_out,
    fitted,
    placed_at_native_size,
    scaled_by,
    scaled_to_figure,
    scaled_to_native,
    scaled_to_reach,
)
from harnet.core.layout.swapping import swapped
from harnet.core.layout.turned_box import TurnedBox
from harnet.core.measure.geometry import Box
from harnet.core.measure.wording import counted, ppi_text
from harnet.core.targets.target import Target
from harnet.store.history import recorded
from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.pictures import Picture
from harnet.studio.common.errors import Conflict, NotThere, Refused, sentence_of
from harnet.studio.jobs.jobs import target_of
from harnet.studio.jobs.steps import told_of_change
from harnet.studio.layout.placed import (
    PICTURE,
    TEXT,
    frame_of,
    placement_of,
    target_for,
    write_box,
    write_placement,
)
from harnet.studio.people.access import is_seen
from harnet.studio.pictures.picture import source_of

_SMALL_START_SHARE = 0.5
_NOT_ON_PAGE = "This is no longer on the page."


def items_in(session: Session, job: Job, item_ids: Iterable[int]) -> list[Item]:
    """Items of a job in the order that they are asked for, each once.

    Raises:
        NotThere: one of them is not there, or no longer.
    """
    wanted = list(dict.fromkeys(item_ids))
    of_job = select(Item).join(Item.page).where(Page.job_id == job.id, Item.id.in_(wanted))
    found = {item.id: item for item in session.scalars(of_job.options(contains_eager(Item.page)))}
    if len(found) < len(wanted):
        raise NotThere(_NOT_ON_PAGE)
    return [found[number] for number in wanted]


def items_shown(
    session: Session,
    job: Job,
    wanted: Sequence[tuple[int, int | None]],
    whole_pages: bool = False,
) -> list[Item]:
    """Items by numbers and the versions that they were shown with, if any, in the same order.

    With `whole_pages` what lies beside them is read along; for who changes nothing.

    Raises:
        NotThere: one of them is not there, or no longer.
        Conflict: someone changed one of them.
    """
    asked = Item.id.in_([number for number, _ in wanted])
    if whole_pages:
        asked = Item.page_id.in_(select(Item.page_id).where(asked))
    in_order = select(Item).where(asked).order_by(Item.page_id, Item.position, Item.id)
    # Held here, they are found below without another question.
    found = list(session.scalars(in_order.options(joinedload(Item.page))))
    if whole_pages:
        for page, items in groupby(found, attrgetter("page")):
            attributes.set_committed_value(page, "items", list(items))
    return [item_in(job, number, version) for number, version in wanted]


def items_with(session: Session, numbers: Collection[int]) -> list[Item]:
    """The items of these numbers that there are, with their pages, the oldest first."""
    wanted = select(Item).join(Item.page).join(Page.job).where(Item.id.in_(numbers))
    wanted = wanted.where(is_seen(Job.group_id)).order_by(Item.id)
    return list(session.scalars(wanted.options(contains_eager(Item.page))))


def texts_of(session: Session, job: Job) -> list[Item]:
    """Every text of a job, page by page, from back to front."""
    wanted = select(Item).join(Item.page).where(Page.job_id == job.id, Item.kind == TEXT)
    return list(session.scalars(wanted.order_by(Page.position, Item.position, Item.id)))


def item_in(job: Job, item_id: int, version: int | None = None) -> Item:
    """A job's item; with `version`, only if nobody changed it since.

    Raises:
        NotThere: no such item, or no longer.
        Conflict: someone changed it.
    """
    session = object_session(job)
    assert session is not None
    item = session.get(Item, item_id)
    if item is None or item.page.job_id != job.id:
        raise NotThere(f"{_NOT_ON_PAGE}{told_of_change(session, job, item_id)}")
    if version is not None and item.version != version:
        who = told_of_change(session, job, item_id) or " It was changed in another window."
        raise Conflict(f"Your change was not made.{who} Reload to see the current state.")
    return item


def place_picture(
    session: Session,
    job: Job,
    page: Page,
    picture: Picture,
    at: tuple[float, float] | None = None,
    fit: Fit | None = None,
    reaches: Target | None = None,
) -> Item:
    """Places a picture at its native size, or whole inside the page where that is too large.

    `at` is where its middle goes, in points; without it the page's middle. With a `fit` other
    than native it gets a frame of half the page and is laid into that. With a target that it
    `reaches` it is as large as that allows.
    """
    with recorded(session, job, f"Place {picture.file_name}"):
        item = new_picture_item(page, picture, at, fit, reaches)
        session.add(item)
    session.expire(page, ["items"])
    return item


def new_picture_item(
    page: Page,
    picture: Picture,
    at: tuple[float, float] | None = None,
    fit: Fit | None = None,
    reaches: Target | None = None,
) -> Item:
    """The row of a newly placed picture, on top of its page."""
    source = source_of(picture)
    centre = at or (page.width_pt / 2, page.height_pt / 2)
    room = Box(0, 0, page.width_pt * _SMALL_START_SHARE, page.height_pt * _SMALL_START_SHARE)
    placement = placed_at_native_size(source, 0, 0)
    is_large = placement.frame.width > page.width_pt or placement.frame.height > page.height_pt
    if reaches is not None and source.has_pixels:
        placement = scaled_to_reach(placement, reaches, Adjusts.FRAME)
    elif fit in (Fit.COVER, Fit.STRETCH):
        placement = replace(placement, frame=room, content=fitted(source, room, fit))
    elif fit is Fit.CONTAIN or (is_large and fit is None):
        scale = fitted(source, room, Fit.CONTAIN).scale_x / placement.content.scale_x
        placement = scaled_by(placement, scale, scale, Adjusts.FRAME)
    frame = placement.frame
    placement = moved(placement, centre[0] - frame.width / 2, centre[1] - frame.height / 2)
    item = Item(
        page_id=page.id,
        picture_id=picture.id,
        picture=picture,
        kind=PICTURE,
        position=max((other.position for other in page.items), default=0) + 1,
        holding="linked",
        style={},
    )
    write_placement(item, placement)
    return item


def is_at_native_size(item: Item) -> bool:
    """Whether a placed picture has its native size."""
    return abs(placement_of(item).native_share - 1) < 1e-6


def name_of(item: Item) -> str:
    """What an item is called in the history."""
    return item.picture.file_name if item.picture else item.kind


def set_figures(session: Session, job: Job, item: Item, figures: FrameFigures) -> None:
    """Sets an item's place, size and rotation by figures; the rest of it stays as it is.

    A picture keeps its scale and is cropped by its frame, unless the figures say otherwise.

    Raises:
        Refused: a frame or a scale that cannot be.
    """
    try:
        if item.kind == PICTURE:
            placement = placement_with(placement_of(item), figures)
        else:
            turned = box_with(TurnedBox(frame_of(item), item.rotation_deg or 0.0), figures)
    except ValueOutOfRange as error:
        raise Refused(sentence_of(error)) from None
    with recorded(session, job, f"Set figures of {name_of(item)}"):
        if item.kind == PICTURE:
            write_placement(item, placement)
        else:
            write_box(item, turned.box)
            item.rotation_deg = turned.rotation_deg


def fit_picture(session: Session, job: Job, item: Item, fit: Fit) -> None:
    """Lays a picture into its frame again."""
    placement = placement_of(item)
    content = fitted(placement.source, placement.frame, fit)
    kept = replace(content, flip_h=placement.content.flip_h, flip_v=placement.content.flip_v)
    with recorded(session, job, f"Fit {name_of(item)}"):
        write_placement(item, replace(placement, content=kept))


def scale_to_reach(session: Session, job: Job, items: Sequence[Item], adjusts: Adjusts) -> None:
    """Brings pictures to the largest size that still meets the target, as one edit."""
    target = target_of(job)
    _rescale(
        session,
        job,
        items,
        f"Scale to reach at {ppi_text(target.density_ppi)} ppi",
        lambda item, placement: scaled_to_reach(placement, target_for(item, target), adjusts),
    )


def scale_to_figure(
    session: Session, job: Job, items: Sequence[Item], ppi: float, adjusts: Adjusts
) -> None:
    """Scales pictures evenly until their lower density is a figure in ppi, as one edit.

    Raises:
        Refused: a vector picture, or a size that a placement cannot have.
    """
    _rescale(
        session,
        job,
        items,
        f"Scale to {ppi_text(ppi)} ppi",
        lambda item, placement: scaled_to_figure(placement, ppi, adjusts),
    )


def scale_to_native(session: Session, job: Job, items: Sequence[Item], adjusts: Adjusts) -> None:
    """Brings pictures to their native size, as one edit."""
    _rescale(
        session,
        job,
        items,
        "Scale to native",
        lambda item, placement: scaled_to_native(placement, adjusts),
    )


def even_out(
    session: Session, job: Job, items: Sequence[Item], by: EvenBy, adjusts: Adjusts
) -> None:
    """Gives both axes of unevenly scaled pictures one scale, as one edit."""
    _rescale(
        session,
        job,
        items,
        "Even out",
        lambda item, placement: evened_out(placement, by, adjusts),
    )


def _rescale(
    session: Session,
    job: Job,
    items: Sequence[Item],
    label: str,
    change: Callable[[Item, Placement], Placement],
) -> None:
    pictures = [item for item in items if item.kind == PICTURE]
    if not pictures:
        raise Refused("Select a picture first.")
    what = name_of(pictures[0]) if len(pictures) == 1 else counted(len(pictures), "picture")
    try:
        changed = [(item, change(item, placement_of(item))) for item in pictures]
    except ValueOutOfRange as error:
        raise Refused(f"Nothing was scaled: {error}.") from None
    with recorded(session, job, f"{label}: {what}"):
        for item, placement in changed:
            write_placement(item, placement)


def relink(
    session: Session, job: Job, item: Item, picture: Picture, is_recorded: bool = True
) -> None:
    """Puts another picture file behind a placement; frame and visible region stay.

    Without `is_recorded` it is part of an edit that the caller records.
    """
    after = swapped(placement_of(item), source_of(picture))
    edit = recorded(session, job, f"Relink {name_of(item)}") if is_recorded else nullcontext()
    with edit:
        item.picture_id = picture.id
        item.picture = picture
        item.holding = "linked"
        write_placement(item, after)


def place_copy(
    session: Session, job: Job, item: Item, copy: Picture, is_recorded: bool = True
) -> None:
    """Puts a print copy in place of its original: at exactly 100 %, over what was visible.

    Without `is_recorded` it is part of an edit that the caller records.
    """
    placement = with_copy(placement_of(item), source_of(copy))
    edit = (
        recorded(session, job, f"Print copy of {name_of(item)}") if is_recorded else nullcontext()
    )
    with edit:
        item.picture_id = copy.id
        item.picture = copy
        write_placement(item, placement)


def remove_items(session: Session, job: Job, items: Sequence[Item]) -> None:
    """Removes items from their pages; pictures stay on their shelves."""
    what = name_of(items[0]) if len(items) == 1 else counted(len(items), "item")
    pages = {item.page_id: item.page for item in items}
    with recorded(session, job, f"Remove {what}"):
        for item in items:
            session.delete(item)
    for page in pages.values():
        session.expire(page, ["items"])
