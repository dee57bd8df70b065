"""What reports say of a document as a whole, in their published form."""

from collections.abc import Sequence
from typing import Any

from harnet.core.documents.document import DocumentFacts
from harnet.core.documents.images import ImageKind, ImageOnPage
from harnet.core.documents.places import place_text
from harnet.core.documents.saving import saving_sentences
from harnet.core.documents.shrinking import shrunk_to
from harnet.core.documents.travelling import cropped_parts, travelling_bytes


def document_values(read: DocumentFacts, pictures: Sequence[ImageOnPage]) -> dict[str, Any]:
    """A document: its format, how many parts it has, whether it was shrunk, what travels along.

    Lengths in points, densities in ppi, shares from 0 to 1.
    """
    shrunk = shrunk_to(pictures) if read.format.is_package else None
    saving = read.saving
    return {
        "format": read.format.value,
        f"{read.format.part}s": read.count,
        "shrunk_to_ppi": shrunk.ppi if shrunk else None,
        "shrunk_pictures": shrunk.at_it if shrunk else 0,
        "saving": {
            "shrinks": saving.shrinks,
            "default_ppi": saving.default_ppi,
            "discards_edits": saving.discards_edits,
            "marked_ppi": {str(ppi): count for ppi, count in saving.marked_ppi.items()},
            "in_words": " ".join(saving_sentences(saving)),
        },
        "vectors": [
            _other(one, read) | {"format": one.filters}
            for one in pictures
            if one.kind is ImageKind.VECTOR
        ],
        "linked": [
            _other(one, read) | {"address": one.link}
            for one in pictures
            if one.kind is ImageKind.LINKED
        ],
        "cropped": [
            {
                "page": read.number_of(one.picture.page_number),
                "place": place_text(one.picture, read.page_of(one.picture.page_number)),
                "part": one.picture.part,
                "share": round(one.share, 6),
                "about_bytes": one.about_bytes,
            }
            for one in cropped_parts(pictures)
        ],
        "not_shown": [
            {
                "part": one.part,
                "why": one.kind.value,
                "size_bytes": one.size_bytes,
                "px_w": one.px_w,
                "px_h": one.px_h,
            }
            for one in read.leftovers
        ],
        "repeated": [
            {"parts": list(one.parts), "size_bytes": one.size_bytes} for one in read.repeated
        ],
        "travelling_bytes": travelling_bytes(read, pictures),
    }


def _other(picture: ImageOnPage, read: DocumentFacts) -> dict[str, Any]:
    shown = picture.shown_matrix
    return {
        "page": read.number_of(picture.page_number),
        "place": place_text(picture, read.page_of(picture.page_number)),
        "width_pt": round(shown.u_length, 4),
        "height_pt": round(shown.v_length, 4),
        "unseen": picture.unseen,
        "effects": list(picture.effects),
    }
