"""Pick by fit: which pictures on the shelves could take a placement's place, same shot first."""

import math
from collections.abc import Iterator, Sequence
from contextlib import closing
from dataclasses import dataclass
from functools import partial
from typing import Any

from sqlalchemy import ColumnElement, Select, cast, func, literal, select
from sqlalchemy.dialects.postgresql import BIT
from sqlalchemy.orm import InstrumentedAttribute, Session

from harnet.core.layout.placing import Fit
from harnet.core.layout.swapping import (
    SAME_SHOT_WITHIN_BITS,
    Match,
    bits_apart,
    filling_of,
    is_same_orientation,
    match_of,
    swapped,
)
from harnet.core.measure.density import headroom, judged_ppi
from harnet.core.measure.units import POINTS_PER_INCH
from harnet.core.measure.wording import counted
from harnet.core.preflight.subject import FileState
from harnet.core.targets.target import Target
from harnet.store.history import recorded
from harnet.store.tables.copies import PrintCopy
from harnet.store.tables.jobs import Item, Job
from harnet.store.tables.pictures import Picture, Shelf
from harnet.studio.common.errors import Refused
from harnet.studio.jobs.jobs import target_of
from harnet.studio.layout.arranging import fill_with
from harnet.studio.layout.placed import FRAME, frame_of, placement_of, target_for, write_placement
from harnet.studio.layout.placing import name_of
from harnet.studio.people.access import is_on_seen_shelf
from harnet.studio.pictures.picture import REMOVED_SHELF, kept_detail_of, source_of

_AT_ONCE = 100
_HAIR_PPI = 1e-6


@dataclass(frozen=True, slots=True)
class Candidate:
    """A picture of a shelf, and what it would be in the placement's frame."""

    picture: Picture
    match: Match


def candidates_for(
    session: Session, job: Job, item: Item, any_orientation: bool = False, most: int = 60
) -> list[Candidate]:
    """Pictures that could take the item's place, `most` of them, best first.

    Pictures that lie where the frame stands, or the other way round, are left out unless
    `any_orientation`; the same shot is always in. Those whose file is gone are left out.

    Drawings are all looked at. Of the others those with most pixels go first, until no picture
    with fewer could be better than what was found.
    """
    target = target_of(job)
    found = same_shots(session, job, item)
    known = {one.picture.id for one in found}
    copies = _copies_of(session, [item.picture_id] if item.picture_id else [])
    for picture in _most_pixels_first(session):
        if picture.pixels is not None and len(found) >= most:
            found = sorted(found, key=partial(_rank_of, item))[:most]
            least = _least_headroom(found, _is_drawn(item))
            if _most_headroom(item, target, picture.pixels) <= least:
                break
        if picture.id not in known and (item.picture_id, picture.id) not in copies:
            found += _candidate(item, picture, target, any_orientation)
    return sorted(found, key=partial(_rank_of, item))[:most]


def _most_pixels_first(session: Session) -> Iterator[Picture]:
    """Drawings, then pictures by their pixels, read piece by piece."""
    wanted = _on_shelves()
    yield from session.scalars(wanted.where(Picture.pixels.is_(None)).order_by(Picture.id))
    order = (Picture.pixels.desc().nulls_last(), Picture.id)
    rasters = wanted.where(Picture.pixels.is_not(None)).order_by(*order)
    with closing(session.scalars(rasters.execution_options(yield_per=_AT_ONCE))) as found:
        yield from found


def _most_headroom(item: Item, target: Target, pixels: int) -> float:
    """More than any picture of so many pixels has in the item's place.

    What covers an area has at most the density of its pixels spread evenly over it.
    """
    wanted = target_for(item, target)
    if item.picture is None:
        frame = frame_of(item)
        area_pt = frame.width * frame.height
    else:
        width, height = placement_of(item).drawn_size_pt
        area_pt = width * height
    ppi = judged_ppi(POINTS_PER_INCH * math.sqrt(pixels / area_pt) + _HAIR_PPI)
    return headroom(ppi, min(wanted.density_ppi, wanted.bilevel_ppi))


def _least_headroom(found: Sequence[Candidate], is_drawn: bool) -> float:
    """What a picture must have to come before the last of those found.

    Nothing comes before the same shot, and every picture before a drawing where that is odd.
    """
    last, own = found[-1], found[-1].match.honest_headroom
    if _is_odd(last, is_drawn):
        return -math.inf
    return math.inf if last.match.is_same_shot or own is None else own


def same_shots(session: Session, job: Job, item: Item) -> list[Candidate]:
    """Pictures of the same shot that could take the item's place, best first.

    Only those are read whose likeness is near enough.
    """
    if item.picture is None or not item.picture.likeness:
        return []
    apart = func.bit_count(_bits(Picture.likeness).op("#")(_bits(literal(item.picture.likeness))))
    near = _on_shelves().where(Picture.likeness != "", apart <= SAME_SHOT_WITHIN_BITS)
    copies = _copies_of(session, [item.picture_id] if item.picture_id else [])
    found = [
        candidate
        for one in session.scalars(near.order_by(Picture.id))
        if (item.picture_id, one.id) not in copies
        for candidate in _candidate(item, one, target_of(job), any_orientation=False)
        if candidate.match.is_same_shot
    ]
    return sorted(found, key=partial(_rank_of, item))


