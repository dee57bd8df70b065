"""The receipt of an improved copy as PDF."""

from collections.abc import Mapping
from typing import Any

from harnet.core.documents.comparison import Outcome
from harnet.core.measure.wording import bytes_text, counted, ppi_text, px_text
from harnet.core.pictures.colour_words import colour_text
from harnet.media.pagedrawing.report import Heading, Part, ReportEntry, ReportTable, write_report

_HEADS = ("Where", "Pixels", "ppi", "Bytes", "Colour", "What was done")
_DONE = {"replaced": "replaced by {}", "trimmed": "downsampled", "left": "kept"}
_WIDTHS = (12, 15, 13, 17, 12, 31)


def proof_sentence(receipt: Mapping[str, Any]) -> str:
    """What was done and how it was proven, in a sentence or two."""
    images = receipt["images"]
    changed = sum(one["fate"] != "left" or one.get("is_cut", False) for one in images)
    proof = (
        "The copy was read again, part by part beside the first one, its images by another reader:"
        " nothing differs but the images that were changed and their crops."
        if any(one.get("where") for one in images)
        else "The copy was read back by two other readers and every page drawn before and after:"
        " nothing differs but inside the images that were changed, and those look as before in"
        " colour, place by place, only sharper, but for those named as edited or in another tone."
    )
    return f"{counted(changed, 'image')} changed, {len(images) - changed} left as before. {proof}"


def outcome_text(image: Mapping[str, Any]) -> str:
    """How a replaced image looks beside its original and on the page, in words."""
    if "outcome" not in image:
        return f"similarity {image['similarity']:.2f}"
    words = "the same"
    if image["outcome"] == Outcome.EDITED.value:
        words = "chosen although it was edited"
    elif image["tone"] is not None and image["carries_tone"]:
        words = f"its tone carried over ({image['tone']})"
    elif image["tone"] is not None:
        words = "in the original’s own tone"
    drawn = image.get("drawn_difference")
    if drawn is None:
        return words
    return f"{words}; on the page {drawn:.1f} in the mean, {image['drawn_largest']:.1f} in a place"


def receipt_as_pdf(name: str, receipt: Mapping[str, Any]) -> bytes:
    """The receipt as the bytes of a PDF.

    Args:
        name: The file name of the copy.
        receipt: As docs/schemas/improved-copy.schema.json says.
    """
    parts: list[Part] = [
        Heading(name, f"made of {receipt['file']} for {ppi_text(receipt['target_ppi'])} ppi"),
        ReportEntry("Proven", proof_sentence(receipt)),
    ]
    parts += [ReportEntry("No longer holds", sentence) for sentence in receipt["broken"]]
    parts.append(Heading("Images", "before → after"))
    parts.append(ReportTable(_HEADS, [_row(one) for one in receipt["images"]], _WIDTHS))
    return write_report(f"{name}: receipt", parts)


def _row(one: Mapping[str, Any]) -> tuple[str, ...]:
    pixels, ppi = px_text(one["px_w"], one["px_h"]), ppi_text(one["ppi"])
    size, colour = bytes_text(one["bytes"]), colour_text(one["colour"], one["bits"])
    if one["fate"] == "left":
        return (
            one["where"] or str(one["page"]),
            pixels,
            ppi,
            size,
            colour,
            f"left: {one['reason']}",
        )
    done = "downsampled"
    if one["fate"] == "replaced":
        done = f"replaced by {one['original']}, {outcome_text(one)}"
    return (
        one["where"] or str(one["page"]),
        f"{pixels} → {px_text(one['new_px_w'], one['new_px_h'])}",
        f"{ppi} → {ppi_text(one['new_ppi'])}",
        f"{size} → {bytes_text(one['new_bytes'])}",
        colour,
        f"{done}; {one['how']}",
    )
