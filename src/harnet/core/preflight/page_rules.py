"""Rules on how things lie on their page: bleed, off the page, hidden, empty, text that is cut."""

from collections.abc import Sequence

from harnet.core.copies.frame_copy import empty_share, visible_part
from harnet.core.layout.page_edges import Side, is_off_page, seen_corners, sides_without_bleed
from harnet.core.measure.geometry import Box
from harnet.core.measure.wording import (
    counted,
    exact_length_text,
    first_of,
    length_text,
    px_text,
    share_text,
    size_text,
)
from harnet.core.preflight.finding import Fix, RuleResult
from harnet.core.preflight.rules import picture_rule, rule
from harnet.core.preflight.subject import Checked, CheckedFrame, CheckedText
from harnet.core.targets.severity import Severity

ON_PAGE = "On the page"
_MOST_NAMED = 12


@rule(
    "text-overflow", "Text", Severity.BLOCKING, "text frames whose text does not fit", CheckedText
)
def text_overflow(checked: CheckedText) -> RuleResult | None:
    """Lines of the text lie below its frame."""
    if not checked.lines_lost:
        return None
    lost = counted(checked.lines_lost, "line")
    return RuleResult(
        f"{lost} of {checked.lines} do not fit"
        if checked.lines_lost > 1
        else f"1 line of {checked.lines} does not fit",
        f"The frame of {size_text(checked.frame.width, checked.frame.height, checked.unit)} is too"
        f" small for its text: {lost} of {checked.lines} would fall outside it. Make the frame"
        " taller, the type smaller, or the text shorter.",
        (Fix.FIT_TEXT,),
        checked.lines_lost,
    )


@rule(
    "glyph-missing",
    "Text",
    Severity.BLOCKING,
    "text with characters that its font does not have",
    CheckedText,
)
def glyph_missing(checked: CheckedText) -> RuleResult | None:
    """Characters without a glyph print as empty boxes, or not at all."""
    missing = checked.missing_glyphs
    if not missing:
        return None
    named = first_of([f"“{sign}”" for sign in missing], _MOST_NAMED)
    advice = (
        f"Use {checked.other_font}, which has them all."
        if checked.other_font
        else "No font in Harnet has all of them; write the text with other characters."
    )
    return RuleResult(
        f"{checked.font} has no glyph for {named}",
        f"The text holds {counted(len(missing), 'character')} that {checked.font} does not"
        f" have: {named}. They would print as empty boxes. {advice}",
        (Fix.FONT,) if checked.other_font else (),
        len(missing),
    )


@picture_rule(
    "bleed-not-reached",
    ON_PAGE,
    Severity.WARNING,
    "pictures at the page's edge that do not reach the bleed",
)
def bleed_not_reached(checked: Checked) -> RuleResult | None:
    """Cut a little off, and white paper shows at the edge."""
    around = checked.around
    if around.bleed_pt <= 0:
        return None
    corners = seen_corners(checked.placement)
    short = sides_without_bleed(corners, around.page_w_pt, around.page_h_pt, around.bleed_pt)
    if around.spine is not None:
        short.pop(around.spine, None)
    if around.beside is not None and around.spine is not None:
        short |= _short_beside(corners, around.beside, around.bleed_pt, around.spine)
    if not short:
        return None
    worst_pt = max(short.values())
    sides = " and ".join(side.value for side in short)
    missing = f"{exact_length_text(worst_pt, checked.unit)} {checked.unit.value}"
    bleed = f"{exact_length_text(around.bleed_pt, checked.unit)} {checked.unit.value}"
    return RuleResult(
        f"{missing} short of the bleed, {sides}",
        f"The picture meets the page's edge ({sides}) but ends {missing} short of the {bleed}"
        " bleed. If the cut is slightly off, white paper will show. Extend the picture to the"
        " bleed.",
        (Fix.BLEED,),
        worst_pt,
    )


def _short_beside(
    corners: Sequence[tuple[float, float]], beside: Box, bleed_pt: float, spine: Side
) -> dict[Side, float]:
    """The edges of the page beside that something meets without reaching their bleed."""
    moved = [(x - beside.x, y) for x, y in corners]
    short = sides_without_bleed(moved, beside.width, beside.height, bleed_pt)
    short.pop(Side.RIGHT if spine is Side.LEFT else Side.LEFT, None)
    return short


