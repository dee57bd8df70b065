"""What whoever is at work may see: what belongs to a group is there for its people alone.

Everything is seen by those who run Harnet, by owners, and where nobody has to sign in.
"""

from typing import Any

from sqlalchemy import ColumnElement, exists, or_, select, true
from sqlalchemy.orm import Session

from harnet.store.acting import actor
from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.people import Group
from harnet.store.tables.pictures import Picture, Shelf
from harnet.studio.common.errors import Refused


def sees(group_id: int | None) -> bool:
    """Whether what belongs to a group, or to everyone, is seen by whoever is at work."""
    groups = actor().groups
    return groups is None or group_id is None or group_id in groups


def is_seen(group: Any) -> ColumnElement[bool]:
    """The same in SQL, of a column that holds groups."""
    groups = actor().groups
    return true() if groups is None else or_(group.is_(None), group.in_(groups))


def is_on_seen_shelf() -> ColumnElement[bool]:
    """Of pictures: those on shelves that are seen."""
    if actor().groups is None:
        return true()
    return Picture.shelf_id.in_(select(Shelf.id).where(is_seen(Shelf.group_id)))


def sees_picture(session: Session, picture: Picture) -> bool:
    """Whether a picture is seen: on its shelf, or because it is placed in a job that is."""
    if sees(picture.shelf.group_id if picture.shelf is not None else None):
        return True
    placed = (
        exists()
        .where(Item.picture_id == picture.id, Item.page_id == Page.id, Page.job_id == Job.id)
        .where(is_seen(Job.group_id))
    )
    return bool(session.scalar(select(placed)))


def own_groups(session: Session) -> list[Group]:
    """The groups that whoever is at work may give things to: their own; for an owner all."""
    return list(session.scalars(select(Group).where(is_seen(Group.id)).order_by(Group.name)))


def group_name(session: Session, group_id: int | None) -> str:
    """The name of a group, empty for everyone."""
    group = session.get(Group, group_id) if group_id is not None else None
    return group.name if group is not None else ""


def group_given(session: Session, group_id: int | None) -> int | None:
    """A group that something is given to, None for everyone.

    Raises:
        Refused: there is none of that number, or not for whoever is at work.
    """
    if group_id is not None and (session.get(Group, group_id) is None or not sees(group_id)):
        raise Refused("You can only give things to groups that you are in.")
    return group_id
