"""Reading a stretch of a stranger's PDF, in a process of its own with limits.

The answer is written to a file as JSON, since it may be long: the pages, and the pictures that they
paint, those that a producer cut put together again.
"""

import json
from pathlib import Path
from typing import Any

import pikepdf

from harnet.core.strips import Piece, Whole, wholes_of
from harnet.media.bounded import Order, Tell
from harnet.media.pdf.opening import opened_pdf
from harnet.media.pdf.painted import PaintedImage, pages_with_images

MOST_PICTURES_A_PAGE = 20_000
_MOST_FONTS = 5_000


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`."""
    first, last = int(order["first"]), int(order["last"])
    pages: list[list[float]] = []
    pictures: list[dict[str, Any]] = []
    with opened_pdf(Path(order["path"]), order["name"]) as pdf:
        count = len(pdf.pages)
        for seen, images in pages_with_images(pdf, order["name"], first, last):
            pages.append([*seen.box, seen.rotate_deg])
            pictures += pictures_of(images)[:MOST_PICTURES_A_PAGE]
        whole = _whole(pdf) if first == 1 else {}
    Path(order["answer"]).write_text(json.dumps({"pages": pages, "pictures": pictures}))
    return {"count": count, "whole": whole}


def pictures_of(images: list[PaintedImage]) -> list[dict[str, Any]]:
    """A page's pictures as rows; pieces that make one picture are one row."""
    pieces = [
        Piece(
            image.px_w,
            image.px_h,
            image.matrix,
            (image.colour, image.bits, image.source, image.unseen, image.facts.has_profile),
        )
        for image in images
    ]
    return [
        _row(place, whole, [images[number] for number in whole.pieces])
        for place, whole in enumerate(wholes_of(pieces), 1)
    ]


def _row(place: int, whole: Whole, images: list[PaintedImage]) -> dict[str, Any]:
    first = images[0]
    is_cut = len(images) > 1
    return {
        "page_number": first.page_number,
        "place": place,
        "px_w": whole.px_w,
        "px_h": whole.px_h,
        "colour": first.colour.value,
        "bits": first.bits,
        "matrix": list(whole.matrix.as_tuple()),
        "object_number": 0 if is_cut else first.facts.number,
        "has_profile": first.facts.has_profile,
        "filters": " ".join(first.facts.filters)[:120],
        "unseen": first.unseen,
        "source": first.source,
        "pieces": [px for one in images for px in (one.px_w, one.px_h)] if is_cut else [],
    }


def _whole(pdf: pikepdf.Pdf) -> dict[str, Any]:
    """What the PDF says of itself; everything in it may be missing or nonsense."""
    return {
        "version": pdf.pdf_version,
        "producer": _text(pdf, "/Producer"),
        "title": _text(pdf, "/Title"),
        "loose_fonts": _loose_fonts(pdf),
        "pages_without_trim": sum("/TrimBox" not in page.obj for page in pdf.pages),
        "has_intent": "/OutputIntents" in pdf.Root,
    }


def _text(pdf: pikepdf.Pdf, key: str) -> str:
    try:
        return str(pdf.docinfo.get(key, ""))[:200]
    except (pikepdf.PdfError, ValueError, TypeError):
        return ""


def _loose_fonts(pdf: pikepdf.Pdf) -> list[str]:
    """Fonts that are used by name alone: without a file, and without glyphs of their own."""
    names = set()
    for thing in pdf.objects:
        if not isinstance(thing, pikepdf.Dictionary) or thing.get("/Type") != "/Font":
            continue
        if thing.get("/Subtype") in ("/Type0", "/Type3"):
            continue
        descriptor = thing.get("/FontDescriptor", pikepdf.Dictionary())
        files = ("/FontFile", "/FontFile2", "/FontFile3")
        if not isinstance(descriptor, pikepdf.Dictionary) or not any(
            f in descriptor for f in files
        ):
            names.add(str(thing.get("/BaseFont", "unnamed")).lstrip("/").rpartition("+")[2])
        if len(names) >= _MOST_FONTS:
            break
    return sorted(names)
