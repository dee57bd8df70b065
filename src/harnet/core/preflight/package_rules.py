"""Rules on slide decks, texts, books and SVG: shrunk on saving, what travels along, links."""

from harnet.core.documents.document import LeftoverKind
from harnet.core.documents.saving import loses_pixels, saving_sentences
from harnet.core.measure.wording import bytes_text, counted, first_of, share_text
from harnet.core.preflight.finding import RuleResult
from harnet.core.preflight.rules import rule
from harnet.core.preflight.subject import CheckedDocument, CheckedImage
from harnet.core.targets.severity import Severity

SAVING, TRAVELS = "Saving", "Travels along"
_MOST_NAMED = 6
RULES_ON_PACKED = frozenset(
    {
        "density-below-floor",
        "density-below-tolerance",
        "bilevel-below-tolerance",
        "density-above-ceiling",
        "uneven-scale",
        "colour-unfit",
        "profile-missing",
        "palette-picture",
        "lossy-quality",
        "cropped-parts-kept",
    }
)
"""Of the rules on placed pictures, those that a slide deck, a text or a book holds enough for."""


@rule(
    "shrunk-on-saving",
    SAVING,
    Severity.WARNING,
    "in slide decks and texts: pictures that were shrunk when the file was saved",
    CheckedDocument,
)
def shrunk_on_saving(checked: CheckedDocument) -> RuleResult | None:
    """Most pictures stand at exactly one of the usual densities (formula 15)."""
    shrunk = checked.shrunk
    if shrunk is None:
        return None
    noun = {"slide deck": "deck", "text document": "document"}.get(checked.noun, checked.noun)
    many = counted(len(checked.denser), "picture still has", "pictures still have")
    still = f" {many} more: {first_of(checked.denser, _MOST_NAMED)}." if checked.denser else ""
    return RuleResult(
        f"shrunk to {shrunk.ppi} ppi on saving",
        f"{shrunk.at_it} of {counted(shrunk.pictures, 'picture')} stand at exactly"
        f" {shrunk.ppi} ppi: this file was shrunk on saving. Ask for the {noun} before that,"
        f" or the originals.{still}",
        badness=shrunk.at_it,
    )


@rule(
    "shrinks-on-saving",
    SAVING,
    Severity.NOTE,
    "in slide decks and texts: settings that shrink pictures when the file is saved",
    CheckedDocument,
)
def shrinks_on_saving(checked: CheckedDocument) -> RuleResult | None:
    """What the settings in the file say, where they say that pixels are lost."""
    saving = checked.saving
    if not loses_pixels(saving) and not saving.marked_ppi:
        return None
    headline = "saving this file loses pixels" if loses_pixels(saving) else "marked as shrunk"
    advice = " Switch that off before pictures are placed." if loses_pixels(saving) else ""
    return RuleResult(headline, " ".join(saving_sentences(saving)) + advice)


@rule(
    "cropped-parts-kept",
    TRAVELS,
    Severity.WARNING,
    "in slide decks and texts: cropped-off parts that are still in the file",
    CheckedImage,
)
def cropped_parts_kept(checked: CheckedImage) -> RuleResult | None:
    """Whoever gets the file can bring the cropped-off part back."""
    if not checked.cropped_share:
        return None
    share = share_text(checked.cropped_share)
    return RuleResult(
        f"{share} cropped off, still in the file",
        f"{share} of this picture is cropped off and still travels with the file, about"
        f" {bytes_text(checked.cropped_bytes)}. Whoever gets the file can bring it back. An"
        " improved copy can cut it away for good.",
        badness=checked.cropped_share,
    )


@rule(
    "pictures-not-shown",
    TRAVELS,
    Severity.WARNING,
    "in slide decks, texts and books: pictures in the file that are shown nowhere",
    CheckedDocument,
)
def pictures_not_shown(checked: CheckedDocument) -> RuleResult | None:
    """They are sent along, and anybody can take them out."""
    if not checked.leftovers:
        return None
    size = bytes_text(sum(one.size_bytes for one in checked.leftovers))
    names = first_of([one.part for one in checked.leftovers], _MOST_NAMED)
    edited = sum(one.kind is LeftoverKind.EDITED for one in checked.leftovers)
    kept = (
        f" {counted(edited, 'of them is', 'of them are')} kept so that an effect can be undone."
        if edited
        else ""
    )
    many = counted(len(checked.leftovers), "picture")
    verb = "is" if len(checked.leftovers) == 1 else "are"
    return RuleResult(
        f"{many} in the file, shown nowhere",
        f"{many}, {size}, {verb} in the file and shown nowhere: {names}.{kept} Whoever gets the"
        " file can take them out.",
        badness=len(checked.leftovers),
    )


@rule(
    "pictures-repeated",
    TRAVELS,
    Severity.NOTE,
    "in slide decks, texts and books: pictures that the file holds more than once",
    CheckedDocument,
)
def pictures_repeated(checked: CheckedDocument) -> RuleResult | None:
    """The same bytes again only make the file larger."""
    if not checked.repeated:
        return None
    spare = sum(one.spare_bytes for one in checked.repeated)
    many = counted(len(checked.repeated), "picture is", "pictures are")
    names = first_of([" and ".join(one.parts[:2]) for one in checked.repeated], _MOST_NAMED)
    return RuleResult(
        f"{many} in the file more than once",
        f"{many} in the file more than once, with the same bytes: {names}. The repeats take"
        f" {bytes_text(spare)}.",
        badness=spare,
    )


@rule(
    "pictures-linked",
    "Links",
    Severity.WARNING,
    "in slide decks, texts, books and SVG: pictures that are linked and not in the file",
    CheckedDocument,
)
def pictures_linked(checked: CheckedDocument) -> RuleResult | None:
    """Whoever opens the file elsewhere sees an empty frame, and nobody can judge them."""
    if not checked.links:
        return None
    many = counted(len(checked.links), "picture is", "pictures are")
    return RuleResult(
        f"{many} linked, not in the file",
        f"{many} linked and not in the file, so that they are not judged:"
        f" {first_of(checked.links, _MOST_NAMED)}. Harnet never fetches them. Ask for the files,"
        " or for the document with its pictures embedded.",
        badness=len(checked.links),
    )
