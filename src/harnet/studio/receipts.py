"""Receipts: what was promised of an output, and what an independent reader found in it."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from harnet.core.resampling import page_px
from harnet.media.pageimage import FoundImageFile
from harnet.media.pageplan import PagePlan
from harnet.media.pdf.readback import FoundPdf
from harnet.media.pdf.write import Promise

_SAME_WITHIN = 0.001
"""PDF numbers are written to eight decimals; a thousandth is far below what any eye tells."""


@dataclass(frozen=True, slots=True)
class _Pair:
    """A promised and a found figure."""

    promised: float
    found: float | None

    @property
    def is_kept(self) -> bool:
        return self.found is not None and abs(self.found / self.promised - 1) <= _SAME_WITHIN


def pdf_receipt(plans: list[PagePlan], promises: list[Promise], found: FoundPdf) -> dict[str, Any]:
    """Promised and found, picture by picture; a missing picture is a promise not kept."""
    remaining = list(found.images)
    rows = []
    for promise in promises:
        if promise.density is None:
            row = _receipt_row(promise, promise.how.startswith("stays"))
        else:
            image = remaining.pop(0) if remaining else None
            x = _Pair(promise.density.x, image.density.x if image else None)
            y = _Pair(promise.density.y, image.density.y if image else None)
            is_same = image is not None and (image.page_number, image.px_w, image.px_h) == (
                promise.page_number,
                promise.px_w,
                promise.px_h,
            )
            row = _receipt_row(promise, is_same and x.is_kept and y.is_kept, x, y)
        rows.append(row)
    promised_sizes = [(plan.width_pt, plan.height_pt) for plan in plans]
    sizes_kept = len(promised_sizes) == len(found.page_sizes_pt) and all(
        abs(one - other) < 0.01
        for promised, seen in zip(promised_sizes, found.page_sizes_pt, strict=False)
        for one, other in zip(promised, seen, strict=True)
    )
    return {
        "rows": rows,
        "pages_promised": len(plans),
        "pages_found": len(found.page_sizes_pt),
        "sizes_kept": sizes_kept,
        "unexpected": len(remaining),
        "is_kept": sizes_kept and not remaining and all(row["is_kept"] for row in rows),
    }


def image_receipt(
    plan: PagePlan, density_ppi: float, promises: list[Promise], found: FoundImageFile
) -> dict[str, Any]:
    """Promised and found pixels and density tag, and what each picture leaves at.

    A picture leaves at its own effective ppi, or at the page image's where that is lower.
    """
    px_w, px_h = page_px(plan.width_pt, plan.height_pt, density_ppi)
    tag = [_Pair(density_ppi, found.density_x), _Pair(density_ppi, found.density_y)]
    tag_kept = all(pair.is_kept for pair in tag)
    rows = []
    for promise in promises:
        if promise.density is None:
            rows.append(_receipt_row(promise, promise.how.startswith("stays")))
            continue
        found_tag = tag[0].found or 0.0
        x = _Pair(min(promise.density.x, density_ppi), min(promise.density.x, found_tag))
        y = _Pair(min(promise.density.y, density_ppi), min(promise.density.y, found_tag))
        rows.append(_receipt_row(promise, x.is_kept and y.is_kept, x, y))
    size_kept = (found.px_w, found.px_h) == (px_w, px_h)
    return {
        "rows": rows,
        "px_promised": [px_w, px_h],
        "px_found": [found.px_w, found.px_h],
        "density_promised": density_ppi,
        "density_found": found.density_x,
        "sizes_kept": size_kept,
        "is_kept": size_kept and tag_kept and all(row["is_kept"] for row in rows),
    }


def images_receipt(
    made: Sequence[tuple[PagePlan, float, list[Promise], FoundImageFile]],
) -> dict[str, Any]:
    """Promised and found, page image by page image, and for every picture on them."""
    each = [image_receipt(plan, ppi, promises, found) for plan, ppi, promises, found in made]
    images = [
        {"page": plan.number, **{name: text for name, text in one.items() if name != "rows"}}
        for (plan, *_), one in zip(made, each, strict=True)
    ]
    return {
        "rows": [row for one in each for row in one["rows"]],
        "images": images,
        "is_kept": all(one["is_kept"] for one in each),
    }


def _receipt_row(
    promise: Promise, is_kept: bool, x: _Pair | None = None, y: _Pair | None = None
) -> dict[str, Any]:
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
