"""Finding the originals of a PDF's images among picture files, in a process with limits.

Hashes of points tell which few files to look at; registration proves one of them, or none.
"""

from collections import deque
from collections.abc import Iterator
from concurrent.futures import Future
from pathlib import Path
from typing import Any

import pikepdf

from harnet.core.documents.improving import DocumentImageObject, image_as_values
from harnet.core.errors import ValueOutOfRange
from harnet.core.output.page_images import page_numbers
from harnet.media.bounded import Order, Tell
from harnet.media.errors import UnreadableFile
from harnet.media.pdf.improving.held import HeldImage, held_images
from harnet.media.pdf.improving.seen import seen_of_samples
from harnet.media.pdf.opening.opened import opened_pdf
from harnet.media.pdf.reading.images import PageReader
from harnet.media.pdf.samples.samples import samples_of
from harnet.media.pdf.samples.space import UnreadableSamples
from harnet.media.pixels.registration.shelf import OriginalsShelf, best_candidate, hands

_GOING_ON = 6


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    `passes_ppi` and `bilevel_passes_ppi` are what images are to reach; `originals` are paths of
    pictures, with their `hashes` as hexadecimal text where they are known. The answer has `images`
    as values, the best candidate of each that falls short, and the hashes that were not known.

    Raises:
        UnreadableFile: the PDF cannot be read.
    """
    name = order["name"]
    with opened_pdf(Path(order["path"]), name) as pdf:
        reader = PageReader(pdf, name)
        try:
            numbers = page_numbers(order["pages"], len(reader.pages))
        except ValueOutOfRange as error:
            raise UnreadableFile(name, str(error)) from None
        held = held_images(reader, numbers)
        values = [(one, one.values(pdf)) for one in held]
        poor = [(one, image) for one, image in values if _falls_short(image, order)]
        total = len(order["originals"]) + len(poor)
        shelf = OriginalsShelf.of(
            order["originals"] if poor else [], lambda done: tell([done, total])
        )
        found: dict[int, dict[str, Any]] = {one.key: {} for one in held}
        done = len(order["originals"])
        for image, candidate in _looked_for(pdf, poor, shelf):
            tell([done, total])
            found[image.key], done = candidate, done + 1
        return {
            "images": [image_as_values(image) | found[image.key] for _, image in values],
            "hashes": [
                shelf.as_text(number) if one.get("hashes") is None else None
                for number, one in enumerate(order["originals"] if poor else [])
            ],
        }


def _falls_short(image: DocumentImageObject, order: Order) -> bool:
    passes = order["bilevel_passes_ppi" if image.is_bilevel else "passes_ppi"]
    return image.is_seen and image.ppi < passes


def _looked_for(
    pdf: pikepdf.Pdf, poor: list[tuple[HeldImage, DocumentImageObject]], shelf: OriginalsShelf
) -> Iterator[tuple[DocumentImageObject, dict[str, Any]]]:
    """Each image with the candidate that fits it best, as values, or why it is not looked for.

    Samples are taken out one after the other: only one may read the PDF at a time. Those of a few
    images are held while their originals are looked for.
    """
    with hands() as pool:
        going_on: deque[tuple[DocumentImageObject, Future[dict[str, Any]]]] = deque()
        for held, image in poor:
            stream, resources = held.stream(pdf)
            try:
                shown = seen_of_samples(samples_of(stream, resources), image.quality)
                look = pool.submit(best_candidate, shown, shelf)
            except UnreadableSamples as error:
                look = pool.submit(dict, failure=str(error))
            going_on.append((image, look))
            if len(going_on) > _GOING_ON:
                first, look = going_on.popleft()
                yield first, look.result()
        for image, look in going_on:
            yield image, look.result()
