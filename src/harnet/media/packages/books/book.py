"""EPUB 2 and 3: the items of the spine in order, with the pictures on each."""

import re
from dataclasses import dataclass, field
from functools import partial
from typing import Any

from lxml import etree

from harnet.core.documents.document import DocumentPage, LeftoverKind, PageKind
from harnet.core.documents.formats import DocumentFormat
from harnet.core.documents.images import ImageOnPage
from harnet.core.measure.geometry import Matrix
from harnet.media.errors import UnreadableFile
from harnet.media.packages.archive import Package, UnreadablePart
from harnet.media.packages.books.pages import BookPageWalk
from harnet.media.packages.gathering import PageGatherer, ReadDocument, Shape, short
from harnet.media.packages.leftovers import leftover_values
from harnet.media.packages.media import MediaStore, looks_like_picture
from harnet.media.packages.xml import (
    Element,
    attribute,
    child,
    descendants,
    local,
    number,
    parsed,
    required_root,
)
from harnet.media.svg.css import Cascade
from harnet.media.svg.document import data_in, size_px
from harnet.media.svg.sizes import PT_PER_PX
from harnet.media.svg.walk import PX_TO_POINTS, SvgWalk

_CONTAINER, _ENCRYPTION = "META-INF/container.xml", "META-INF/encryption.xml"
_OF_FONTS = ("embedding", "enc#RC")
"""Endings of the methods that hide fonts and nothing else."""
_VIEWPORT = re.compile(r"(width|height)\s*[=:]\s*([\d.]+)")
MOST_SECTIONS = 20_000


def is_book(package: Package) -> bool:
    """Whether a package says that it is a book, or has what a book begins with."""
    name = package.found("mimetype")
    if name is not None:
        try:
            if b"application/epub+zip" in package.read(name, 1000):
                return True
        except UnreadablePart:
            pass
    return package.found(_CONTAINER) is not None


@dataclass(frozen=True, slots=True)
class _Item:
    part: str
    media_type: str
    properties: str


