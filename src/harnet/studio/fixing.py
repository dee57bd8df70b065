"""Fixes that preflight offers on the spot: text frames as tall as their text, pictures to bleed."""

from dataclasses import replace

from sqlalchemy.orm import Session

from harnet.core.geometry import Box
from harnet.core.pagefit import Side, seen_corners, sides_without_bleed
from harnet.core.placing import Fit, Placement, fitted
from harnet.media.textlines import TextStyle, height_needed, lines_of
from harnet.store.history import recorded
from harnet.store.models import Item, Job
from harnet.studio.errors import Refused
from harnet.studio.placed import TEXT, frame_of, placement_of, write_box, write_placement
from harnet.studio.placing import name_of
from harnet.studio.subjects import spine_of

_HAIR_PT = 0.1


def fit_text_frame(session: Session, job: Job, item: Item) -> None:
    """Makes a text frame tall enough for all its lines; its top stays, as one edit.

    Raises:
        Refused: it is no text, or a word is wider than its frame.
    """
    if item.kind != TEXT:
        raise Refused("This is no text frame.")
    style, frame = TextStyle(**item.style), frame_of(item)
    lines = lines_of(item.text or "", style, frame.width)
    if any(line.x_pt < -_HAIR_PT for line in lines):
        raise Refused("A word is wider than its frame; make the frame wider or the type smaller.")
    height = height_needed(lines, style) + _HAIR_PT
    if height <= frame.height:
        raise Refused("All of the text fits already.")
    with recorded(session, job, "Fit a text frame to its text"):
        write_box(item, Box(frame.x, frame.y, frame.width, height))


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
        raise Refused(f"{name_of(item)} meets no edge without reaching its bleed.")
    if placement.rotation_deg % 360:
        raise Refused(f"{name_of(item)} is turned; pull it out by hand on its page.")
    after = _pulled(placement, short, page.width_pt, page.height_pt, job.bleed_pt)
    with recorded(session, job, f"Pull {name_of(item)} to the bleed"):
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
