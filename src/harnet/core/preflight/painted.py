"""A PDF and the pictures that it paints, as the preflight rules see them."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from harnet.core.figures import figures_of
from harnet.core.painted import Painted, ReadPage
from harnet.core.picture import Colour, Facts, Kind
from harnet.core.placing import source_from
from harnet.core.preflight.check import check
from harnet.core.preflight.finding import Finding
from harnet.core.preflight.pdf_rules import RULES_ON_PAINTED
from harnet.core.preflight.rules import all_rules, worst_first
from harnet.core.preflight.subject import Around, Checked, CheckedDocument, FileState
from harnet.core.target import Target
from harnet.core.units import Unit
from harnet.core.userspace import placement_from, seen_space

_CHANNELS = {Colour.RGB: 3, Colour.LAB: 3, Colour.CMYK: 4}


def facts_of(picture: Painted) -> Facts:
    """What a PDF says of a picture in it, in the form of a file's facts."""
    colour = Colour(picture.colour)
    is_lossy = "DCTDecode" in picture.filters
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
        icc="embedded" if picture.has_profile else None,
        frames=1,
        size_bytes=0,
    )


def subject_of(picture: Painted, page: ReadPage, target: Target) -> Checked:
    """A painted picture in its page's trim, as the rules on placed pictures take it."""
    space = seen_space(page.cut, page.turn_deg)
    facts = facts_of(picture)
    placement = placement_from(source_from(facts), picture.matrix.then(space.matrix))
    return Checked(
        picture.id,
        picture.page_number,
        picture.name,
        placement,
        figures_of(placement, target),
        FileState.CARRIED,
        Unit.MM,
        facts,
        Around(space.width_pt, space.height_pt, page.bleed_pt),
        target,
    )


def findings_on(
    pictures: Iterable[Painted], pages: Sequence[ReadPage], target: Target
) -> list[Finding]:
    """What the rules find on the pictures that are seen, worst first."""
    subjects = (
        subject_of(picture, pages[picture.page_number - 1], target)
        for picture in pictures
        if not picture.unseen and picture.page_number <= len(pages)
    )
    return check(subjects, [one for one in all_rules() if one.id in RULES_ON_PAINTED])


def document_of(
    name: str, whole: Mapping[str, Any], pages: Sequence[ReadPage], target: Target
) -> CheckedDocument:
    """A PDF as a whole, as the rules on PDFs take it."""
    numbered = list(enumerate(pages, 1))
    return CheckedDocument(
        name,
        target,
        len(pages),
        tuple(whole.get("loose_fonts", ())),
        tuple(number for number, page in numbered if page.trim is None),
        tuple(number for number, page in numbered if page.is_bare),
        tuple(number for number, page in numbered if page.is_transparent),
        tuple((number, page.left_out) for number, page in numbered if page.left_out),
        bool(whole.get("is_damaged")),
    )


def all_findings(
    document: CheckedDocument, pictures: Iterable[Painted], pages: Sequence[ReadPage]
) -> list[Finding]:
    """What is found on a PDF as a whole and on its pictures, worst first."""
    on_pictures = findings_on(pictures, pages, document.target)
    return worst_first([*check([document]), *on_pictures])