@dataclass(slots=True)
class BookReader:
    """Reads a book section by section."""

    package: Package
    notes: list[str] = field(default_factory=list)
    _sheets: dict[str, str | None] = field(default_factory=dict)
    _inline: dict[str, str] = field(default_factory=dict)

    def read(self) -> ReadDocument:
        """The whole book.

        Raises:
            UnreadableFile: it is protected, damaged, or has no text.
        """
        package = self.package
        if self._is_protected():
            raise UnreadableFile(
                package.name,
                "the book is protected: its contents are encrypted",
                "Ask for it without protection",
            )
        part = self._package_part()
        root = self._root(part)
        items = self._items(root, part)
        spine = child(root, "spine")
        listed = [attribute(one, "idref") for one in spine] if spine is not None else []
        sections = [items[one] for one in listed if one in items]
        if not sections:
            raise UnreadableFile(package.name, "the book has no sections", "Export it again")
        if len(sections) > MOST_SECTIONS:
            raise UnreadableFile(package.name, f"it has {len(sections)} sections", "Split it")
        media = MediaStore(package)
        covers = frozenset(self._covers(root, items))
        pages: list[DocumentPage] = []
        images: list[ImageOnPage] = []
        for number_, item in enumerate(sections, 1):
            page = PageGatherer(media, number_, PageKind.SECTION)
            self._section(item, page, covers)
            pages.append(page.page())
            images += page.images
        whole: dict[str, Any] = {
            "format": DocumentFormat.EPUB.value,
            "parts": len(sections),
            "title": self._about(root, "title"),
            "leftovers": self._leftovers(media, items),
            "repeated": media.repeated_values(),
            "notes": self.notes,
        }
        return ReadDocument(pages=pages, images=images, whole=whole)

    def _is_protected(self) -> bool:
        name = self.package.found(_ENCRYPTION)
        if name is None:
            return False
        try:
            root = parsed(self.package.read(name), name)
        except UnreadablePart:
            return True
        methods = [
            attribute(one, "Algorithm")
            for one in descendants(root)
            if local(one) == "EncryptionMethod"
        ]
        data = sum(local(one) == "EncryptedData" for one in descendants(root))
        return any(not one.endswith(_OF_FONTS) for one in methods[:data])

    def _package_part(self) -> str:
        root = self._root(_CONTAINER)
        for one in descendants(root):
            if local(one) == "rootfile":
                found = self.package.resolved("", attribute(one, "full-path"))
                if found is not None:
                    return found
        raise UnreadableFile(
            self.package.name, "the book does not say where its contents are", "Export it again"
        )

    def _root(self, part: str) -> Element:
        return required_root(self.package, part, "book", "Export it again")

    def _items(self, root: Element, base: str) -> dict[str, _Item]:
        items = {}
        manifest = child(root, "manifest")
        for one in manifest if manifest is not None else ():
            found = self.package.resolved(base, attribute(one, "href"))
            if found is not None:
                items[attribute(one, "id")] = _Item(
                    found, attribute(one, "media-type"), attribute(one, "properties")
                )
        return items

    def _covers(self, root: Element, items: dict[str, _Item]) -> list[str]:
        """The cover's picture: by property in EPUB 3, by a meta element in EPUB 2."""
        found = [one.part for one in items.values() if "cover-image" in one.properties.split()]
        for one in descendants(root):
            if local(one) == "meta" and one.get("name") == "cover":
                item = items.get(one.get("content", ""))
                found += [item.part] if item is not None else []
        return found

    def _about(self, root: Element, name: str) -> str:
        found = next((one for one in descendants(root) if local(one) == name), None)
        return short(found.text or "") if found is not None else ""

    def _section(self, item: _Item, page: PageGatherer, covers: frozenset[str]) -> None:
        if item.media_type.startswith("image/") and "svg" not in item.media_type:
            self._alone(item.part, page)
            return
        try:
            root = self._page_root(item.part)
        except UnreadablePart as error:
            page.left_out.append(str(error))
            return
        find = partial(self._find, item.part, page.media)
        cascade = Cascade(root, lambda address: self._sheet(item.part, address))
        self._take_sheets(root, item.part, cascade)
        page.title = _title(root)
        if local(root) == "svg":
            width, height = size_px(root)
            page.width_pt, page.height_pt = width * PT_PER_PX, height * PT_PER_PX
            SvgWalk(page=page, find=find, styles=cascade.of).walk(root, PX_TO_POINTS, width, height)
            return
        viewport = _viewport(root)
        BookPageWalk(page=page, find=find, cascade=cascade, viewport=viewport, covers=covers).walk(
            root
        )

    def _page_root(self, part: str) -> Element:
        data = self.package.read(part)
        try:
            return parsed(data, part)
        except UnreadablePart:
            # Books in the wild have named entities and open elements; what can be read is.
            parser = etree.XMLParser(
                recover=True, resolve_entities=False, no_network=True, load_dtd=False
            )
            root = etree.fromstring(data, parser) if data.strip() else None
            if root is None:
                raise
            return root

    def _alone(self, part: str, page: PageGatherer) -> None:
        """A picture that is an item of the spine itself: one CSS px for a pixel."""
        px_w, px_h = page.media.look_at(part).upright_px
        width, height = px_w * PT_PER_PX, px_h * PT_PER_PX
        shape = Shape(
            matrix=Matrix.scaling(width, height),
            own_w_pt=width,
            own_h_pt=height,
            source="body",
            is_assumed=True,
        )
        page.picture(part, shape, is_upright=True, has_mark=False)

    def _find(self, base: str, media: MediaStore, address: str) -> str | None:
        if address[:5].lower() == "data:":
            return self._kept(address)
        return None if ":" in address.split("/")[0] else self.package.resolved(base, address)

    def _kept(self, address: str) -> str | None:
        data = data_in(address)
        return self.package.put(data) if data is not None else None

    def _take_sheets(self, root: Element, part: str, cascade: Cascade) -> None:
        for one in root.iter():
            name = local(one)
            if name == "style":
                cascade.take("".join(one.itertext()))
            elif name == "link" and "stylesheet" in one.get("rel", "").lower().split():
                text = self._sheet(part, one.get("href", ""))
                if text is not None:
                    cascade.take(text)

    def _sheet(self, base: str, address: str) -> str | None:
        """The text of a style sheet of the book; addresses outside are never followed."""
        found = self.package.resolved(base, address)
        if found is None:
            return None
        if found not in self._sheets:
            try:
                self._sheets[found] = self.package.read(found).decode("utf-8", "replace")
            except UnreadablePart:
                self._sheets[found] = None
        return self._sheets[found]

    def _leftovers(self, media: MediaStore, items: dict[str, _Item]) -> list[dict[str, Any]]:
        """Pictures in the book that no section was seen to show."""
        found = []
        named = {one.part for one in items.values() if "cover-image" in one.properties.split()}
        for part in self.package.names:
            if looks_like_picture(part) and part not in media.used and part not in named:
                found.append(leftover_values(media, part, LeftoverKind.UNUSED))
        return found


def _title(root: Element) -> str:
    for one in descendants(root):
        if local(one) == "title":
            return " ".join("".join(one.itertext()).split())
    return ""


def _viewport(root: Element) -> tuple[float, float] | None:
    """The size of a page whose layout is fixed, in CSS px."""
    for one in descendants(root):
        if local(one) == "meta" and one.get("name", "").lower() == "viewport":
            found = {key: number(text) for key, text in _VIEWPORT.findall(one.get("content", ""))}
            if found.get("width", 0) > 0 and found.get("height", 0) > 0:
                return found["width"], found["height"]
    return None
