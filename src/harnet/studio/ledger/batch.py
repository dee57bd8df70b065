"""Batches on selected placements: what each would become, then all of it as one edit."""

import uuid
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import Enum

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.core.copies.frame_copy import empty_share
from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.figures import Figures, figures_of
from harnet.core.layout.placing import (
    Adjusts,
    EvenBy,
    Placement,
    evened_out,
    scaled_to_figure,
    scaled_to_native,
    scaled_to_reach,
)
from harnet.core.measure.wording import counted, px_text
from harnet.core.preflight.subject import FileState
from harnet.core.targets.target import Target
from harnet.store.history import recorded
from harnet.store.tables.jobs import Item, Job
from harnet.store.tables.pictures import Picture
from harnet.studio.common.errors import Refused
from harnet.studio.common.studio import Studio
from harnet.studio.copies.copies import ask_for_frame_copy, frame_copy_of
from harnet.studio.jobs.jobs import target_of
from harnet.studio.layout.links import LINKED, hold
from harnet.studio.layout.matching import denser_shots, swap
from harnet.studio.layout.placed import file_state_of, placement_of, target_for, write_placement
from harnet.studio.layout.placing import name_of, relink
from harnet.studio.people.access import is_on_seen_shelf
from harnet.studio.pictures.picture import state_of


class BatchAction(Enum):
    """What a batch does."""

    REACH = "reach"
    NATIVE = "native"
    EVEN = "even"
    FIGURE = "figure"
    DENSER = "denser"
    RELINK = "relink"
    CARRY = "carry"
    COPY = "copy"


