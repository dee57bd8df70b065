"""The picture files of a document, each with every use of it."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

from harnet.core.documents.document import DocumentFacts, read_from
from harnet.core.documents.images import Crop, ImageKind, ImageOnPage
from harnet.core.documents.improving import DocumentImageObject, Use
from harnet.core.documents.places import where_text
from harnet.core.errors import ValueOutOfRange
from harnet.core.output.page_images import page_numbers
from harnet.core.pictures.picture import Colour
from harnet.media.errors import UnreadableFile
from harnet.media.packages.archive import Package, PartStore
from harnet.media.packages.reading import read_document
from harnet.media.packages.signature import FileKind, document_kind


@dataclass(slots=True)
class HeldPart:
    """One picture file as a document holds it."""

    key: int
    part: str
    uses: list[ImageOnPage] = field(default_factory=list)

    @property
    def seen(self) -> list[ImageOnPage]:
        """The uses that are seen."""
        return [one for one in self.uses if not one.unseen]

    @property
    def crop(self) -> Crop | None:
        """What is cut off in every use alike; None where nothing is, or they differ."""
        crops = {one.crop for one in self.uses}
        (first, *others) = crops
        return first if not others and any(first) else None

    def values(self, read: DocumentFacts) -> DocumentImageObject:
        """The file as values; only uses that are seen count, where any is."""
        first = self.uses[0]
        uses = self.seen or self.uses
        largest = max(uses, key=lambda one: one.matrix.u_length * one.matrix.v_length)
        return DocumentImageObject(
            key=self.key,
            px_w=first.px_w,
            px_h=first.px_h,
            colour=first.colour,
            bits=first.bits,
            size_bytes=first.size_bytes,
            uses=tuple(Use(one.page_number, one.place, one.matrix) for one in uses),
            is_bilevel=first.colour == Colour.BILEVEL.value,
            is_seen=bool(self.seen),
            quality=first.quality,
            part=self.part,
            number=read.number_of(largest.page_number),
            where=where_text(read, largest),
            crop=self.crop,
        )


@dataclass(frozen=True, slots=True)
class HeldDocument:
    """A document that is open, with its picture files in the order they are first painted."""

    facts: DocumentFacts
    store: PartStore
    parts: list[HeldPart]
    images: list[ImageOnPage]


@contextmanager
def held_document(path: Path, name: str, pages: str = "all") -> Iterator[HeldDocument]:
    """The document with the raster files painted on some of its pages; closed on leaving.

    Raises:
        UnreadableFile: it cannot be read, or has no such pages.
    """
    read = read_document(path, name)
    facts = read_from(name, read.whole, read.pages)
    wanted = _pages_meant(facts, pages)
    held: dict[str, HeldPart] = {}
    for image in read.images:
        if image.kind is not ImageKind.RASTER or not image.part:
            continue
        if wanted is not None and image.page_number not in wanted:
            continue
        one = held.setdefault(image.part, HeldPart(len(held) + 1, image.part))
        one.uses.append(image)
    parts = list(held.values())
    if document_kind(path, name) is FileKind.XML:
        assert read.store is not None
        yield HeldDocument(facts, read.store, parts, read.images)
        return
    with Package(path, name) as package:
        yield HeldDocument(facts, package, parts, read.images)


def _pages_meant(facts: DocumentFacts, pages: str) -> set[int] | None:
    """The pages that a text such as 1-3 means; None for all.

    Raises:
        UnreadableFile: there are no such pages.
    """
    if pages.strip() in ("", "all"):
        return None
    if not facts.format.has_pages:
        raise UnreadableFile(facts.name, f"a {facts.format.noun} has no pages to choose from")
    try:
        return set(page_numbers(pages, facts.count))
    except ValueOutOfRange as error:
        raise UnreadableFile(facts.name, str(error)) from None