@picture_rule(
    "crosses-fold", ON_PAGE, Severity.NOTE, "pictures that lie across the fold of a spread"
)
def crosses_fold(checked: Checked) -> RuleResult | None:
    """The picture is printed on two pages, which a binding may set apart."""
    across_pt = checked.around.across_pt
    if across_pt <= 0:
        return None
    length = f"{length_text(across_pt, checked.unit)} {checked.unit.value}"
    return RuleResult(
        f"{length} of it lie on the page beside",
        f"The picture lies across the fold and is printed on both pages, {length} of it on the"
        " page beside. A binding can hide some of the middle or set the halves apart; keep faces"
        " and text away from the fold, and check its density on both pages.",
        (),
        across_pt,
    )


@picture_rule("off-page", ON_PAGE, Severity.WARNING, "pictures that are entirely off their page")
def off_page(checked: Checked) -> RuleResult | None:
    """Nothing of the picture will be printed."""
    around = checked.around
    corners = checked.placement.corners
    if not is_off_page(corners, around.page_w_pt, around.page_h_pt):
        return None
    beside = around.beside
    if beside is not None and not is_off_page(
        [(x - beside.x, y) for x, y in corners], beside.width, beside.height
    ):
        return None
    return RuleResult(
        "is off the page",
        "No part of the picture is on the page, so it will not be printed but still adds file"
        " size. Move it onto the page, or remove it.",
        (Fix.REMOVE,),
    )


HIDDEN_PICTURE = "hidden-picture"


@picture_rule(
    HIDDEN_PICTURE, ON_PAGE, Severity.NOTE, "pictures that are hidden behind something else"
)
def hidden_picture(checked: Checked) -> RuleResult | None:
    """Something opaque lies over all of it."""
    if not checked.around.hidden_by:
        return None
    return RuleResult(
        f"hidden behind {checked.around.hidden_by}",
        f"The whole picture is behind {checked.around.hidden_by}, so none of it is visible."
        " Move it to the front, or remove it.",
        (Fix.REMOVE,),
    )


@picture_rule(
    "frame-shows-nothing",
    ON_PAGE,
    Severity.WARNING,
    "frames whose picture was moved out of them",
)
def frame_shows_nothing(checked: Checked) -> RuleResult | None:
    """The picture lies wholly outside its own frame."""
    if seen_corners(checked.placement):
        return None
    return RuleResult(
        "the frame shows no part of it",
        "The picture was moved out of its frame, so the frame prints empty. Fit it to the"
        " frame again, or remove it.",
        (Fix.REMOVE,),
    )


@picture_rule(
    "frame-not-filled",
    ON_PAGE,
    Severity.WARNING,
    "pictures that leave a part of their frame empty",
)
def frame_not_filled(checked: Checked) -> RuleResult | None:
    """Where the picture ends inside its frame, paper shows."""
    empty = empty_share(checked.placement)
    if empty == 0 or not seen_corners(checked.placement):
        return None
    frame, part = checked.placement.frame, visible_part(checked.placement)
    covered = size_text(part.width_pt, part.height_pt, checked.unit)
    return RuleResult(
        f"leaves {share_text(max(empty, 0.01))} of its frame empty",
        f"The picture covers {covered} of its frame of"
        f" {size_text(frame.width, frame.height, checked.unit)}; the rest prints as blank"
        " paper. Enlarge the picture to cover the frame, or shrink the frame to the picture.",
        (Fix.COVER, Fix.SHRINK),
        empty,
    )


@rule(
    "empty-frame",
    ON_PAGE,
    Severity.WARNING,
    "empty frames",
    CheckedFrame,
)
def empty_frame(checked: CheckedFrame) -> RuleResult | None:
    """The frame has no picture; it is not printed."""
    if checked.asked_for:
        return None
    return RuleResult(
        "has no picture yet",
        f"The frame of {size_text(checked.frame.width, checked.frame.height, checked.unit)}"
        " has no picture and will not be printed. It needs a picture of at least"
        f" {px_text(*checked.needed_px)}"
        " pixels.",
        (Fix.FILL, Fix.REMOVE),
    )


@rule(
    "picture-not-found",
    ON_PAGE,
    Severity.BLOCKING,
    "frames whose picture was not found",
    CheckedFrame,
)
def picture_not_found(checked: CheckedFrame) -> RuleResult | None:
    """A row or a pack named a picture that no shelf had; the frame stayed empty."""
    if not checked.asked_for:
        return None
    return RuleResult(
        "not found on any shelf",
        f"“{checked.asked_for}” belongs here, but no shelf has a usable picture of that name."
        " The frame will not be printed. Add the picture to a shelf and place it here, or"
        f" place another one: it needs {px_text(*checked.needed_px)} pixels.",
        (Fix.FILL, Fix.REMOVE),
    )
