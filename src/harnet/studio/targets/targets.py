"""The list of targets: those that ship, those of the studio's own, and files of them."""

import re
from dataclasses import replace

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from harnet.core.errors import ValueOutOfRange
from harnet.core.targets.shipped import SHIPPED, shipped
from harnet.core.targets.target import OWN, Target, checked_target, own_target
from harnet.core.targets.values import target_as_values, target_from_values
from harnet.store.history import recorded
from harnet.store.tables.jobs import Job
from harnet.store.tables.targets import TargetRow
from harnet.studio.common.activity import add_detail
from harnet.studio.common.errors import Conflict, NotThere, Refused, sentence_of
from harnet.studio.targets.files import targets_in

DEFAULT_KEY = "coated"


def all_targets(session: Session) -> list[Target]:
    """The shipped targets, some of them perhaps with other figures, then the studio's own."""
    own = {row.key: target_from_values(row.values) for row in session.scalars(select(TargetRow))}
    listed = [own.pop(target.key, target) for target in SHIPPED]
    return listed + sorted(own.values(), key=lambda target: target.name.lower())


def target_with(session: Session, key: str) -> Target:
    """The listed target of that key.

    Raises:
        NotThere: there is none.
    """
    for target in all_targets(session):
        if target.key == key:
            return target
    raise NotThere(f"There is no target named “{key}”.")


def target_asked(
    session: Session, key: str, own_ppi: float | None = None, base: Target | None = None
) -> Target:
    """A listed target by its key, or `own` with a figure in ppi.

    A figure is that of tone pictures; all else is as `base` has it, or coated press.

    Raises:
        Refused: no such target, or no sensible figure.
    """
    try:
        if key != OWN:
            return target_with(session, key)
        if own_ppi is None:
            raise Refused("Give the custom target a figure in ppi.")
        return own_target(own_ppi, base or target_with(session, DEFAULT_KEY))
    except NotThere as error:
        raise Refused(str(error)) from None
    except ValueOutOfRange as error:
        raise Refused(sentence_of(error)) from None


def row_of(session: Session, key: str) -> TargetRow | None:
    """What the studio keeps of a target; None where the shipped figures stand."""
    return session.scalars(select(TargetRow).where(TargetRow.key == key)).first()


def save_target(session: Session, target: Target, version: int | None = None) -> None:
    """Keeps a target under its key; `version` is that of the row it was edited from.

    Raises:
        Refused: figures that are not valid together.
        Conflict: someone edited it in the meantime.
    """
    try:
        checked_target(target)
    except ValueOutOfRange as error:
        raise Refused(f"The target was not saved: {sentence_of(error)}") from None
    row = row_of(session, target.key)
    if row is None:
        session.add(TargetRow(key=target.key, values=target_as_values(target)))
    elif version is not None and row.version != version:
        raise Conflict(
            "Someone else edited this target in the meantime. Reload to see their figures."
        )
    else:
        row.values = target_as_values(target)
    add_detail(session, target.name)
    session.flush()


def copy_target(session: Session, key: str) -> Target:
    """A copy of a target under a name of its own."""
    original = target_with(session, key)
    name = f"{original.name}, copy"[:100]
    copy = replace(original, key=free_key(session, name), name=name)
    save_target(session, copy)
    return copy


def free_key(session: Session, name: str) -> str:
    """A key made of a name, with a number behind it where that is taken."""
    stem = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:34] or "target"
    taken = {target.key for target in all_targets(session)} | {OWN}
    key, number = stem, 1
    while key in taken:
        number += 1
        key = f"{stem}-{number}"
    return key


def drop_target(session: Session, key: str) -> bool:
    """Deletes an own target, or brings a shipped one back to its own figures.

    Returns whether a shipped target stands again. Jobs keep the figures they have.

    Raises:
        Refused: a shipped target as it ships.
    """
    row = row_of(session, key)
    if row is None:
        raise Refused("This target is as it ships with Harnet; there is nothing to restore.")
    add_detail(session, key)
    session.delete(row)
    session.flush()
    return shipped(key) is not None


def jobs_with_target(session: Session, key: str) -> int:
    """How many jobs are judged by the target of that key."""
    wanted = select(func.count()).select_from(Job).where(Job.target["key"].astext == key)
    return session.scalar(wanted) or 0


def take_over(session: Session, target: Target) -> int:
    """Gives every job with this target its figures as they are now, each as an edit of its own."""
    changed = 0
    for job in session.scalars(select(Job).where(Job.target["key"].astext == target.key)):
        values = target_as_values(target)
        if job.target != values:
            with recorded(session, job, f"New figures for {target.name}"):
                job.target = values
            changed += 1
    return changed


def read_targets(session: Session, text: str) -> tuple[list[str], list[str]]:
    """Imports a file of targets; returns the names that are new and those that were replaced.

    Raises:
        Refused: the file is none, or one of its targets is not valid; nothing was imported.
    """
    before = {target.key for target in all_targets(session)}
    new: list[str] = []
    replaced: list[str] = []
    for target in targets_in(text):
        (replaced if target.key in before else new).append(target.name)
        save_target(session, target)
    return new, replaced
