"""Laying out: placing pictures and changing what is placed, each as one undoable edit."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from harnet.core.errors import ValueOutOfRange
from harnet.core.framecopy import with_copy
from harnet.core.geometry import Box
from harnet.core.gesture import Handle, moved, panned, resized, resized_box
from harnet.core.placing import (
    LARGEST_LENGTH_PT,
    EvenBy,
    Fit,
    GivesWay,
    Placement,
    evened_out,
    fitted,
    placed_at_native_size,
    scaled_by,
    scaled_to_native,
    scaled_to_reach,
    with_frame_size,
)
from harnet.core.wording import counted, ppi_text
from harnet.store.history import recorded
from harnet.store.models import Item, Job, Page, Picture
from harnet.studio.errors import Conflict, NotThere, Refused, sentence_of
from harnet.studio.jobs import target_of
from harnet.studio.pictures import facts_of_picture, source_of
from harnet.studio.placed import (
    PICTURE,
    frame_of,
    placement_of,
    write_box,
    write_placement,
)

_SMALL_START_SHARE = 0.5


@dataclass(frozen=True, slots=True)
class Gesture:
    """What the hand did: `move`, `pan` or `size` by a handle, by so many points."""

    kind: str
    dx_pt: float
    dy_pt: float
    handle: str = ""


def item_in(job: Job, item_id: int, version: int | None = None) -> Item:
    """A job's item; with `version`, only if nobody changed it since.

    Raises:
        NotThere: no such item, or no longer.
        Conflict: somebody changed it.
    """
    for page in job.pages:
        for item in page.items:
            if item.id == item_id:
                if version is not None and item.version != version:
                    raise Conflict(
                        "This was changed in another window. Your change was not made;"
                        " reload to see how it stands now."
                    )
                return item
    raise NotThere("This is not on the page any more.")


def place_picture(
    session: Session, job: Job, page: Page, picture: Picture, at: tuple[float, float] | None = None
) -> Item:
    """Places a picture at its native size, or whole inside the page where that is too large.

    `at` is where its middle goes, in points; without it the page's middle.

    Raises:
        Refused: a PDF, whose own pictures would not be judged.
    """
    if facts_of_picture(picture).format == "pdf":
        raise Refused(
            f"{picture.file_name} was not placed: a PDF may hold pictures of its own, and those"
            " would not be judged. Place its pictures one by one."
        )
    source = source_of(picture)
    centre = at or (page.width_pt / 2, page.height_pt / 2)
    placement = placed_at_native_size(source, 0, 0)
    if placement.frame.width > page.width_pt or placement.frame.height > page.height_pt:
        room = Box(0, 0, page.width_pt * _SMALL_START_SHARE, page.height_pt * _SMALL_START_SHARE)
        scale = fitted(source, room, Fit.CONTAIN).scale_x / placement.content.scale_x
        placement = scaled_by(placement, scale, scale, GivesWay.FRAME)
    frame = placement.frame
    placement = moved(placement, centre[0] - frame.width / 2, centre[1] - frame.height / 2)
    with recorded(session, job, f"Place {picture.file_name}"):
        item = Item(
            page_id=page.id,
            picture_id=picture.id,
            kind=PICTURE,
            position=max((other.position for other in page.items), default=0) + 1,
            style={},
        )
        write_placement(item, placement)
        session.add(item)
    session.expire(page, ["items"])
    return item


def after_gesture(item: Item, gesture: Gesture) -> Placement | Box:
    """The geometry a gesture leads to; nothing is written.

    Raises:
        Refused: the frame would get impossible, or no such gesture.
    """
    if abs(gesture.dx_pt) > LARGEST_LENGTH_PT or abs(gesture.dy_pt) > LARGEST_LENGTH_PT:
        raise Refused("That is farther than any page is large.")
    try:
        if item.kind != PICTURE:
            return _box_after(frame_of(item), gesture)
        placement = placement_of(item)
        if gesture.kind == "move":
            return moved(placement, gesture.dx_pt, gesture.dy_pt)
        if gesture.kind == "pan":
            return panned(placement, gesture.dx_pt, gesture.dy_pt)
        return resized(placement, _handle(gesture), gesture.dx_pt, gesture.dy_pt)
    except ValueOutOfRange as error:
        raise Refused(f"{error}.") from None


def _handle(gesture: Gesture) -> Handle:
    try:
        return Handle[gesture.handle.upper()]
    except KeyError:
        raise Refused(f"There is no handle called “{gesture.handle}”.") from None


def _box_after(box: Box, gesture: Gesture) -> Box:
    if gesture.kind == "size":
        return resized_box(box, _handle(gesture), gesture.dx_pt, gesture.dy_pt)
    return Box(box.x + gesture.dx_pt, box.y + gesture.dy_pt, box.width, box.height)


def apply_gesture(session: Session, job: Job, item: Item, gesture: Gesture) -> None:
    """Writes what the hand did, as one edit."""
    verb = {"move": "Move", "pan": "Pan"}.get(gesture.kind, "Size")
    geometry = after_gesture(item, gesture)
    with recorded(session, job, f"{verb} {name_of(item)}"):
        if isinstance(geometry, Placement):
            write_placement(item, geometry)
        else:
            write_box(item, geometry)


def name_of(item: Item) -> str:
    """What an item is called in the history."""
    return item.picture.file_name if item.picture else item.kind


def set_frame(
    session: Session,
    job: Job,
    item: Item,
    frame: Box,
    density_ppi: float | None = None,
    rotation_deg: float | None = None,
) -> None:
    """Sets an item's frame by numbers; a picture keeps its scale and is cropped by the frame.

    `density_ppi` scales the picture inside its frame.

    Raises:
        Refused: a frame or a density that cannot be.
    """
    try:
        if item.kind != PICTURE:
            with recorded(session, job, f"Size {name_of(item)}"):
                write_box(item, frame)
            return
        before = placement_of(item)
        placement = with_frame_size(before, frame.width, frame.height)
        placement = replace(placement, frame=frame)
        if density_ppi is not None and before.density is not None:
            now = before.density
            # The figure given is the deciding one; an uneven scale keeps its unevenness.
            by = min(now.x, now.y) / density_ppi if density_ppi > 0 else 0.0
            if by <= 0:
                raise ValueOutOfRange(f"a density must be above 0 ppi, not {density_ppi:g}")
            placement = scaled_by(placement, by, by, GivesWay.CROP)
        if rotation_deg is not None:
            placement = replace(placement, rotation_deg=rotation_deg % 360)
    except ValueOutOfRange as error:
        raise Refused(sentence_of(error)) from None
    with recorded(session, job, f"Set figures of {name_of(item)}"):
        write_placement(item, placement)


def fit_picture(session: Session, job: Job, item: Item, fit: Fit) -> None:
    """Lays a picture into its frame anew."""
    placement = placement_of(item)
    content = fitted(placement.source, placement.frame, fit)
    kept = replace(content, flip_h=placement.content.flip_h, flip_v=placement.content.flip_v)
    with recorded(session, job, f"Fit {name_of(item)}"):
        write_placement(item, replace(placement, content=kept))


def scale_to_reach(session: Session, job: Job, items: Sequence[Item], gives_way: GivesWay) -> None:
    """Brings pictures to the largest size that still meets the target, as one edit."""
    target = target_of(job)
    _rescale(
        session,
        job,
        items,
        f"Scale to reach at {ppi_text(target.density_ppi)} ppi",
        lambda placement: scaled_to_reach(placement, target, gives_way),
    )


def scale_to_native(session: Session, job: Job, items: Sequence[Item], gives_way: GivesWay) -> None:
    """Brings pictures to their native size, as one edit."""
    _rescale(
        session,
        job,
        items,
        "Scale to native",
        lambda placement: scaled_to_native(placement, gives_way),
    )


def even_out(
    session: Session, job: Job, items: Sequence[Item], by: EvenBy, gives_way: GivesWay
) -> None:
    """Gives both axes of unevenly scaled pictures one scale, as one edit."""
    _rescale(
        session, job, items, "Even out", lambda placement: evened_out(placement, by, gives_way)
    )


def _rescale(
    session: Session,
    job: Job,
    items: Sequence[Item],
    label: str,
    change: Callable[[Placement], Placement],
) -> None:
    pictures = [item for item in items if item.kind == PICTURE]
    if not pictures:
        raise Refused("Choose a picture first.")
    what = name_of(pictures[0]) if len(pictures) == 1 else counted(len(pictures), "picture")
    try:
        changed = [(item, change(placement_of(item))) for item in pictures]
    except ValueOutOfRange as error:
        raise Refused(f"Nothing was scaled: {error}.") from None
    with recorded(session, job, f"{label}: {what}"):
        for item, placement in changed:
            write_placement(item, placement)


def relink(session: Session, job: Job, item: Item, picture: Picture) -> None:
    """Puts another picture file behind a placement; the frame and the drawn size stay."""
    before = placement_of(item)
    width, height = before.drawn_size_pt
    source = source_of(picture)
    content = replace(before.content, scale_x=width / source.px_w, scale_y=height / source.px_h)
    with recorded(session, job, f"Relink {name_of(item)}"):
        item.picture_id = picture.id
        item.picture = picture
        write_placement(item, replace(before, source=source, content=content))


def place_copy(session: Session, job: Job, item: Item, copy: Picture) -> None:
    """Puts a print copy in place of its original: at exactly 100 %, over what was visible."""
    placement = with_copy(placement_of(item), source_of(copy))
    with recorded(session, job, f"Print copy of {name_of(item)}"):
        item.picture_id = copy.id
        item.picture = copy
        write_placement(item, placement)


def remove_items(session: Session, job: Job, items: Sequence[Item]) -> None:
    """Takes items off their pages; pictures stay on their shelves."""
    what = name_of(items[0]) if len(items) == 1 else counted(len(items), "item")
    with recorded(session, job, f"Remove {what}"):
        for item in items:
            session.delete(item)
    for page in job.pages:
        session.expire(page, ["items"])
