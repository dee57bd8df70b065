"""A job's text styles: heading, body, caption and credit, and the frames that follow them."""

from collections.abc import Mapping, Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.geometry import Box
from harnet.core.measure.wording import counted
from harnet.media.pagedrawing.text_lines import FONT_NAMES, TextStyle, height_needed, lines_of
from harnet.store.history import recorded
from harnet.store.tables.jobs import Item, Job, Page
from harnet.studio.common.errors import Refused
from harnet.studio.layout.arranging import top_of
from harnet.studio.layout.placed import PICTURE, TEXT, placement_of, write_box
from harnet.studio.pictures.picture import rights_of

CREDIT = "credit"
TEXT_STYLES = {"heading": "Heading", "body": "Body", "caption": "Caption", CREDIT: "Credit"}
"""The text styles of every job, by key."""
TYPE_FIELDS = ("font", "size_pt", "leading_pt", "space_pt", "colour", "align")
"""What a text style says of a text; its link is the text's own."""
ALIGNS = ("left", "center", "right")
_INK = "#1c2833"
_FIRST: dict[str, dict[str, Any]] = {
    "heading": {"font": "sans-600", "size_pt": 19.0, "leading_pt": 22.0, "space_pt": 4.0},
    "body": {"font": "serif-400", "size_pt": 10.0, "leading_pt": 14.0, "space_pt": 4.0},
    "caption": {"font": "sans-400", "size_pt": 8.0, "leading_pt": 10.5, "space_pt": 2.0},
    CREDIT: {"font": "sans-400", "size_pt": 6.0, "leading_pt": 8.0, "space_pt": 0.0},
}
_CREDIT_GAP_PT = 3.0


def text_styles_of(job: Job) -> dict[str, dict[str, Any]]:
    """The job's text styles by key, each with every field."""
    plain = {"colour": _INK, "align": "left"}
    return {key: plain | _FIRST[key] | dict(job.text_styles.get(key, {})) for key in TEXT_STYLES}


def differs(job: Job, item: Item) -> bool:
    """Whether a text that follows a style was changed since."""
    style = text_styles_of(job).get(item.style.get("named", ""))
    return style is not None and style != _type_of(item)


def _type_of(item: Item) -> dict[str, Any]:
    style = TextStyle(**item.style)
    return {field: getattr(style, field) for field in TYPE_FIELDS}


def apply_text_style(session: Session, job: Job, items: Sequence[Item], key: str) -> None:
    """Has every text among the items follow a style; an empty key lets them go as they are.

    Raises:
        Refused: no such style, or no text among the items.
    """
    texts = [item for item in items if item.kind == TEXT]
    if not texts:
        raise Refused("Select a text frame first.")
    style = _known(job, key) if key else {}
    label = f"Set {TEXT_STYLES[key].lower()}" if key else "Set own style"
    with recorded(session, job, f"{label} on {counted(len(texts), 'text')}"):
        for item in texts:
            item.style = {**item.style, **style, "named": key}


def change_text_style(session: Session, job: Job, key: str, values: Mapping[str, Any]) -> int:
    """Changes a style and every text that follows it, as one edit; tells how many follow.

    What was changed on a text itself stays as it is there.

    Raises:
        Refused: no such style.
        ValueOutOfRange: a figure that no text can have.
    """
    before = _known(job, key)
    after = _checked(before | {name: values[name] for name in TYPE_FIELDS if name in values})
    followers = [item for item in _texts_in(session, job) if item.style.get("named") == key]
    with recorded(session, job, f"Change style {TEXT_STYLES[key].lower()}"):
        job.text_styles = {**job.text_styles, key: after}
        for item in followers:
            own = _type_of(item)
            changed = {name: after[name] for name in TYPE_FIELDS if own[name] == before[name]}
            item.style = {**item.style, **changed}
    return len(followers)


def take_style_from(session: Session, job: Job, item: Item, key: str) -> int:
    """Makes a style what a text is set like; the text follows it from then on.

    Raises:
        Refused: no such style, or no text.
    """
    if item.kind != TEXT:
        raise Refused("Select a text frame first.")
    with recorded(session, job, f"Change style {TEXT_STYLES.get(key, key).lower()}"):
        count = change_text_style(session, job, key, _type_of(item))
        item.style = {**item.style, "named": key}
    return count


def _known(job: Job, key: str) -> dict[str, Any]:
    styles = text_styles_of(job)
    if key not in styles:
        raise Refused(f"“{key}” is not a text style of this job.")
    return styles[key]


def _checked(style: dict[str, Any]) -> dict[str, Any]:
    for name, what, least, most in (
        ("size_pt", "size", 1, 1000),
        ("leading_pt", "leading", 1, 2000),
        ("space_pt", "space after a paragraph", 0, 1000),
    ):
        if not least <= style[name] <= most:
            raise ValueOutOfRange(f"the {what} is {least} to {most} pt, not {style[name]:g}")
    if style["font"] not in FONT_NAMES or style["align"] not in ALIGNS:
        raise ValueOutOfRange("the family or the alignment is none that there is")
    return style


def _texts_in(session: Session, job: Job) -> list[Item]:
    wanted = select(Item).join(Page).where(Page.job_id == job.id, Item.kind == TEXT)
    return list(session.scalars(wanted))


def add_credit_lines(session: Session, job: Job, items: Sequence[Item]) -> list[Item]:
    """A text with the credit line of each picture below its frame, as one edit.

    Raises:
        Refused: no picture is among the items, or one has no credit line.
    """
    pictures = [item for item in items if item.kind == PICTURE and item.picture is not None]
    if not pictures:
        raise Refused("Select a picture first.")
    lines = {item.id: rights_of(item.picture).credit.strip() for item in pictures if item.picture}
    without = [one.picture.file_name for one in pictures if one.picture and not lines[one.id]]
    if without:
        raise Refused(
            f"{without[0]} has no credit line. Enter one under Rights on the picture’s page."
        )
    style = text_styles_of(job)[CREDIT]
    made, tops = [], {page.id: top_of(page) for page in {item.page for item in pictures}}
    with recorded(session, job, f"Add {counted(len(pictures), 'credit line')}"):
        for item in pictures:
            tops[item.page_id] += 1
            text = Item(page_id=item.page_id, kind=TEXT, position=tops[item.page_id])
            text.text, text.style = lines[item.id], {**style, "named": CREDIT}
            text.rotation_deg = 0.0
            write_box(text, _below(item, lines[item.id], TextStyle(**text.style)))
            session.add(text)
            made.append(text)
    for page in {item.page for item in pictures}:
        session.expire(page, ["items"])
    return made


def _below(item: Item, line: str, style: TextStyle) -> Box:
    """The box of a line below a picture's frame, as wide as that is on the page."""
    corners = placement_of(item).corners
    left, right = (fold(x for x, _ in corners) for fold in (min, max))
    bottom = max(y for _, y in corners)
    width = max(right - left, 20.0)
    height = height_needed(lines_of(line, style, width), style)
    return Box(left, bottom + _CREDIT_GAP_PT, width, height)
