"""Fixes that preflight offers on the spot: text frames as tall as their text, pictures to bleed."""

from dataclasses import replace

from sqlalchemy.orm import Session

from harnet.core.copies.frame_copy import empty_share, frame_on_picture
from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.page_edges import Side, seen_corners, sides_without_bleed
from harnet.core.layout.placing import Fit, Placement, fitted
from harnet.core.measure.geometry import Box
from harnet.media.pagedrawing.text_lines import (
    FONT_NAMES,
    TextStyle,
    font_with,
    height_needed,
    lines_of,
    missing_glyphs,
)
from harnet.store.history import recorded
from harnet.store.tables.jobs import Item, Job
from harnet.studio.common.errors import Refused, sentence_of
from harnet.studio.judging.subjects import spine_of
from harnet.studio.layout.placed import TEXT, frame_of, placement_of, write_box, write_placement
from harnet.studio.layout.placing import name_of

_HAIR_PT = 0.1


def fit_text_frame(session: Session, job: Job, item: Item) -> None:
    """Makes a text frame tall enough for all its lines; its top stays, as one edit.

    Raises:
        Refused: it is no text, or a word is wider than its frame.
    """
    if item.kind != TEXT:
        raise Refused("This is not a text frame.")
    style, frame = TextStyle(**item.style), frame_of(item)
    lines = lines_of(item.text or "", style, frame.width)
    if any(line.x_pt < -_HAIR_PT for line in lines):
        raise Refused("A word is wider than its frame; make the frame wider or the type smaller.")
    height = height_needed(lines, style) + _HAIR_PT
    if height <= frame.height:
        raise Refused("All of the text already fits.")
    with recorded(session, job, "Fit a text frame to its text"):
        write_box(item, Box(frame.x, frame.y, frame.width, height))


def set_printing_font(session: Session, job: Job, item: Item) -> None:
    """Sets a text in a font that has all its characters, as one edit.

    Raises:
        Refused: it is no text, nothing is missing, or no font has them all.
    """
    if item.kind != TEXT:
        raise Refused("This is not a text frame.")
    style, text = TextStyle(**item.style), item.text or ""
    if not missing_glyphs(text, style):
        raise Refused("The font already has all characters of this text.")
    font = font_with(text, style)
    if font is None:
        raise Refused("No font has all characters of this text.")
    with recorded(session, job, f"Set a text in {FONT_NAMES[font]}"):
        item.style = {**item.style, "font": font}


def cover_frame(session: Session, job: Job, item: Item) -> None:
    """Enlarges a picture evenly until it covers its frame, as one edit.

    Raises:
        Refused: there is no picture, or it already already covers its frame.
    """
    placement = _unfilled(item)
    content = placement.content
    covering = fitted(placement.source, placement.frame, Fit.COVER)
    covering = replace(covering, flip_h=content.flip_h, flip_v=content.flip_v)
    with recorded(session, job, f"Cover the frame of {name_of(item)}"):
        write_placement(item, replace(placement, content=covering))


def shrink_frame(session: Session, job: Job, item: Item) -> None:
    """Cuts a frame down to what its picture covers, as one edit; the picture stays where it is.

    Raises:
        Refused: there is no picture, it covers its frame, or nothing of it is seen.
    """
    try:
        after = frame_on_picture(_unfilled(item))
    except ValueOutOfRange as error:
        raise Refused(sentence_of(error)) from None
    with recorded(session, job, f"Shrink the frame of {name_of(item)} to its picture"):
        write_placement(item, after)


def _unfilled(item: Item) -> Placement:
    if item.picture is None:
        raise Refused("There is no picture in this frame.")
    placement = placement_of(item)
    if empty_share(placement) == 0:
        raise Refused(f"{name_of(item)} already already covers its frame.")
    return placement


def pull_to_bleed(session: Session, job: Job, item: Item) -> None:
    """Pulls the frame of a picture out to the bleed on every edge it meets, as one edit.

    The picture grows evenly until it fills the frame again, where it did not reach so far.

    Raises:
        Refused: it meets no edge, or is turned, so that its edges are not the page's.
    """
    if item.picture is None:
        raise Refused("There is no picture in this frame.")
    placement = placement_of(item)
    page = item.page
    corners, spine = seen_corners(placement), spine_of(job, page)
    short = sides_without_bleed(corners, page.width_pt, page.height_pt, job.bleed_pt)
    if spine is not None:
        short.pop(spine, None)
    if not short:
        raise Refused(f"{name_of(item)} already reaches the bleed wherever it meets an edge.")
    if placement.rotation_deg % 360:
        raise Refused(f"{name_of(item)} is rotated; extend it by hand on its page.")
    after = _pulled(placement, short, page.width_pt, page.height_pt, job.bleed_pt)
    with recorded(session, job, f"Extend {name_of(item)} to the bleed"):
        write_placement(item, after)


def _pulled(
    placement: Placement, short: dict[Side, float], page_w: float, page_h: float, bleed: float
) -> Placement:
    frame, content = placement.frame, placement.content
    left = -bleed if Side.LEFT in short else frame.x
    top = -bleed if Side.TOP in short else frame.y
    right = page_w + bleed if Side.RIGHT in short else frame.x + frame.width
    bottom = page_h + bleed if Side.BOTTOM in short else frame.y + frame.height
    larger = Box(left, top, right - left, bottom - top)
    kept = replace(
        content,
        offset_x=content.offset_x + frame.x - left,
        offset_y=content.offset_y + frame.y - top,
    )
    after = replace(placement, frame=larger, content=kept)
    width, height = after.drawn_size_pt
    fills = (
        kept.offset_x <= _HAIR_PT
        and kept.offset_y <= _HAIR_PT
        and kept.offset_x + width >= larger.width - _HAIR_PT
        and kept.offset_y + height >= larger.height - _HAIR_PT
    )
    if fills:
        return after
    covering = fitted(placement.source, larger, Fit.COVER)
    return replace(after, content=replace(covering, flip_h=content.flip_h, flip_v=content.flip_v))