def _bits(likeness: ColumnElement[str] | InstrumentedAttribute[str]) -> ColumnElement[Any]:
    """A hash of 16 hexadecimal digits as 64 bits."""
    return cast(literal("x").concat(likeness), BIT(64))


def is_any_other(session: Session, item: Item) -> bool:
    """Whether any other picture on the shelves could take the item's place at all."""
    if item.picture is None:
        return False
    frame = placement_of(item).frame
    others = _on_shelves().where(Picture.sha256 != item.picture.sha256)
    found = session.scalars(others.order_by(Picture.id).execution_options(yield_per=_AT_ONCE))
    return any(is_same_orientation(source_of(one), frame.width, frame.height) for one in found)


def _candidate(
    item: Item, picture: Picture, target: Target, any_orientation: bool
) -> list[Candidate]:
    """The picture in the item's place; nothing where it is the same one, or lies the other way."""
    source, detail = source_of(picture), kept_detail_of(picture)
    wanted, frame = target_for(item, target), frame_of(item)
    fits = any_orientation or is_same_orientation(source, frame.width, frame.height)
    if item.picture is None:
        match = filling_of(frame, item.rotation_deg or 0.0, source, wanted, detail)
    elif picture.sha256 == item.picture.sha256:
        return []
    else:
        apart = bits_apart(item.picture.likeness, picture.likeness)
        match = match_of(placement_of(item), source, wanted, apart, detail)
    return [Candidate(picture, match)] if fits or match.is_same_shot else []


def empty_frames_from(item: Item) -> list[Item]:
    """An empty frame and those behind it on its page, row by row as one reads."""
    rows: list[list[Item]] = []
    frames = (one for one in item.page.items if one.kind == FRAME)
    for frame in sorted(frames, key=lambda one: one.y_pt):
        # What begins above the middle of a row's first frame stands in that row.
        if rows and frame.y_pt < rows[-1][0].y_pt + rows[-1][0].height_pt / 2:
            rows[-1].append(frame)
        else:
            rows.append([frame])
    order = [frame for row in rows for frame in sorted(row, key=lambda one: one.x_pt)]
    return order[order.index(item) :] if item in order else []


def fill_frames(session: Session, job: Job, item: Item, pictures: Sequence[Picture]) -> int:
    """Puts pictures into an empty frame and those behind it, as one edit; how many were filled.

    Raises:
        Refused: no picture, or more than there are empty frames.
    """
    frames = empty_frames_from(item)
    if not pictures:
        raise Refused("Choose at least one picture.")
    if len(pictures) > len(frames):
        raise Refused(
            f"{counted(len(pictures), 'picture')} chosen, but only"
            f" {counted(len(frames), 'empty frame')} from here on. Nothing was filled."
        )
    label = f"Fill {counted(len(pictures), 'frame')}"
    with recorded(session, job, label):
        for frame, picture in zip(frames, pictures, strict=False):
            fill_with(frame, picture, Fit.COVER)
    return len(pictures)


def _copies_of(session: Session, picture_ids: Sequence[int]) -> set[tuple[int | None, int | None]]:
    """Pictures with the print copies made of them: those never show more than their original."""
    wanted = select(PrintCopy.picture_id, PrintCopy.made_id)
    rows = session.execute(wanted.where(PrintCopy.picture_id.in_(picture_ids)))
    return {(picture_id, made_id) for picture_id, made_id in rows}


def _rank_of(item: Item, one: Candidate) -> tuple[bool, bool, float]:
    """Its place among others, the best first."""
    return (_is_odd(one, _is_drawn(item)), *one.match.rank)


def _is_drawn(item: Item) -> bool:
    """Whether a drawing is what stands there now."""
    picture = item.picture
    return picture is not None and (source_of(picture).is_vector or picture.looks_drawn)


def _is_odd(one: Candidate, is_drawn: bool) -> bool:
    """Whether a drawing would stand in for a photograph; that comes last, however sharp it is."""
    return one.match.placement.source.is_vector and not is_drawn and not one.match.is_same_shot


def _on_shelves() -> Select[Picture]:
    wanted = select(Picture).join(Picture.shelf).where(Picture.failure.is_(None))
    wanted = wanted.where(Shelf.name != REMOVED_SHELF, is_on_seen_shelf())
    return wanted.where(Picture.file_state != FileState.MISSING.value)


def denser_shots(session: Session, job: Job, items: Sequence[Item]) -> dict[int, Candidate]:
    """For each item, by its number, the densest picture of the same shot that beats its own."""
    found = {}
    for item in items:
        if item.picture is None:
            continue
        now = placement_of(item).density
        for one in same_shots(session, job, item):
            density = one.match.figures.density
            if now is not None and (density is None or density.worst > now.worst):
                found[item.id] = one
                break
    return found


def swap(
    session: Session, job: Job, item: Item, picture: Picture, is_recorded: bool = True
) -> None:
    """Puts another picture in a placement's frame; what is seen stays as well as it can.

    Without `is_recorded` it is part of an edit that the caller records.
    """
    if is_recorded:
        with recorded(session, job, f"Swap {name_of(item)} for {picture.file_name}"):
            swap(session, job, item, picture, is_recorded=False)
        return
    after = swapped(placement_of(item), source_of(picture))
    item.picture, item.picture_id, item.holding = picture, picture.id, "linked"
    write_placement(item, after)
