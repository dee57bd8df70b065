"""Receipts of page images, and what all receipts share: promised and found, side by side."""

from collections.abc import Mapping, Sequence
from typing import Any

from harnet.core.output.page_images import ImageColour
from harnet.core.output.pair import Pair
from harnet.media.pagedrawing.page_image import FoundImageFile
from harnet.media.pagedrawing.plan import PagePlan
from harnet.media.pdf.writing.write import Promise


def image_receipt(
    px: tuple[int, int],
    density_ppi: float,
    promises: Sequence[Promise],
    found: FoundImageFile,
    colour: ImageColour = ImageColour.RGB,
) -> dict[str, Any]:
    """Promised and found pixels and density tag, and each picture's exported density.

    A picture is exported at its own effective ppi, or at the page image's where that is lower.
    `is_kept` speaks of the file; each row of its own picture.
    """
    px_w, px_h = px
    tag = [Pair(density_ppi, found.density_x), Pair(density_ppi, found.density_y)]
    tag_kept = all(pair.is_kept for pair in tag)
    rows = []
    for promise in promises:
        if promise.density is None:
            rows.append(receipt_row(promise, promise.is_vector))
            continue
        found_tag = tag[0].found or 0.0
        x = Pair(min(promise.density.x, density_ppi), min(promise.density.x, found_tag))
        y = Pair(min(promise.density.y, density_ppi), min(promise.density.y, found_tag))
        rows.append(receipt_row(promise, x.is_kept and y.is_kept, x, y))
    size_kept = (found.px_w, found.px_h) == (px_w, px_h)
    colour_kept = found.colour == colour.value.upper() and found.profile is not None
    return {
        "rows": rows,
        "px_promised": [px_w, px_h],
        "px_found": [found.px_w, found.px_h],
        "density_promised": density_ppi,
        "density_found": found.density_x,
        "colour": [colour.value.upper(), found.colour],
        "profile": found.profile,
        "sizes_kept": size_kept,
        "is_kept": size_kept and tag_kept and colour_kept,
    }


def images_receipt(
    made: Sequence[tuple[PagePlan, tuple[int, int], float, list[Promise], FoundImageFile]],
    colour: ImageColour = ImageColour.RGB,
) -> dict[str, Any]:
    """Promised and found, page image by page image, and for every picture on them."""
    each = [image_receipt(px, ppi, promises, found, colour) for _, px, ppi, promises, found in made]
    images = [
        {"page": plan.number, **{name: text for name, text in one.items() if name != "rows"}}
        for (plan, *_), one in zip(made, each, strict=True)
    ]
    return {
        "rows": [row for one in each for row in one["rows"]],
        "images": images,
        "is_kept": all(one["is_kept"] and _are_kept(one["rows"]) for one in each),
    }


def _are_kept(rows: Sequence[Mapping[str, Any]]) -> bool:
    return all(row["is_kept"] for row in rows)


def receipt_row(
    promise: Promise, is_kept: bool, x: Pair | None = None, y: Pair | None = None
) -> dict[str, Any]:
    """A picture's line of a receipt, as JSON can hold it."""
    return {
        "page": promise.page_number,
        "item": promise.item_id,
        "name": promise.name,
        "how": promise.how,
        "px": [promise.px_w, promise.px_h] if promise.px_w else None,
        "promised": [x.promised, y.promised] if x and y else None,
        "found": [x.found, y.found] if x and y and x.found is not None else None,
        "is_kept": is_kept,
    }
