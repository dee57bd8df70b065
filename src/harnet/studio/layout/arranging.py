"""Arranging what is on pages: stacking, copies, mirrors, shapes, empty frames, text and lines."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from sqlalchemy import inspect
from sqlalchemy.orm import Session

from harnet.core.layout.hand.gesture import flipped
from harnet.core.layout.hand.straight_line import THICKNESS_PT
from harnet.core.layout.placing import Fit, Placement, fitted
from harnet.core.layout.shape import Shape
from harnet.core.measure.geometry import Box
from harnet.core.measure.wording import counted
from harnet.core.targets.target import Target
from harnet.core.targets.values import target_as_values
from harnet.store.history import recorded
from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.pictures import Picture
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import target_of
from harnet.studio.layout.placed import (
    FRAME,
    LINE,
    PICTURE,
    RECTANGLE,
    TEXT,
    frame_of,
    placement_of,
    target_for,
    target_on,
    write_box,
    write_placement,
)
from harnet.studio.layout.placing import name_of, new_picture_item
from harnet.studio.pictures.picture import facts_of_picture, source_of
from harnet.studio.targets.targets import target_asked

_OFFSET_PT = 14.0
"""How far a duplicate lies from its original, so that it is seen."""
_SMALLEST_PT = THICKNESS_PT
_FIRST_RADIUS_SHARE = 0.1
"""The corners of a frame that becomes rounded, as a share of its shorter side."""
_STYLES: dict[str, dict[str, Any]] = {
    TEXT: {
        "font": "serif-400", "size_pt": 10.0, "leading_pt": 14.0, "colour": "#1c2833",
        "align": "left",
    },
    RECTANGLE: {"fill": "#dbeef0", "stroke": None, "stroke_pt": 1.0},
    LINE: {"stroke": "#1c2833", "stroke_pt": 1.0},
    FRAME: {},
}  # fmt: skip
_NAMES = {TEXT: "text frame", RECTANGLE: "rectangle", LINE: "line", FRAME: "frame"}


def add_item(
    session: Session, job: Job, page: Page, kind: str, box: Box, rotation_deg: float = 0.0
) -> Item:
    """A new empty frame, text frame, rectangle or line.

    Raises:
        Refused: no such kind, or a box too small to hold.
    """
    if kind not in _STYLES:
        raise Refused(f"“{kind}” is not an item that a page can have.")
    if kind == LINE:
        box = replace(box, height=max(box.height, _SMALLEST_PT))
    if min(box.width, box.height) < _SMALLEST_PT:
        raise Refused("That is too small; drag a larger area.")
    with recorded(session, job, f"Add {_NAMES[kind]}"):
        item = Item(
            page_id=page.id, kind=kind, position=top_of(page) + 1, style=dict(_STYLES[kind])
        )
        if kind == TEXT:
            item.text = "Text"
        write_box(item, box)
        item.rotation_deg = rotation_deg
        session.add(item)
    session.expire(page, ["items"])
    return item


def top_of(page: Page) -> int:
    """The highest place in a page's stack."""
    return max((item.position for item in page.items), default=0)


def place_in_frame(
    session: Session, job: Job, page: Page, picture: Picture, frame: Box, fit: Fit
) -> Item:
    """Places a picture in a frame of its own, laid into it, as one edit."""
    with recorded(session, job, f"Place {picture.file_name}"):
        item = new_picture_item(page, picture)
        laid = Placement(
            source=source_of(picture), frame=frame, content=fitted(source_of(picture), frame, fit)
        )
        write_placement(item, laid)
        session.add(item)
    session.expire(page, ["items"])
    return item


def put_into_frame(session: Session, job: Job, item: Item, picture: Picture, fit: Fit) -> None:
    """Puts a picture into a frame, or swaps the one in it: the frame stays."""
    label = "Swap" if item.picture is not None else "Fill frame with"
    with recorded(session, job, f"{label} {picture.file_name}"):
        fill_with(item, picture, fit)


def fill_with(item: Item, picture: Picture, fit: Fit) -> None:
    """Lays a picture into a frame, as part of an edit that the caller records."""
    frame, source = frame_of(item), source_of(picture)
    item.kind, item.holding = PICTURE, "linked"
    item.style = {name: kept for name, kept in item.style.items() if name != "wanted"}
    item.picture, item.picture_id = picture, picture.id
    item.flip_h = item.flip_v = False
    item.scale_x = item.scale_y = 1.0
    placement = placement_of(item)
    write_placement(item, replace(placement, source=source, content=fitted(source, frame, fit)))


