"""A PDF and the images in it, as the preflight rules see them."""

from collections.abc import Iterable

from harnet.core.documents.images import DocumentFacts, ImageOnPage
from harnet.core.documents.userspace import placement_from, seen_space
from harnet.core.layout.figures import figures_of
from harnet.core.layout.placing import source_from
from harnet.core.measure.units import Unit
from harnet.core.pictures.picture import Colour, Facts, Kind
from harnet.core.preflight.check import check
from harnet.core.preflight.finding import Finding
from harnet.core.preflight.pdf_rules import RULES_ON_PAINTED
from harnet.core.preflight.rules import all_rules, worst_first
from harnet.core.preflight.subject import Around, Checked, CheckedDocument, FileState
from harnet.core.targets.target import Target

_CHANNELS = {Colour.RGB: 3, Colour.LAB: 3, Colour.CMYK: 4}


def facts_of(picture: ImageOnPage, intent: str = "") -> Facts:
    """What a PDF says of a picture in it, in the form of a file's facts.

    The output intent is the profile of what has none of its own in the same colour model
    (ISO 32000-2, 14.11.5).
    """
    colour = Colour(picture.colour)
    is_lossy = "DCTDecode" in picture.filters
    profile = "embedded" if picture.has_profile else "output intent"
    return Facts(
        kind=Kind.RASTER,
        format="pdf",
        px_w=picture.px_w,
        px_h=picture.px_h,
        density_x=None,
        density_y=None,
        colour=colour,
        bits=picture.bits,
        channels=_CHANNELS.get(colour, 1),
        alpha=picture.has_alpha,
        lossy=is_lossy,
        icc=profile if picture.has_profile or picture.colour == intent else None,
        frames=1,
        size_bytes=0,
    )


def subject_of(
    picture: ImageOnPage, read: DocumentFacts, target: Target, unit: Unit = Unit.MM
) -> Checked:
    """A painted picture in its page's trim, as the rules on placed pictures take it.

    Findings speak of lengths in `unit`.
    """
    page = read.pages[picture.page_number - 1]
    space = seen_space(page.cut, page.turn_deg)
    facts = facts_of(picture, read.intent)
    placement = placement_from(source_from(facts), picture.matrix.then(space.matrix))
    return Checked(
        item_id=picture.id,
        page_number=picture.page_number,
        name=picture.name,
        placement=placement,
        figures=figures_of(placement, target),
        file_state=FileState.CARRIED,
        unit=unit,
        facts=facts,
        around=Around(page_w_pt=space.width_pt, page_h_pt=space.height_pt, bleed_pt=page.bleed_pt),
        target=target,
        noun="image",
    )


def findings_on(
    pictures: Iterable[ImageOnPage],
    read: DocumentFacts,
    target: Target,
    unit: Unit = Unit.MM,
) -> list[Finding]:
    """What the rules find on the pictures that are seen, worst first."""
    subjects = (
        subject_of(picture, read, target, unit)
        for picture in pictures
        if not picture.unseen and picture.page_number <= len(read.pages)
    )
    return check(subjects, [one for one in all_rules() if one.id in RULES_ON_PAINTED])


def document_findings(read: DocumentFacts, target: Target) -> list[Finding]:
    """What is found on the PDF as a whole, worst first."""
    numbered = list(enumerate(read.pages, 1))
    document = CheckedDocument(
        name=read.name,
        target=target,
        pages=len(read.pages),
        unembedded_fonts=read.unembedded_fonts,
        pages_without_trim=tuple(number for number, page in numbered if page.trim is None),
        pages_without_bleed=tuple(number for number, page in numbered if page.is_bare),
        transparent_pages=tuple(number for number, page in numbered if page.is_transparent),
        left_out=tuple((number, page.left_out) for number, page in numbered if page.left_out),
        is_damaged=read.is_damaged,
    )
    return check([document])


def all_findings(
    pictures: Iterable[ImageOnPage],
    read: DocumentFacts,
    target: Target,
    unit: Unit = Unit.MM,
) -> list[Finding]:
    """What is found on a PDF as a whole and on its pictures, worst first."""
    return worst_first(
        [*document_findings(read, target), *findings_on(pictures, read, target, unit)]
    )
