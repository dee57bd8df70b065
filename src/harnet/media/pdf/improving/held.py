"""The images that a PDF holds, each once, with every use of it."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

import pikepdf

from harnet.core.documents.improving import DocumentImageObject, Use
from harnet.core.pictures.picture import Colour
from harnet.media.facts.jpeg import estimated_quality
from harnet.media.pdf.extracting.inline import stream_of_inline
from harnet.media.pdf.reading.images import PageReader
from harnet.media.pdf.samples.samples import coded_bytes, filters_of
from harnet.media.pdf.samples.space import UnreadableSamples
from harnet.media.pdf.walking.image_facts import ImageFacts
from harnet.media.pdf.walking.image_occurrence import ImageOccurrence


@dataclass(slots=True)
class HeldImage:
    """An image of an open PDF: what is known of it, and where it is painted."""

    key: int
    facts: ImageFacts
    uses: list[tuple[int, ImageOccurrence]] = field(default_factory=list)
    """Its places on their pages, with what is painted there."""

    @property
    def is_inline(self) -> bool:
        """Whether it stands within content, and is no object of its own."""
        return self.facts.inline is not None

    def stream(self, pdf: pikepdf.Pdf) -> tuple[Any, Any]:
        """Its stream, and the resources that its names are looked up in."""
        if self.facts.inline is not None:
            return stream_of_inline(pdf, *self.facts.inline), self.facts.inline[1]
        return pdf.get_object(self.facts.number, 0), pikepdf.Dictionary()

    def values(self, pdf: pikepdf.Pdf) -> DocumentImageObject:
        """The image as values; only uses that are seen count, where any is."""
        stream, _ = self.stream(pdf)
        seen = [one for one in self.uses if not one[1].unseen]
        return DocumentImageObject(
            key=self.key,
            px_w=self.facts.px_w,
            px_h=self.facts.px_h,
            colour=self.facts.colour.value,
            bits=self.facts.bits,
            size_bytes=len(stream.read_raw_bytes()),
            uses=tuple(
                Use(image.page_number, place, image.matrix) for place, image in seen or self.uses
            ),
            is_bilevel=self.facts.colour is Colour.BILEVEL,
            is_seen=bool(seen),
            quality=_quality_of(stream),
        )


def _quality_of(stream: Any) -> int | None:
    if filters_of(stream)[-1:] != ["DCTDecode"]:
        return None
    try:
        return estimated_quality(coded_bytes(stream))
    except UnreadableSamples:
        return None


def held_images(reader: PageReader, numbers: Iterable[int]) -> list[HeldImage]:
    """The images painted on these pages, in the order they are first painted."""
    held: dict[tuple[int, int], HeldImage] = {}
    for number in numbers:
        _, images = reader.page(number)
        for place, image in enumerate(images, 1):
            facts = image.facts
            name = (facts.number, 0) if facts.inline is None else (0, id(facts.inline[0]))
            if name not in held:
                held[name] = HeldImage(len(held) + 1, facts)
            held[name].uses.append((place, image))
    return list(held.values())
