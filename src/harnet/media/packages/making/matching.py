"""Finding the originals of a document's images among picture files, in a process with limits."""

from pathlib import Path
from typing import Any

import pyvips

from harnet.core.documents.improving import DocumentImageObject, image_as_values
from harnet.media.bounded import Order, Tell
from harnet.media.packages.archive import MOST_MEDIA_BYTES, PartStore, UnreadablePart
from harnet.media.packages.making.held import held_document
from harnet.media.packages.making.replacing import in_colours_of, is_bilevel, why_not
from harnet.media.packages.xml import allow_nesting
from harnet.media.pixels.registration.seen import SeenImage, seen
from harnet.media.pixels.registration.shelf import OriginalsShelf, best_candidate, hands


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    Takes and answers what `harnet.media.pdf.improving.matching` does; each image has the `part`
    that holds it as well.

    Raises:
        UnreadableFile: the document cannot be read, or has no such pages.
    """
    allow_nesting()
    with held_document(Path(order["path"]), order["name"], order["pages"]) as document:
        images = [(one, one.values(document.facts)) for one in document.parts]
        reasons = {one.key: why_not(document, one) for one in document.parts}
        poor = [
            image for _, image in images if _falls_short(image, order) and not reasons[image.key]
        ]
        originals = order["originals"] if poor else []
        total = len(order["originals"]) + len(poor)
        shelf = OriginalsShelf.of(originals, lambda done: tell([done, total]))
        found: dict[int, dict[str, Any]] = {
            key: {"failure": reason} if reason else {} for key, reason in reasons.items()
        }
        with hands() as pool:
            looks = [(image, pool.submit(_best, document.store, image, shelf)) for image in poor]
            for done, (image, look) in enumerate(looks, len(order["originals"])):
                tell([done, total])
                found[image.key] = look.result()
        return {
            "images": [image_as_values(image) | found[image.key] for _, image in images],
            "hashes": [
                shelf.as_text(number) if one.get("hashes") is None else None
                for number, one in enumerate(originals)
            ],
        }


def _falls_short(image: DocumentImageObject, order: Order) -> bool:
    passes = order["bilevel_passes_ppi" if image.is_bilevel else "passes_ppi"]
    return image.is_seen and image.ppi < passes


def _best(store: PartStore, image: DocumentImageObject, shelf: OriginalsShelf) -> dict[str, Any]:
    try:
        shown = _seen(store, image)
    except (pyvips.Error, UnreadablePart):
        return {"failure": "it cannot be decoded"}
    return best_candidate(shown, shelf)


def _seen(store: PartStore, image: DocumentImageObject) -> SeenImage:
    data = store.read(image.part, MOST_MEDIA_BYTES)
    decoded = pyvips.Image.new_from_buffer(data, "").copy_memory()
    if decoded.hasalpha():
        # What is veiled is still what the original shows.
        decoded = decoded.extract_band(0, n=decoded.bands - 1)
    return SeenImage(
        seen(decoded),
        image.quality,
        in_colours_of(decoded),
        is_bilevel=is_bilevel(decoded),
    )
