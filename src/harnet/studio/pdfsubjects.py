"""A PDF and the pictures that it paints, as the preflight rules see them."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from harnet.core.figures import figures_of
from harnet.core.geometry import Matrix
from harnet.core.picture import Colour, Facts, Kind
from harnet.core.placing import source_from
from harnet.core.preflight.check import check
from harnet.core.preflight.finding import Finding
from harnet.core.preflight.pdf_rules import RULES_ON_PAINTED
from harnet.core.preflight.rules import all_rules, worst_first
from harnet.core.preflight.subject import Around, Checked, CheckedDocument, FileState
from harnet.core.target import Target
from harnet.core.units import Unit
from harnet.core.userspace import bleed_between, placement_from, seen_space
from harnet.core.wording import px_text, size_text
from harnet.store.pdfmodels import PaintedPicture

PageValues = Mapping[str, Any]
"""A page of a checked PDF, as `CheckedPdf.pages` holds it."""
_CHANNELS = {Colour.RGB: 3, Colour.LAB: 3, Colour.CMYK: 4}


def name_of_painted(picture: PaintedPicture) -> str:
    """By what a picture without a file name is spoken of."""
    return f"{px_text(picture.px_w, picture.px_h)} px"


def size_of_painted(picture: PaintedPicture) -> str:
    """How large it is on its page, along its own edges, as it is said."""
    matrix = Matrix(*picture.matrix)
    return size_text(matrix.u_length, matrix.v_length, Unit.MM, digits=1)


def facts_of_painted(picture: PaintedPicture) -> Facts:
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


def subject_of(picture: PaintedPicture, page: PageValues, target: Target) -> Checked:
    """A painted picture in its page's trim, as the rules on placed pictures take it."""
    space = seen_space(page["trim"] or page["box"], page["turn"])
    facts = facts_of_painted(picture)
    matrix = Matrix(*picture.matrix).then(space.matrix)
    placement = placement_from(source_from(facts), matrix)
    return Checked(
        picture.id,
        picture.page_number,
        name_of_painted(picture),
        placement,
        figures_of(placement, target),
        FileState.CARRIED,
        Unit.MM,
        facts,
        Around(space.width_pt, space.height_pt, bleed_of(page)),
        target,
    )


def bleed_of(page: PageValues) -> float:
    """How far a page reaches beyond its trim, in points."""
    return bleed_between(page["trim"] or page["box"], page["bleed"] or page["box"])


def findings_on(
    pictures: Iterable[PaintedPicture], pages: Sequence[PageValues], target: Target
) -> list[Finding]:
    """What the rules find on the pictures that are seen, worst first."""
    subjects = (
        subject_of(picture, pages[picture.page_number - 1], target)
        for picture in pictures
        if not picture.unseen and picture.page_number <= len(pages)
    )
    return check(subjects, [one for one in all_rules() if one.id in RULES_ON_PAINTED])


def document_of(
    name: str, whole: Mapping[str, Any], pages: Sequence[PageValues], target: Target
) -> CheckedDocument:
    """A PDF as a whole, as the rules on PDFs take it."""
    numbered = list(enumerate(pages, 1))
    return CheckedDocument(
        name,
        target,
        len(pages),
        tuple(whole.get("loose_fonts", ())),
        tuple(number for number, page in numbered if page["trim"] is None),
        tuple(number for number, page in numbered if page.get("is_bare")),
        tuple(number for number, page in numbered if page["is_transparent"]),
        tuple((number, page["left_out"]) for number, page in numbered if page["left_out"]),
    )


def all_findings(
    document: CheckedDocument, pictures: Iterable[PaintedPicture], pages: Sequence[PageValues]
) -> list[Finding]:
    """What is found on a PDF as a whole and on its pictures, worst first."""
    on_pictures = findings_on(pictures, pages, document.target)
    return worst_first([*check([document]), *on_pictures])
