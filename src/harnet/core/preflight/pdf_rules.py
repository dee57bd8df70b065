"""Rules on a PDF made elsewhere, as a whole: fonts, boxes, transparency, what could not be read."""

from collections.abc import Sequence

from harnet.core.measure.wording import counted, first_of
from harnet.core.preflight.colour_rules import MADE_OF
from harnet.core.preflight.finding import RuleResult
from harnet.core.preflight.rules import rule
from harnet.core.preflight.subject import CheckedDocument
from harnet.core.targets.severity import Severity

BOXES = "Page boxes"
_MOST_NAMED = 8
RULES_ON_PAINTED = frozenset(
    {
        "density-below-floor",
        "density-below-tolerance",
        "bilevel-below-tolerance",
        "density-above-ceiling",
        "uneven-scale",
        "bleed-not-reached",
        "colour-unfit",
        "profile-missing",
        "palette-picture",
        "transparency-forbidden",
    }
)
"""Of the rules on placed pictures, those that a PDF holds enough for."""


def pages_text(pages: Sequence[int], part: str = "page") -> str:
    """Page numbers as they are said, runs drawn together: "pages 1, 3 to 5"."""
    spans: list[list[int]] = []
    for page in pages:
        if spans and page == spans[-1][-1] + 1:
            spans[-1] = [spans[-1][0], page]
        else:
            spans.append([page, page])
    ranges = [str(first) if first == last else f"{first} to {last}" for first, last in spans]
    return f"{part}{'s' if len(pages) > 1 else ''} {first_of(ranges, _MOST_NAMED)}"


@rule(
    "font-not-embedded",
    "Fonts",
    Severity.BLOCKING,
    "in PDFs: fonts that are not embedded",
    CheckedDocument,
)
def font_not_embedded(checked: CheckedDocument) -> RuleResult | None:
    """Whoever prints it may get other letters."""
    fonts = checked.unembedded_fonts
    if not fonts:
        return None
    return RuleResult(
        f"{counted(len(fonts), 'font is', 'fonts are')} not embedded",
        f"{first_of(fonts, _MOST_NAMED)}: named but not embedded. Another font may be"
        " substituted in print, with different letters and line breaks. Export the PDF again"
        " with its fonts embedded.",
        badness=len(fonts),
    )


@rule(
    "trim-box-missing",
    BOXES,
    Severity.NOTE,
    "in PDFs: pages without a trim box",
    CheckedDocument,
)
def trim_box_missing(checked: CheckedDocument) -> RuleResult | None:
    """Without a trim box the crop box counts (ISO 32000-2, 14.11.2)."""
    pages = checked.pages_without_trim
    if not pages:
        return None
    is_everywhere = len(pages) == checked.pages
    where = pages_text(pages)
    instead = (
        "has no trim box; its crop box is used instead"
        if len(pages) == 1
        else "have no trim box; their crop boxes are used instead"
    )
    return RuleResult(
        "no trim box" if is_everywhere else f"no trim box on {where}",
        f"{where[0].upper()}{where[1:]} {instead}.",
        badness=len(pages),
    )


@rule(
    "bleed-missing",
    BOXES,
    Severity.WARNING,
    "in PDFs: pages whose images meet the edge without bleed",
    CheckedDocument,
)
def bleed_missing(checked: CheckedDocument) -> RuleResult | None:
    """A picture ends at the edge, and so does the page."""
    pages = checked.pages_without_bleed
    if not pages:
        return None
    return RuleResult(
        f"no bleed on {pages_text(pages)}",
        f"On {pages_text(pages)} images meet the edge of the page without bleed. If the cut is"
        " slightly off, white paper will show. Export the PDF again with bleed.",
        badness=len(pages),
    )


@rule(
    "page-transparent",
    MADE_OF,
    Severity.BLOCKING,
    "in PDFs: transparent pages where the target allows none",
    CheckedDocument,
)
def page_transparent(checked: CheckedDocument) -> RuleResult | None:
    """Colours are mixed, and the output allows no transparency."""
    pages = checked.transparent_pages
    if not pages or checked.target.expects.allows_transparency:
        return None
    return RuleResult(
        f"transparency on {pages_text(pages)}",
        f"On {pages_text(pages)} something is transparent or blends with what is below it;"
        f" {checked.target.spoken} allows no transparency. Export the PDF again without"
        " transparency, or choose another target.",
        badness=len(pages),
    )


@rule(
    "content-not-followed",
    "Not read",
    Severity.WARNING,
    "in PDFs: content nested too deeply or too large to be read",
    CheckedDocument,
)
def content_not_followed(checked: CheckedDocument) -> RuleResult | None:
    """Some pictures may be missing from the list."""
    if not checked.left_out and not checked.left_out_of:
        return None
    numbers = [number for number, _ in checked.left_out]
    named = [where for where, _ in checked.left_out_of]
    places = [pages_text(numbers, checked.part)] if numbers else []
    first, what = (*checked.left_out, *checked.left_out_of)[0]
    where = f"{checked.part} {first}" if isinstance(first, int) else first
    advice = (
        " Print the PDF to a new PDF, which flattens its content, and check that."
        if checked.noun == "PDF"
        else f" Save the {checked.noun} again and check that."
    )
    of_it = first_of([*places, *named], _MOST_NAMED)
    return RuleResult(
        f"not everything on {of_it} was read" if numbers else f"not everything in {of_it} was read",
        f"Not read on {where}: {what}. Images in it are not judged.{advice}",
        badness=len(numbers) + len(named),
    )


@rule(
    "pdf-damaged",
    "Not read",
    Severity.WARNING,
    "in PDFs: damage that readers repair on opening",
    CheckedDocument,
)
def pdf_damaged(checked: CheckedDocument) -> RuleResult | None:
    """Each reader mends it in its own way, and some not at all."""
    if not checked.is_damaged:
        return None
    return RuleResult(
        "the PDF is damaged",
        "Its structure had to be rebuilt to read it. Every reader does that differently, and"
        " some refuse. Export the PDF again, or download it again.",
    )