@dataclass(frozen=True, slots=True)
class Batch:
    """An action with its choices."""

    action: BatchAction
    adjusts: Adjusts = Adjusts.FRAME
    even_by: EvenBy = EvenBy.MEAN
    ppi: float | None = None
    """The density to scale to, where the action wants a figure."""
    leaves_unfilled_out: bool = False
    """Whether placements stay as they are whose frames would not be filled any longer."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Planned:
    """What a batch would do to one placement; `note` says why it would do nothing.

    `after` is the geometry it would have, and `picture` the file that would stand behind it;
    `effect` says what happens where neither changes.
    """

    item: Item
    before: Placement
    before_figures: Figures
    after: Placement | None = None
    after_figures: Figures | None = None
    picture: Picture | None = None
    effect: str = ""
    note: str = ""

    @property
    def does_something(self) -> bool:
        """Whether the placement would change."""
        return not self.note

    @property
    def empties_frame(self) -> bool:
        """Whether a frame that is filled now would be left partly empty."""
        is_changed = self.after is not None and empty_share(self.after) > 0
        return is_changed and empty_share(self.before) == 0


LABELS = {
    BatchAction.REACH: "Scale to reach",
    BatchAction.NATIVE: "Scale to native",
    BatchAction.EVEN: "Even out",
    BatchAction.FIGURE: "Scale to a figure",
    BatchAction.DENSER: "Denser pictures",
    BatchAction.RELINK: "Relink",
    BatchAction.CARRY: "Carry",
    BatchAction.COPY: "Print copies",
}
SCALING = (BatchAction.REACH, BatchAction.NATIVE, BatchAction.EVEN, BatchAction.FIGURE)
_SAME = 1e-9


def _never() -> None:
    """Where nobody can cancel."""


def planned(
    session: Session,
    job: Job,
    items: Sequence[Item],
    batch: Batch,
    look_up: Callable[[], None] = _never,
) -> list[Planned]:
    """What a batch would do to each placement; nothing is written.

    Whatever `look_up`, which is called before each of them, raises ends the planning.

    Raises:
        Refused: a placement cannot be scaled so.
    """
    target = target_of(job)
    pictures = [item for item in items if item.picture is not None]
    if not pictures:
        raise Refused("Select at least one picture in the ledger first.")
    denser = denser_shots(session, job, pictures) if batch.action is BatchAction.DENSER else {}
    found = []
    for item in pictures:
        look_up()
        before = placement_of(item)
        wanted = target_for(item, target)
        start = Planned(item=item, before=before, before_figures=figures_of(before, wanted))
        if batch.action in SCALING:
            found.append(_scaled(start, batch, wanted))
        elif batch.action is BatchAction.DENSER:
            one = denser.get(item.id)
            if one is None:
                found.append(_left(start, "no shelf has a denser picture of this shot"))
            else:
                match = one.match
                found.append(_with(start, match.placement, match.figures, one.picture))
        elif batch.action is BatchAction.RELINK:
            found.append(_relinked(session, start))
        elif batch.action is BatchAction.CARRY:
            found.append(_carried(start))
        else:
            found.append(_copied(job, start))
    return found


def _left(start: Planned, note: str) -> Planned:
    return Planned(
        item=start.item, before=start.before, before_figures=start.before_figures, note=note
    )


def _with(
    start: Planned, after: Placement, figures: Figures, picture: Picture | None = None
) -> Planned:
    return Planned(
        item=start.item,
        before=start.before,
        before_figures=start.before_figures,
        after=after,
        after_figures=figures,
        picture=picture,
    )


def _scaled(start: Planned, batch: Batch, target: Target) -> Planned:
    """`target` is the one that judges the placement.

    Raises:
        Refused: a figure that is not valid.
    """
    before = start.before
    try:
        if batch.action is BatchAction.REACH:
            if not before.source.has_pixels:
                return _left(start, "vector, sharp at any size")
            after = scaled_to_reach(before, target, batch.adjusts)
        elif batch.action is BatchAction.NATIVE:
            after = scaled_to_native(before, batch.adjusts)
        elif batch.action is BatchAction.FIGURE:
            if not before.source.has_pixels:
                return _left(start, "vector, sharp at any size")
            after = scaled_to_figure(before, batch.ppi or target.density_ppi, batch.adjusts)
        else:
            after = evened_out(before, batch.even_by, batch.adjusts)
    except ValueOutOfRange as error:
        raise Refused(f"Nothing was scaled. {name_of(start.item)}: {error}.") from None
    if _is_same(before, after):
        words = {
            BatchAction.EVEN: "already even",
            BatchAction.NATIVE: "already at native size",
            BatchAction.FIGURE: "already at this density",
        }
        return _left(start, words.get(batch.action, "already at reach"))
    planned = _with(start, after, figures_of(after, target))
    if batch.leaves_unfilled_out and planned.empties_frame:
        return _left(start, "its frame would no longer be filled")
    return planned


def _is_same(one: Placement, other: Placement) -> bool:
    return (
        abs(one.content.scale_x / other.content.scale_x - 1) < _SAME
        and abs(one.content.scale_y / other.content.scale_y - 1) < _SAME
    )


def _relinked(session: Session, start: Planned) -> Planned:
    lost = start.item.picture
    assert lost is not None
    if file_state_of(start.item) is not FileState.MISSING:
        return _left(start, "its file is not missing")
    others = select(Picture).where(
        Picture.id != lost.id,
        Picture.shelf_id.is_not(None),
        is_on_seen_shelf(),
        Picture.file_state != FileState.MISSING.value,
    )
    same = session.scalars(others.where(Picture.sha256 == lost.sha256)).first()
    same = same or session.scalars(others.where(Picture.file_name == lost.file_name)).first()
    if same is None:
        return _left(start, "no shelf has a file of this content or name")
    shelf = same.shelf.name if same.shelf else ""
    return Planned(
        item=start.item,
        before=start.before,
        before_figures=start.before_figures,
        picture=same,
        effect=f"relinked to {same.file_name} on {shelf}",
    )


def _carried(start: Planned) -> Planned:
    picture = start.item.picture
    assert picture is not None
    if start.item.holding != LINKED:
        return _left(start, f"{start.item.holding} already")
    state = state_of(picture)
    if state is not FileState.IN_PLACE:
        return _left(start, f"its file is {state.value}")
    return Planned(
        item=start.item,
        before=start.before,
        before_figures=start.before_figures,
        effect="its bytes are kept in the job",
    )


def _copied(job: Job, start: Planned) -> Planned:
    picture = start.item.picture
    assert picture is not None
    if start.item.holding != LINKED or state_of(picture) is not FileState.IN_PLACE:
        return _left(start, "its file is not in place on a shelf")
    try:
        wanted = frame_copy_of(job, start.item)
    except Refused as error:
        return _left(start, str(error).rstrip("."))
    if wanted.is_too_small:
        return _left(start, "its visible part has fewer pixels than the frame needs")
    recipe = wanted.recipe
    if (recipe.px_w, recipe.px_h) == (recipe.crop.width, recipe.crop.height) and (
        recipe.crop.width == picture.facts["px_w"] and recipe.crop.height == picture.facts["px_h"]
    ):
        return _left(start, "it has exactly the pixels its frame needs")
    now = px_text(picture.facts["px_w"], picture.facts["px_h"])
    return Planned(
        item=start.item,
        before=start.before,
        before_figures=start.before_figures,
        effect=f"{now} px become {px_text(recipe.px_w, recipe.px_h)} px, at 100 %",
    )


def carry_out(
    studio: Studio, session: Session, job: Job, items: Sequence[Item], batch: Batch
) -> tuple[int, str]:
    """Does a batch as one edit; returns how many placements changed, and for copies their batch.

    Print copies are asked for; once all of them are made, they are placed as one edit.

    Raises:
        Refused: nothing would change.
    """
    if batch.action is not BatchAction.COPY:
        return apply_batch(studio, session, job, items, batch), ""
    plan = _changing(session, job, items, batch)
    name = uuid.uuid4().hex
    for one in plan:
        ask_for_frame_copy(session, job, one.item).batch = name
    return len(plan), name


def apply_batch(
    studio: Studio,
    session: Session,
    job: Job,
    items: Sequence[Item],
    batch: Batch,
    look_up: Callable[[], None] = _never,
) -> int:
    """Does a batch of any action but print copies as one edit; how many placements changed.

    Whatever `look_up`, which is called for each placement, raises ends it.

    Raises:
        Refused: nothing would change.
    """
    plan = _changing(session, job, items, batch, look_up)
    label = f"{LABELS[batch.action]}: {counted(len(plan), 'picture')}"
    if len(plan) == 1 and plan[0].item.picture is not None:
        label = f"{LABELS[batch.action]}: {plan[0].item.picture.file_name}"
    with recorded(session, job, label):
        for one in plan:
            look_up()
            if batch.action is BatchAction.CARRY:
                hold(studio, one.item)
            elif batch.action is BatchAction.RELINK and one.picture is not None:
                relink(session, job, one.item, one.picture, is_recorded=False)
            elif one.picture is not None:
                swap(session, job, one.item, one.picture, is_recorded=False)
            elif one.after is not None:
                write_placement(one.item, one.after)
    return len(plan)


def _changing(
    session: Session,
    job: Job,
    items: Sequence[Item],
    batch: Batch,
    look_up: Callable[[], None] = _never,
) -> list[Planned]:
    plan = [one for one in planned(session, job, items, batch, look_up) if one.does_something]
    if not plan:
        raise Refused("None of the selected pictures would change; nothing was done.")
    return plan
