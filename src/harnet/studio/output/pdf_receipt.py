"""The receipt of a PDF: every picture, page, box and font as promised beside as found."""

from collections.abc import Iterable, Sequence
from hashlib import sha256
from typing import Any

from harnet.core.measure.density import EffectiveDensity
from harnet.core.output.pair import Pair
from harnet.media.pagedrawing.plan import PagePlan, TextPart
from harnet.media.pagedrawing.text_lines import font_name
from harnet.media.pdf.writing.boxes import Edges, PageBoxes, boxes_of
from harnet.media.pdf.writing.finish import X4_NAME, Finish, intent_name
from harnet.media.pdf.writing.forms import links_of
from harnet.media.pdf.writing.readback import FoundImage, FoundPage, FoundPdf
from harnet.media.pdf.writing.write import Promise
from harnet.studio.output.receipts import receipt_row

_SAME_WITHIN_PT = 0.01
_NOWHERE: Edges = (0.0, 0.0, 0.0, 0.0)


def pdf_receipt(
    plans: Sequence[PagePlan],
    promises: Sequence[Promise],
    found: FoundPdf,
    title: str,
    finish: Finish,
) -> dict[str, Any]:
    """Promised and found; a missing picture is a promise not kept."""
    remaining, inside = list(found.images), list(found.inner_images)
    rows = [_picture_row(promise, remaining, inside) for promise in promises]
    pages = [
        _page_row(plan, found.pages[index] if index < len(found.pages) else None, finish)
        for index, plan in enumerate(plans)
    ]
    fonts = _font_rows(plans, found.fonts)
    whole = _whole_rows(found, title, finish)
    has_all_pages = len(found.pages) == len(plans)
    sizes_kept = has_all_pages and all(page["is_kept"] for page in pages)
    each = [*rows, *pages, *fonts, *whole]
    return {
        "rows": rows,
        "pages": pages,
        "fonts": fonts,
        "whole": whole,
        "pages_promised": len(plans),
        "pages_found": len(found.pages),
        "sizes_kept": sizes_kept,
        "unexpected": len(remaining),
        "is_kept": sizes_kept and not remaining and all(one["is_kept"] for one in each),
    }


def _picture_row(
    promise: Promise, remaining: list[FoundImage], inside: list[FoundImage]
) -> dict[str, Any]:
    """A picture beside the next image found; images are found in the order they were painted."""
    if promise.is_vector:
        return _vector_row(promise, inside)
    if promise.density is None:
        return receipt_row(promise, False)
    image = remaining.pop(0) if remaining else None
    x = Pair(promise.density.x, image.density.x if image else None)
    y = Pair(promise.density.y, image.density.y if image else None)
    is_same = image is not None and (image.page_number, image.px_w, image.px_h) == (
        promise.page_number,
        promise.px_w,
        promise.px_h,
    )
    return receipt_row(promise, is_same and x.is_kept and y.is_kept, x, y)


def _vector_row(promise: Promise, inside: list[FoundImage]) -> dict[str, Any]:
    """A vector picture with the images inside it: each must be found as dense as promised.

    The figures are those of the least dense.
    """
    worst: tuple[Pair, Pair] | None = None
    is_kept = True
    for px_w, px_h, density in promise.inside:
        place = next(
            (
                index
                for index, one in enumerate(inside)
                if (one.page_number, one.px_w, one.px_h) == (promise.page_number, px_w, px_h)
                and _is_same_density(one.density, density)
            ),
            None,
        )
        found = inside.pop(place).density if place is not None else None
        x = Pair(density.x, found.x if found else None)
        y = Pair(density.y, found.y if found else None)
        is_kept = is_kept and found is not None
        if worst is None or min(x.promised, y.promised) < min(worst[0].promised, worst[1].promised):
            worst = x, y
    return receipt_row(promise, is_kept, *(worst or (None, None)))


def _is_same_density(one: EffectiveDensity, other: EffectiveDensity) -> bool:
    return Pair(other.x, one.x).is_kept and Pair(other.y, one.y).is_kept


def _page_row(plan: PagePlan, found: FoundPage | None, finish: Finish) -> dict[str, Any]:
    """A page's label, boxes and links."""
    promised = boxes_of(plan, finish.has_marks)
    links = [] if finish.is_x4 else [part.style.link for part in links_of(plan)]
    seen = found.boxes if found else PageBoxes(_NOWHERE, _NOWHERE, _NOWHERE)
    boxes = {
        "media": [_rounded(promised.media), _rounded(seen.media)],
        "bleed": [_rounded(promised.bleed), _rounded(seen.bleed)],
        "trim": [_rounded(promised.trim), _rounded(seen.trim)],
    }
    return {
        "page": plan.number,
        "label": [str(plan.number), found.label if found else None],
        "boxes": boxes,
        "links": [len(links), len(found.links) if found else 0],
        "is_kept": found is not None
        and found.label == str(plan.number)
        and sorted(found.links) == sorted(links)
        and all(_are_same(one, other) for one, other in boxes.values()),
    }


def _rounded(edges: Edges) -> list[float]:
    return [round(edge, 3) for edge in edges]


def _are_same(one: list[float], other: list[float]) -> bool:
    return all(abs(a - b) <= _SAME_WITHIN_PT for a, b in zip(one, other, strict=True))


def _font_rows(plans: Iterable[PagePlan], found: dict[str, bool]) -> list[dict[str, Any]]:
    """The fonts of text frames, and those that drawings brought; all must be embedded."""
    promised = {
        font_name(part.style.font)
        for plan in plans
        for part in plan.parts
        if isinstance(part, TextPart) and part.text.strip()
    }
    return [
        {"name": name, "promised": name in promised, "is_kept": found.get(name, False)}
        for name in sorted(promised | set(found))
    ]


def _whole_rows(found: FoundPdf, title: str, finish: Finish) -> list[dict[str, Any]]:
    """What the PDF says of itself as a whole."""
    intent, profile = "", ""
    if finish.intent is not None:
        intent = intent_name(finish.intent)
        profile = sha256(finish.intent.read_bytes()).hexdigest()
    pairs = [
        ("title", title, found.title),
        ("language", finish.language, found.language),
        ("version", "1.6" if finish.is_x4 else "1.7", found.version),
        ("standard", X4_NAME if finish.is_x4 else "", found.standard),
        ("output intent", intent, found.intent),
        ("profile of the intent", _short(profile), _short(found.intent_sha256)),
    ]
    return [
        {"what": what, "promised": promised, "found": seen, "is_kept": promised == seen}
        for what, promised, seen in pairs
    ]


def _short(digest: str) -> str:
    """A hash as people compare it."""
    return f"SHA-256 {digest[:16]}…" if digest else ""
