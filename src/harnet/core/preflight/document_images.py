"""A document and the images in it, as the preflight rules see them."""

from collections.abc import Iterable, Sequence

from harnet.core.documents.document import DocumentFacts
from harnet.core.documents.images import ImageKind, ImageOnPage
from harnet.core.documents.places import page_label, where_text
from harnet.core.documents.shrinking import shrunk_to
from harnet.core.documents.travelling import cropped_share
from harnet.core.documents.userspace import placement_from, seen_space
from harnet.core.layout.figures import figures_of
from harnet.core.layout.placing import source_from
from harnet.core.measure.rounding import half_up
from harnet.core.measure.units import Unit
from harnet.core.pictures.picture import Colour, Facts, Kind
from harnet.core.preflight.check import check
from harnet.core.preflight.finding import Finding
from harnet.core.preflight.package_rules import RULES_ON_PACKED
from harnet.core.preflight.pdf_rules import RULES_ON_PAINTED
from harnet.core.preflight.rules import all_rules, worst_first
from harnet.core.preflight.subject import Around, CheckedDocument, CheckedImage, FileState
from harnet.core.targets.target import Target

_CHANNELS = {Colour.RGB: 3, Colour.LAB: 3, Colour.CMYK: 4}


def facts_of(picture: ImageOnPage, intent: str = "") -> Facts:
    """What a document says of a picture in it, in the form of a file's facts.

    The output intent is the profile of what has none of its own in the same colour model
    (ISO 32000-2, 14.11.5).
    """
    colour = Colour(picture.colour)
    is_lossy = "DCTDecode" in picture.filters or picture.filters == "jpeg"
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
        size_bytes=picture.size_bytes,
        jpeg_quality=picture.quality,
    )


def subject_of(
    picture: ImageOnPage, read: DocumentFacts, target: Target, unit: Unit = Unit.MM
) -> CheckedImage:
    """A painted picture in its page's trim, as the rules on placed pictures take it.

    Findings speak of lengths in `unit`.
    """
    page = read.pages[picture.page_number - 1]
    space = seen_space(page.cut, page.turn_deg)
    facts = facts_of(picture, read.intent)
    shown = picture.shown_matrix.then(space.matrix)
    placement = placement_from(source_from(facts), shown, picture.crop)
    cropped = cropped_share(picture)
    return CheckedImage(
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
        cropped_share=cropped,
        cropped_bytes=half_up(picture.size_bytes * cropped),
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
        if picture.is_judged and picture.page_number <= len(read.pages)
    )
    wanted = RULES_ON_PACKED if read.format.is_package else RULES_ON_PAINTED
    return check(subjects, [one for one in all_rules() if one.id in wanted])


def document_findings(
    read: DocumentFacts, target: Target, pictures: Sequence[ImageOnPage] = ()
) -> list[Finding]:
    """What is found on the document as a whole, worst first; `pictures` are all that it paints."""
    if read.format.is_package:
        return check([_packed(read, target, pictures)])
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


def _packed(
    read: DocumentFacts, target: Target, pictures: Sequence[ImageOnPage]
) -> CheckedDocument:
    """Another document than a PDF, as the rules see it."""
    shrunk = shrunk_to(pictures)
    denser = set(shrunk.denser) if shrunk is not None else set()
    places = [(read.number_of(number), page) for number, page in enumerate(read.pages, 1)]
    return CheckedDocument(
        name=read.name,
        target=target,
        pages=read.count,
        noun=read.format.noun,
        part=read.format.part,
        left_out=tuple(
            (number, page.left_out)
            for number, page in places
            if page.left_out and number is not None
        ),
        left_out_of=(
            *(
                (page_label(read, number) or f"the {read.format.noun}", page.left_out)
                for number, page in enumerate(read.pages, 1)
                if page.left_out and read.number_of(number) is None
            ),
            *((f"the {read.format.noun}", note) for note in read.notes),
        ),
        shrunk=shrunk,
        denser=tuple(where_text(read, one) for one in pictures if one.id in denser),
        saving=read.saving,
        links=tuple(one.link for one in pictures if one.kind is ImageKind.LINKED),
        leftovers=read.leftovers,
        repeated=read.repeated,
    )


def all_findings(
    pictures: Iterable[ImageOnPage],
    read: DocumentFacts,
    target: Target,
    unit: Unit = Unit.MM,
    on_pictures: Iterable[Finding] | None = None,
) -> list[Finding]:
    """What is found on a document as a whole and on its pictures, worst first.

    `on_pictures` is what was found on the pictures, where they were looked at before.
    """
    pictures = list(pictures)
    if on_pictures is None:
        on_pictures = findings_on(pictures, read, target, unit)
    return worst_first([*document_findings(read, target, pictures), *on_pictures])
