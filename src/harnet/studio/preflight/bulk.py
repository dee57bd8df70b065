"""Many findings at once: the surest fix of each, shown before it is done, as one edit."""

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from harnet.core.layout.placing import Adjusts, EvenBy
from harnet.core.measure.wording import counted, density_text
from harnet.core.pictures.rights import Rights
from harnet.core.preflight.finding import Fix
from harnet.store.history import recorded
from harnet.store.tables.jobs import Item, Job
from harnet.store.tables.pictures import Picture
from harnet.studio.common.errors import Refused
from harnet.studio.common.studio import Studio
from harnet.studio.layout.links import update_changed
from harnet.studio.layout.matching import Candidate, denser_shots, swap
from harnet.studio.layout.placing import even_out, items_with, remove_items, scale_to_reach
from harnet.studio.pictures.picture import picture_with, set_rights
from harnet.studio.preflight.checking import Listed, accept, findings_in
from harnet.studio.preflight.fixing import (
    cover_frame,
    fit_text_frame,
    pull_to_bleed,
    set_printing_font,
)

_WORDS = {
    Fix.DENSER: "swap for a denser one of the same shot",
    Fix.REACH: "scale to reach, the frame follows",
    Fix.EVEN: "even out by the mean",
    Fix.UPDATE: "read the changed file again",
    Fix.FONT: "set in a font that has all characters",
    Fix.FIT_TEXT: "make the text frame taller",
    Fix.COVER: "enlarge until the frame is covered",
    Fix.BLEED: "extend to the bleed",
    Fix.REMOVE: "remove from the page",
}
"""The fixes that can be done without asking further, the surest first."""


@dataclass(frozen=True, slots=True)
class PlannedFix:
    """What would be done about a finding; no `fix` where somebody has to decide."""

    listed: Listed
    fix: Fix | None
    words: str


def findings_of_group(session: Session, job: Job, group: str) -> list[Listed]:
    """The open findings under a heading, the worst first."""
    return findings_in(session, job, group=group)


def planned_fixes(session: Session, job: Job, findings: Sequence[Listed]) -> list[PlannedFix]:
    """The surest fix of each finding; nothing is changed."""
    items = {item.id: item for item in items_with(session, {one.row.item_id for one in findings})}
    denser = denser_shots(session, job, list(items.values()))
    return [_planned(one, items.get(one.row.item_id), denser) for one in findings]


def _planned(one: Listed, item: Item | None, denser: dict[int, Candidate]) -> PlannedFix:
    offered = [Fix(name) for name in one.row.fixes]
    for fix, words in _WORDS.items():
        if fix not in offered or item is None:
            continue
        if fix is Fix.DENSER:
            found = denser.get(item.id)
            if found is None:
                continue
            density = found.match.figures.density
            then = f", {density_text(density)} ppi" if density else ""
            return PlannedFix(one, fix, f"swap for {found.picture.file_name}{then}")
        return PlannedFix(one, fix, words)
    return PlannedFix(one, None, "needs a decision of yours")


def fix_all(
    studio: Studio, session: Session, job: Job, group: str, keys: Sequence[str]
) -> tuple[int, list[str]]:
    """Does the surest fix of the chosen findings, as one edit.

    `keys` name findings as `key_of` does. Returns how many were fixed, and a sentence for each
    that was not.

    Raises:
        Refused: nothing was chosen, or nothing could be done.
    """
    wanted = set(keys)
    found = [one for one in findings_of_group(session, job, group) if key_of(one) in wanted]
    plan = [one for one in planned_fixes(session, job, found) if one.fix is not None]
    if not plan:
        raise Refused("Choose at least one finding that can be fixed here.")
    done, failures = 0, []
    # Files that are read again are no edit of the job.
    plan.sort(key=lambda one: one.fix is not Fix.UPDATE)
    with recorded(session, job, f"Fix {counted(len(plan), 'finding')}: {group}"):
        for one in plan:
            try:
                _do(studio, session, job, one)
                done += 1
            except Refused as error:
                failures.append(f"{one.listed.row.name}: {error}")
    if not done:
        raise Refused(" ".join(failures))
    return done, failures


def key_of(listed: Listed) -> str:
    """What tells a finding from the others of its job."""
    return f"{listed.row.item_id} {listed.row.rule_id}"


def _do(studio: Studio, session: Session, job: Job, one: PlannedFix) -> None:
    item = next(iter(items_with(session, [one.listed.row.item_id])), None)
    if item is None:
        return
    if one.fix is Fix.DENSER:
        swap(session, job, item, denser_shots(session, job, [item])[item.id].picture)
    elif one.fix is Fix.REACH:
        scale_to_reach(session, job, [item], Adjusts.FRAME)
    elif one.fix is Fix.EVEN:
        even_out(session, job, [item], EvenBy.MEAN, Adjusts.FRAME)
    elif one.fix is Fix.UPDATE:
        update_changed(studio, session, item)
    elif one.fix is Fix.FONT:
        set_printing_font(session, job, item)
    elif one.fix is Fix.FIT_TEXT:
        fit_text_frame(session, job, item)
    elif one.fix is Fix.COVER:
        cover_frame(session, job, item)
    elif one.fix is Fix.BLEED:
        pull_to_bleed(session, job, item)
    else:
        remove_items(session, job, [item])


def accept_all(session: Session, job: Job, group: str, reason: str, name: str) -> int:
    """Accepts every open finding of a group with one reason, as one edit; how many there were.

    Raises:
        Refused: no reason, or nobody's name.
    """
    found = findings_of_group(session, job, group)
    with recorded(session, job, f"Accept {counted(len(found), 'finding')}: {group}"):
        for one in found:
            accept(session, job, one.row.item_id, one.row.rule_id, reason, name)
    return len(found)


def pictures_without_rights(session: Session, findings: Sequence[Listed]) -> list[Picture]:
    """The pictures whose rights findings ask for, each once."""
    asking = [one.row.item_id for one in findings if Fix.RIGHTS.value in one.row.fixes]
    items = items_with(session, asking)
    found = {item.picture.id: item.picture for item in items if item.picture is not None}
    return list(found.values())


def state_rights(session: Session, stated: dict[int, Rights]) -> int:
    """Writes down the rights of pictures, those that are stated; how many there were."""
    known = {number: rights for number, rights in stated.items() if rights.is_stated}
    for number, rights in known.items():
        set_rights(picture_with(session, number), rights)
    return len(known)
