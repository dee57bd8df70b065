"""The body of a document of ISO/IEC 26300: pages with masters, a text, or sheets."""

from dataclasses import dataclass, field, replace

from harnet.core.documents.document import DocumentPage, PageKind
from harnet.core.documents.formats import DocumentFormat
from harnet.core.documents.images import ImageOnPage
from harnet.core.measure.geometry import Matrix
from harnet.media.packages.gathering import PageGatherer, ReadDocument, Refused, Shape
from harnet.media.packages.media import MediaStore
from harnet.media.packages.opendocument.frames import FrameWalk, Pictures
from harnet.media.packages.opendocument.styles import Styles
from harnet.media.packages.xml import (
    Element,
    attribute,
    child,
    children,
    descendants,
    length_pt,
    local,
)

_FORMATS = {
    "presentation": DocumentFormat.ODP,
    "drawing": DocumentFormat.ODG,
    "text": DocumentFormat.ODT,
    "spreadsheet": DocumentFormat.ODS,
}
_USUAL_SIZE_PT = (793.7, 595.3)
UNUSED_MASTER = "on a master that no page shows"
MOST_PAGES = 20_000


@dataclass(slots=True)
class BodyReader:
    """Reads the body of a document: pages, a text, or sheets."""

    media: MediaStore
    styles: Styles
    pictures: Pictures
    _shown: dict[str, int] = field(default_factory=dict)
    _hidden: dict[str, int] = field(default_factory=dict)
    _backgrounds: dict[str, int] = field(default_factory=dict)

    def read(self, root: Element) -> ReadDocument:
        """Every page, the text, or every sheet of a document with this root.

        Raises:
            Refused: it is of a kind that is not checked.
        """
        body = child(root, "body")
        inside = next(iter(children(body)), None) if body is not None else None
        form = _FORMATS.get(local(inside)) if inside is not None else None
        if form is None:
            raise Refused("it is a document of a kind that Harnet does not check")
        pages: list[DocumentPage] = []
        images: list[ImageOnPage] = []
        if form in (DocumentFormat.ODP, DocumentFormat.ODG):
            parts = self._pages(inside, form, pages, images)
        elif form is DocumentFormat.ODT:
            parts = self._text(inside, pages, images)
        else:
            parts = self._sheets(inside, pages, images)
        return ReadDocument(
            pages=pages, images=images, whole={"format": form.value, "parts": parts}
        )

    def _walk(self, page: PageGatherer, source: str) -> FrameWalk:
        return FrameWalk(page=page, styles=self.styles, pictures=self.pictures, source=source)

    def _gatherer(self, number: int, kind: PageKind, master: Element | None) -> PageGatherer:
        width, height = (length_pt(one) or 0.0 for one in self.styles.page_size(master))
        if min(width, height) <= 0:
            width, height = _USUAL_SIZE_PT
        return PageGatherer(self.media, number, kind, width, height)

    def _pages(
        self,
        body: Element,
        form: DocumentFormat,
        pages: list[DocumentPage],
        images: list[ImageOnPage],
    ) -> int:
        is_slide = form is DocumentFormat.ODP
        kind, source = (PageKind.SLIDE, "slide") if is_slide else (PageKind.PAGE, "page")
        notes: list[tuple[int, Element]] = []
        below = {name: self._master(one) for name, one in self.styles.masters.items()}
        drawn = [one for one in children(body) if local(one) == "page"]
        if len(drawn) > MOST_PAGES:
            raise Refused(f"it has {len(drawn)} pages", "Split it")
        for number, one in enumerate(drawn, 1):
            master_name, style = attribute(one, "master-page-name"), attribute(one, "style-name")
            gathered = self._gatherer(number, kind, self.styles.masters.get(master_name))
            gathered.title = attribute(one, "name")
            has_own = self._background(gathered, style)
            walk = self._walk(gathered, source)
            walk.on_notes = lambda element, number=number: notes.append((number, element))
            walk.walk(one)
            page = gathered.page()
            is_hidden = self._of_page(style, "visibility") == "hidden"
            shows = self._of_page(style, "background-objects-visible") != "false"
            if shows:
                self._shown[master_name] = self._shown.get(master_name, 0) + 1
                self._hidden[master_name] = self._hidden.get(master_name, 0) + is_hidden
            if not has_own and self._of_page(style, "background-visible") != "false":
                self._backgrounds[master_name] = self._backgrounds.get(master_name, 0) + 1
            master = below.get(master_name)
            marks = (*(master[0].marks if master and shows else ()), *page.marks)
            pages.append(replace(page, is_hidden=is_hidden, marks=marks))
            images += gathered.images
        for number, element in notes:
            gathered = self._gatherer(len(pages) + 1, PageKind.NOTES, None)
            gathered.width_pt, gathered.height_pt = 595.3, 841.9
            self._walk(gathered, "notes").walk(element)
            if gathered.images:
                pages.append(replace(gathered.page(), number=number))
                images += gathered.images
        for name, (gathered, backgrounds) in below.items():
            self._add_master(name, gathered, backgrounds, pages, images)
        return len(drawn)

    def _master(self, master: Element) -> tuple[PageGatherer, int]:
        """What a master paints, and how many of its images are its background."""
        gathered = self._gatherer(0, PageKind.MASTER, master)
        gathered.title = attribute(master, "display-name") or attribute(master, "name")
        self._background(gathered, attribute(master, "style-name"))
        backgrounds = len(gathered.images)
        self._walk(gathered, "master").walk(master)
        return gathered, backgrounds

    def _add_master(
        self,
        name: str,
        gathered: PageGatherer,
        backgrounds: int,
        pages: list[DocumentPage],
        images: list[ImageOnPage],
    ) -> None:
        if not gathered.images:
            return
        number = len(pages) + 1
        shown, behind = self._shown.get(name, 0), self._backgrounds.get(name, 0)
        for place, image in enumerate(gathered.images):
            count = behind if place < backgrounds else shown
            unseen = image.unseen or ("" if count else UNUSED_MASTER)
            images.append(replace(image, page_number=number, unseen=unseen))
        page = replace(gathered.page(), shown_on=max(shown, behind))
        pages.append(replace(page, hidden_on=self._hidden.get(name, 0)))

    def _of_page(self, style: str, key: str) -> str:
        return self.styles.value("drawing-page", style, key)

    def _background(self, gathered: PageGatherer, style: str) -> bool:
        """Gathers the fill of a page; whether it has one of its own."""
        fill = self._of_page(style, "fill")
        if fill == "bitmap":
            width, height = gathered.width_pt, gathered.height_pt
            shape = Shape(
                matrix=Matrix.scaling(width, height),
                own_w_pt=width,
                own_h_pt=height,
                source="background",
            )
            values = {
                key: self._of_page(style, key)
                for key in ("repeat", "fill-image-width", "fill-image-height")
            }
            self._walk(gathered, "background").fill(
                self._of_page(style, "fill-image-name"), shape, values
            )
        return fill not in ("", "none")

    def _text(self, body: Element, pages: list[DocumentPage], images: list[ImageOnPage]) -> int:
        page = PageGatherer(self.media, 1, PageKind.TEXT)
        self._walk(page, "body").walk(body)
        for master in self.styles.masters.values():
            for one in children(master):
                kind = local(one).split("-")[0]
                if kind in ("header", "footer"):
                    self._walk(page, kind).walk(one)
        self._style_pictures(page)
        pages.append(page.page())
        images += page.images
        sections = sum(local(one) == "section" for one in descendants(body))
        return max(1, sections)

    def _style_pictures(self, page: PageGatherer) -> None:
        """Pictures that styles show: behind paragraphs and pages, and as bullets of lists."""
        roots = [*self.styles.elements(), *self.styles.page_layouts.values()]
        for style in roots:
            for one in descendants(style):
                if local(one) == "background-image":
                    self._style_picture(page, one, "background", None)
        for one in self.styles.lists:
            for level in children(one):
                if local(level) == "list-level-style-image":
                    properties = child(level, "list-level-properties")
                    self._style_picture(page, level, "bullet", properties)

    def _style_picture(
        self, page: PageGatherer, one: Element, source: str, size: Element | None
    ) -> None:
        part, address = self.pictures.of(one)
        width = length_pt(attribute(size, "width")) or 0.0 if size is not None else 0.0
        height = length_pt(attribute(size, "height")) or 0.0 if size is not None else 0.0
        shape = Shape(
            matrix=Matrix.scaling(width, height), own_w_pt=width, own_h_pt=height, source=source
        )
        walk = self._walk(page, source)
        if part is not None:
            page.picture(part, shape if min(width, height) > 0 else walk.native(shape, part))
        elif address:
            page.link(address, shape)

    def _sheets(self, body: Element, pages: list[DocumentPage], images: list[ImageOnPage]) -> int:
        tables = [one for one in children(body) if local(one) == "table"]
        for number, table in enumerate(tables, 1):
            page = PageGatherer(self.media, number, PageKind.SHEET, title=attribute(table, "name"))
            self._walk(page, "cells").walk(table)
            pages.append(page.page())
            images += page.images
        return len(tables)