def flip(session: Session, job: Job, items: Sequence[Item], across: bool) -> None:
    """Mirrors pictures inside their frames.

    Raises:
        Refused: no picture is among the items.
    """
    pictures = [item for item in items if item.kind == PICTURE]
    if not pictures:
        raise Refused("Select a picture to mirror.")
    with recorded(session, job, f"Mirror {_what(pictures)}"):
        for item in pictures:
            write_placement(item, flipped(placement_of(item), across))


def restack(session: Session, job: Job, items: Sequence[Item], to: str) -> None:
    """Brings items to the front or the back of their pages, in the order they have.

    Raises:
        Refused: neither front nor back.
    """
    if to not in ("front", "back"):
        raise Refused(f"“{to}” is neither front nor back.")
    with recorded(session, job, f"Bring to the {to}: {_what(items)}"):
        for page in {item.page_id: item.page for item in items}.values():
            chosen = [item for item in page.items if item in items]
            rest = [item for item in page.items if item not in items]
            order = [*rest, *chosen] if to == "front" else [*chosen, *rest]
            for place, item in enumerate(order, 1):
                item.position = place
    for page in {item.page_id: item.page for item in items}.values():
        session.expire(page, ["items"])


def copies_on(
    session: Session, job: Job, items: Sequence[Item], page: Page, word: str = "Paste"
) -> list[Item]:
    """Copies items onto a page; on their own page they lie a little aside."""
    made = []
    with recorded(session, job, f"{word} {_what(items)}"):
        place = top_of(page)
        for item in sorted(items, key=lambda one: one.position):
            values = {
                column.key: getattr(item, column.key)
                for column in inspect(Item).column_attrs
                if column.key not in ("id", "version", "page_id", "position")
            }
            place += 1
            copy = Item(**values, page_id=page.id, position=place)
            copy.style = dict(item.style)
            if item.page_id == page.id:
                copy.x_pt, copy.y_pt = item.x_pt + _OFFSET_PT, item.y_pt + _OFFSET_PT
            session.add(copy)
            made.append(copy)
    session.expire(page, ["items"])
    return made


def set_shape(session: Session, job: Job, item: Item, shape: str, radius_pt: float) -> None:
    """Gives a frame another outline; one that becomes rounded begins with corners one can see.

    Raises:
        Refused: no such shape, or a radius below 0.
    """
    try:
        wanted = Shape(shape)
    except ValueError:
        raise Refused(f"“{shape}” is not a shape of a frame.") from None
    if not 0 <= radius_pt < 10_000:
        raise Refused(f"A corner's radius cannot be {radius_pt:g} pt.")
    if wanted is Shape.ROUNDED and item.shape != wanted.value and radius_pt == 0:
        radius_pt = min(item.width_pt, item.height_pt) * _FIRST_RADIUS_SHARE
    with recorded(session, job, f"Shape of {name_of(item)}"):
        item.shape, item.radius_pt = wanted.value, radius_pt


def set_style(
    session: Session, job: Job, item: Item, changes: dict[str, Any], text: str | None
) -> None:
    """Sets a text's words and type, or a shape's colours."""
    with recorded(session, job, f"Set {_NAMES.get(item.kind, item.kind)}"):
        item.style = {**item.style, **changes}
        if text is not None and item.kind == TEXT:
            item.text = text.replace("\r\n", "\n")


def set_target_of(
    session: Session, job: Job, row: Page | Item, key: str, own_ppi: float | None = None
) -> None:
    """Gives a page or a placement a target of its own; an empty key takes it away.

    Raises:
        Refused: no such target, or no sensible figure.
    """
    what = f"page {row.position + 1}" if isinstance(row, Page) else name_of(row)
    if not key:
        with recorded(session, job, f"The job's target for {what}"):
            row.target = None
        return
    target = target_asked(session, key, own_ppi, _target_before(row, job))
    with recorded(session, job, f"Own target for {what}"):
        row.target = target_as_values(target)


def _target_before(row: Page | Item, job: Job) -> Target:
    """The target that a page or a placement is judged by now."""
    return target_on(row, job) if isinstance(row, Page) else target_for(row, target_of(job))


def set_quality(session: Session, job: Job, row: Job | Item, quality: str) -> None:
    """Sets the preview quality of a job or a placement; an empty text leaves it open."""
    what = "the job" if isinstance(row, Job) else name_of(row)
    with recorded(session, job, f"Preview of {what}"):
        row.quality = quality or None


def is_vector_item(item: Item) -> bool:
    """Whether an item is a placed vector picture."""
    return item.picture is not None and facts_of_picture(item.picture).is_vector


def _what(items: Sequence[Item]) -> str:
    return name_of(items[0]) if len(items) == 1 else counted(len(items), "item")
