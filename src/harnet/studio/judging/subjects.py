"""A page's items as the preflight rules see them."""

from collections.abc import Sequence, Set
from dataclasses import replace

from harnet.core.layout.facing import spine_side
from harnet.core.layout.figures import frame_pixels
from harnet.core.layout.page_edges import Region, Side, seen_corners
from harnet.core.layout.shape import Shape
from harnet.core.measure.geometry import turned_about
from harnet.core.measure.units import Unit
from harnet.core.preflight.subject import Around, Checked, CheckedFrame, CheckedText, Subject
from harnet.core.targets.target import Target
from harnet.media.pagedrawing.text_lines import (
    FONT_NAMES,
    TextStyle,
    font_with,
    lines_lost,
    lines_of,
    missing_glyphs,
)
from harnet.store.tables.jobs import Item, Job, Page
from harnet.store.tables.pictures import Picture
from harnet.studio.layout.crossing import box_beside, page_beside, reach_across_pt
from harnet.studio.layout.placed import (
    FRAME,
    PICTURE,
    RECTANGLE,
    TEXT,
    Placed,
    frame_of,
    placed_from,
    target_for,
    unit_of,
)
from harnet.studio.pictures.picture import facts_of_picture, kept_detail_of, rights_of

_LONGEST_NAME = 40


def spoken_unit(job: Job) -> Unit:
    """The unit that findings speak in: pixels say nothing of a size on paper."""
    unit, _ = unit_of(job)
    return Unit.MM if unit is Unit.PX else unit


def text_name(item: Item) -> str:
    """How a text frame is called: by its first words."""
    words = " ".join((item.text or "").split())
    return f"“{words[:_LONGEST_NAME].rstrip()}…”" if len(words) > _LONGEST_NAME else f"“{words}”"


def subjects_on(
    job: Job,
    page: Page,
    items: Sequence[Item],
    target: Target,
    unit: Unit | None = None,
    changed: Set[int] | None = None,
) -> list[tuple[Subject, Placed | None]]:
    """Every item that rules look at, with its figures where it is a picture.

    `items` are those of the page, lowest first; `target` is the job's; `unit` is what findings
    speak in, without one the job's. With `changed`, only those items and what lies at their place:
    no other can hide them, or be hidden by them.
    """
    found: list[tuple[Subject, Placed | None]] = []
    covers: list[tuple[str, Region]] = []
    unit = unit or spoken_unit(job)
    plain = Around(
        page_w_pt=page.width_pt,
        page_h_pt=page.height_pt,
        bleed_pt=job.bleed_pt,
        spine=spine_of(job, page),
    )
    number = page.position + 1
    for item in reversed(items if changed is None else _at_the_place_of(changed, items)):
        around = plain
        if item.kind == PICTURE and item.picture is not None:
            placed = placed_from(item, number, target)
            seen = Region(seen_corners(placed.placement))
            hidden_by = next((name for name, cover in covers if seen.is_covered_by(cover)), "")
            if hidden_by:
                around = replace(around, hidden_by=hidden_by)
            across_pt = reach_across_pt(job, page, placed.placement) if job.is_facing else 0.0
            if across_pt > 0:
                around = _across(job, page, around, across_pt)
            found.append((_checked(placed, item.picture, around, unit, target), placed))
            if _is_opaque(item, item.picture):
                covers.append((item.picture.file_name, seen))
        elif item.kind == TEXT:
            found.append((_text(item, number, unit, around, target), None))
        elif item.kind == FRAME:
            found.append((_frame(item, number, unit, around, target), None))
        elif item.kind == RECTANGLE and item.style.get("fill"):
            covers.append(("a rectangle", _extent(item)))
    return found[::-1]


def _at_the_place_of(changed: Set[int], items: Sequence[Item]) -> list[Item]:
    extents = {item.id: _extent(item) for item in items}
    theirs = [extents[number] for number in changed if number in extents]
    return [item for item in items if any(_meet(extents[item.id], one) for one in theirs)]


def _extent(item: Item) -> Region:
    """All that a frame may show, turned as it is."""
    box = frame_of(item)
    turn = turned_about(item.rotation_deg or 0.0, box.centre)
    return Region([turn.applied(x, y) for x, y in box.corners()])


def _meet(one: Region, other: Region) -> bool:
    left, top, right, bottom = one.extent
    their_left, their_top, their_right, their_bottom = other.extent
    return (
        left <= their_right and their_left <= right and top <= their_bottom and their_top <= bottom
    )


def _across(job: Job, page: Page, around: Around, across_pt: float) -> Around:
    """The same with the page beside, where there is one."""
    beside = page_beside(job, page)
    if beside is None:
        return around
    return replace(around, beside=box_beside(page, beside), across_pt=across_pt)


def spine_of(job: Job, page: Page) -> Side | None:
    """The edge at which a page of a book meets the next; the first page lies on the right."""
    return spine_side(page.position + 1, job.is_facing)


def _is_opaque(item: Item, picture: Picture) -> bool:
    facts = facts_of_picture(picture)
    return not facts.alpha and not facts.is_vector and item.shape == Shape.RECTANGLE.value


def _checked(
    placed: Placed, picture: Picture, around: Around, unit: Unit, target: Target
) -> Checked:
    return Checked(
        item_id=placed.item.id,
        page_number=placed.page_number,
        name=placed.name,
        placement=placed.placement,
        figures=placed.figures,
        file_state=placed.file_state,
        unit=unit,
        facts=facts_of_picture(picture),
        around=around,
        target=target_for(placed.item, target),
        rights=rights_of(picture),
        looks_drawn=picture.looks_drawn,
        detail=kept_detail_of(picture),
    )


def _text(item: Item, number: int, unit: Unit, around: Around, target: Target) -> CheckedText:
    style, frame = TextStyle(**item.style), frame_of(item)
    lines = lines_of(item.text or "", style, frame.width)
    lost = lines_lost(lines, style, frame.height)
    wanted = target_for(item, target)
    missing = missing_glyphs(item.text or "", style)
    other = font_with(item.text or "", style) if missing else None
    return CheckedText(
        item_id=item.id,
        page_number=number,
        name=text_name(item),
        frame=frame,
        lines=len(lines),
        lines_lost=lost,
        unit=unit,
        around=around,
        target=wanted,
        font=FONT_NAMES[style.font],
        missing_glyphs=missing,
        other_font=FONT_NAMES[other] if other else "",
    )


def _frame(item: Item, number: int, unit: Unit, around: Around, target: Target) -> CheckedFrame:
    frame, wanted = frame_of(item), target_for(item, target)
    needed = frame_pixels(frame, wanted.density_ppi)
    wanted_name = str((item.style or {}).get("wanted", ""))
    name = wanted_name or "Empty frame"
    return CheckedFrame(
        item_id=item.id,
        page_number=number,
        name=name,
        frame=frame,
        unit=unit,
        around=around,
        target=wanted,
        needed_px=needed,
        asked_for=wanted_name,
    )
