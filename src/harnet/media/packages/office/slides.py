"""Presentations of ISO/IEC 29500-1, clause 13: slides, their layouts, masters and notes."""

from dataclasses import dataclass, field, replace

from harnet.core.documents.document import DocumentPage, PageKind
from harnet.core.documents.images import ImageOnPage
from harnet.core.documents.sketch import SketchMark
from harnet.core.measure.geometry import Matrix
from harnet.media.packages.gathering import PageGatherer, ReadDocument, Refused, Shape
from harnet.media.packages.media import MediaStore
from harnet.media.packages.office.bullets import paint_bullets
from harnet.media.packages.office.fills import Marks, fill_in, paint_fill
from harnet.media.packages.office.geometry import frame_of
from harnet.media.packages.office.settings import presentation_settings
from harnet.media.packages.office.shapes import Inherited, ShapeWalk
from harnet.media.packages.office.themes import Theme, theme_of
from harnet.media.packages.relationships import Parts, Relationship
from harnet.media.packages.xml import (
    Element,
    child,
    children,
    descendants,
    is_on,
    local,
    points,
)

MOST_SLIDES = 20_000
_USUAL_SIZE_PT = (720.0, 540.0)
"""The size of slides where a presentation states none (from memory)."""
_SAME_ROLE = {"ctrTitle": "title", "subTitle": "body", "obj": "body", "": "body"}
UNUSED_LAYOUT, REPLACED = "on a layout or master that no slide shows", "behind other backgrounds"


@dataclass(slots=True)
class _Shared:
    """A layout or a master: what it paints, and who shows it."""

    part: str
    gathered: PageGatherer
    tree: Element | None
    relations: dict[str, Relationship]
    above: "_Shared | None" = None
    shows_above: bool = True
    has_background: bool = False
    shown_on: int = 0
    hidden_on: int = 0
    backgrounds_on: int = 0
    background_images: int = 0
    """How many of its images, the first ones, are its background."""
    _holders: list[tuple[Element, Element]] | None = None

    def placeholder(self, kind: str, index: str) -> Element | None:
        """The shape that a placeholder takes its place from: by number, else by role."""
        by_role = None
        for one, found in self._placeholders():
            if index and found.get("idx") == index:
                return one
            role = found.get("type", "")
            if by_role is None and _SAME_ROLE.get(role, role) == _SAME_ROLE.get(kind, kind):
                by_role = one
        return by_role

    def _placeholders(self) -> list[tuple[Element, Element]]:
        """The shapes that are placeholders, with what they say of that; looked for once."""
        if self._holders is None:
            shapes = children(self.tree) if self.tree is not None else ()
            found = (
                (one, next((each for each in descendants(one) if local(each) == "ph"), None))
                for one in shapes
            )
            self._holders = [(one, each) for one, each in found if each is not None]
        return self._holders


@dataclass(slots=True)
class SlidesReader:
    """Reads a presentation part by part."""

    parts: Parts
    media: MediaStore
    part: str
    marks: Marks = field(default_factory=lambda: Marks({}))
    _shared: dict[str, _Shared] = field(default_factory=dict)
    _themes: dict[str, Theme] = field(default_factory=dict)
    _size: tuple[float, float] = _USUAL_SIZE_PT

    def read(self) -> ReadDocument:
        """The whole presentation.

        Raises:
            Refused: its main part cannot be read, or it has more slides than anybody looks at.
        """
        root = self.parts.require_root(self.part, "slide deck")
        size = child(root, "sldSz")
        if size is not None and min(points(size.get("cx")), points(size.get("cy"))) > 0:
            self._size = (points(size.get("cx")), points(size.get("cy")))
        relations = self.parts.relations(self.part)
        listed = child(root, "sldIdLst")
        ids = [_rel_id(one) for one in _slide_ids(listed)]
        if len(ids) > MOST_SLIDES:
            raise Refused(f"it has {len(ids)} slides; the limit is {MOST_SLIDES}", "Split it")
        slides = [relations[one] for one in ids if one in relations]
        pages: list[DocumentPage] = []
        images: list[ImageOnPage] = []
        notes: list[tuple[int, str]] = []
        for number, relation in enumerate(slides, 1):
            page, found = self._slide(number, relation)
            pages.append(page)
            images += found
            if relation.part is not None:
                about = self.parts.first(relation.part, "notesSlide")
                if about is not None:
                    notes.append((number, about))
                self.parts.forget(relation.part)
        self._add_notes(notes, pages, images)
        self._add_shared(pages, images)
        whole = {
            "parts": len(slides),
            "saving": presentation_settings(self.parts, self.part, root, self.marks.counts),
        }
        return ReadDocument(pages=pages, images=images, whole=whole)

    def _gatherer(self, number: int, kind: PageKind, title: str = "") -> PageGatherer:
        width, height = self._size
        return PageGatherer(self.media, number, kind, width, height, title)

    def _slide(self, number: int, relation: Relationship) -> tuple[DocumentPage, list[ImageOnPage]]:
        gathered = self._gatherer(number, PageKind.SLIDE)
        root = self.parts.root(relation.part)
        if root is None or relation.part is None:
            fault = self.parts.faults.get(relation.part or "", "the slide is missing from the file")
            gathered.left_out.append(fault)
            return gathered.page(), []
        relations = self.parts.relations(relation.part)
        layout = self._layout(self.parts.first(relation.part, "slideLayout"))
        is_hidden = not is_on(root.get("show"), default=True)
        shows_above = is_on(root.get("showMasterSp"), default=True)
        has_background = self._background(root, relations, gathered, layout)
        self._count(layout, is_hidden, shows_above, has_background)
        below = self._marks_below(layout, shows_above)
        self._walk(root, relations, gathered, "slide", layout)
        page = replace(gathered.page(), is_hidden=is_hidden)
        return replace(page, marks=(*below, *page.marks)), gathered.images

    def _walk(
        self,
        root: Element,
        relations: dict[str, Relationship],
        gathered: PageGatherer,
        source: str,
        above: _Shared | None,
        *,
        skips_placeholders: bool = False,
    ) -> Element | None:
        tree = child(root, "cSld", "spTree")
        walk = ShapeWalk(
            parts=self.parts,
            page=gathered,
            relations=relations,
            marks=self.marks,
            source=source,
            theme=self._theme(above),
            inherited=lambda placeholder: _inherited(placeholder, above),
            skips_placeholders=skips_placeholders,
        )
        if tree is not None:
            walk.tree(tree)
        return tree

    def _theme(self, above: _Shared | None) -> Theme:
        while above is not None and above.above is not None:
            above = above.above
        return self._themes.get(above.part, Theme({})) if above is not None else Theme({})

    def _background(
        self,
        root: Element,
        relations: dict[str, Relationship],
        gathered: PageGatherer,
        above: _Shared | None,
    ) -> bool:
        """Gathers a background; whether there is one, so that those above do not show."""
        stated = child(root, "cSld", "bg")
        if stated is None:
            return False
        fill, theme = fill_in(child(stated, "bgPr")), self._theme(above)
        if fill is None:
            fill = theme.fill(child(stated, "bgRef"))
            relations = theme.relations
        if fill is not None:
            width, height = self._size
            shape = Shape(
                matrix=Matrix.scaling(width, height),
                own_w_pt=width,
                own_h_pt=height,
                source="background",
            )
            paint_fill(fill, shape, relations, gathered, self.marks)
        return True

    def _layout(self, part: str | None) -> _Shared | None:
        return self._shared_part(part, PageKind.LAYOUT) if part is not None else None

    def _shared_part(self, part: str, kind: PageKind) -> _Shared | None:
        if part in self._shared:
            return self._shared[part]
        root = self.parts.root(part)
        if root is None:
            return None
        relations = self.parts.relations(part)
        title = child(root, "cSld")
        gathered = self._gatherer(0, kind, title.get("name", "") if title is not None else "")
        shared = _Shared(part, gathered, None, relations)
        # Known before what is above it is looked for: parts may refer to each other in a circle.
        self._shared[part] = shared
        if kind is PageKind.LAYOUT:
            master = self.parts.first(part, "slideMaster")
            if master is not None and master != part:
                shared.above = self._shared_part(master, PageKind.MASTER)
        else:
            theme = self.parts.first(part, "theme")
            self._themes[part] = theme_of(self.parts, part)
            scheme = self.parts.root(theme)
            gathered.title = gathered.title or (
                scheme.get("name", "") if scheme is not None else ""
            )
        if shared.above is shared or (shared.above is not None and shared.above.above is shared):
            shared.above = None
        shared.shows_above = is_on(root.get("showMasterSp"), default=True)
        above = shared if kind is PageKind.MASTER else shared.above
        shared.has_background = self._background(root, relations, gathered, above)
        shared.background_images = len(gathered.images)
        source = "master" if kind is PageKind.MASTER else "layout"
        shared.tree = self._walk(root, relations, gathered, source, above, skips_placeholders=True)
        styles = child(root, "txStyles")
        if styles is not None:
            page = Shape(matrix=Matrix.scaling(1, 1), own_w_pt=1, own_h_pt=1, source="bullet")
            paint_bullets(styles, page, relations, gathered, self.marks)
        return shared

    def _count(
        self, layout: _Shared | None, is_hidden: bool, shows_above: bool, has_background: bool
    ) -> None:
        """Counts a slide for all that it shows of its layout and master."""
        above, covered = layout, has_background
        while above is not None:
            if shows_above:
                above.shown_on += 1
                above.hidden_on += is_hidden
            if not covered:
                above.backgrounds_on += 1
            covered = covered or above.has_background
            shows_above = shows_above and above.shows_above
            above = above.above

    def _marks_below(self, layout: _Shared | None, shows_above: bool) -> list[SketchMark]:
        """What a sketch shows of a slide's layout and master, the master's below."""
        found: list[SketchMark] = []
        above, shows = layout, shows_above
        while above is not None and shows:
            found = [*above.gathered.marks, *found]
            shows = above.shows_above
            above = above.above
        return found

    def _add_notes(
        self, notes: list[tuple[int, str]], pages: list[DocumentPage], images: list[ImageOnPage]
    ) -> None:
        """Notes pages with pictures, and what notes and handouts have below them."""
        root = self.parts.root(self.part)
        size = child(root, "notesSz") if root is not None else None
        notes_size = (points(size.get("cx")), points(size.get("cy"))) if size is not None else None
        kinds = [(number, part, PageKind.NOTES, "notes") for number, part in notes]
        for kind, page_kind in (
            ("notesMaster", PageKind.NOTES),
            ("handoutMaster", PageKind.HANDOUT),
        ):
            for relation in self.parts.of_kind(self.part, kind):
                if relation.part is not None:
                    kinds.append((0, relation.part, page_kind, page_kind.value))
        for number, part, page_kind, source in kinds:
            root = self.parts.root(part)
            if root is None:
                continue
            gathered = self._gatherer(len(pages) + 1, page_kind)
            if notes_size is not None and min(notes_size) > 0:
                gathered.width_pt, gathered.height_pt = notes_size
            relations = self.parts.relations(part)
            self._walk(root, relations, gathered, source, None, skips_placeholders=number == 0)
            if gathered.images:
                pages.append(replace(gathered.page(), number=number or None))
                images += gathered.images
            self.parts.forget(part)

    def _add_shared(self, pages: list[DocumentPage], images: list[ImageOnPage]) -> None:
        """Layouts and masters that paint pictures, each once; those no slide uses as well."""
        for relation in self.parts.of_kind(self.part, "slideMaster"):
            if relation.part is not None:
                self._shared_part(relation.part, PageKind.MASTER)
                for layout in self.parts.of_kind(relation.part, "slideLayout"):
                    self._layout(layout.part)
        for shared in self._shared.values():
            gathered = shared.gathered
            if not gathered.images:
                continue
            number = len(pages) + 1
            for place, image in enumerate(gathered.images):
                is_background = place < shared.background_images
                count = shared.backgrounds_on if is_background else shared.shown_on
                unseen = image.unseen
                if not count:
                    unseen = unseen or (
                        REPLACED if is_background and shared.shown_on else UNUSED_LAYOUT
                    )
                images.append(replace(image, page_number=number, unseen=unseen))
            shown_on = max(shared.shown_on, shared.backgrounds_on)
            pages.append(replace(gathered.page(), shown_on=shown_on, hidden_on=shared.hidden_on))


def _slide_ids(listed: Element | None) -> list[Element]:
    return [one for one in children(listed) if local(one) == "sldId"] if listed is not None else []


def _rel_id(slide: Element) -> str:
    """The relationship of a slide's entry, which has a number of its own called `id` as well."""
    for key, value in slide.attrib.items():
        if key.startswith("{") and key.endswith("}id"):
            return str(value)
    return ""


def _inherited(placeholder: Element, above: _Shared | None) -> Inherited:
    """What a placeholder takes from the layout, and from the master where that says nothing."""
    kind, index = placeholder.get("type", ""), placeholder.get("idx", "")
    frame, fill, relations = None, None, {}
    while above is not None:
        found = above.placeholder(kind, index)
        properties = child(found, "spPr") if found is not None else None
        if properties is not None:
            frame = frame or frame_of(child(properties, "xfrm"))
            if fill is None:
                fill, relations = fill_in(properties), above.relations
        if found is not None and not kind:
            role = next((one for one in descendants(found) if local(one) == "ph"), None)
            kind = role.get("type", "") if role is not None else kind
        above, index = above.above, ""
    return Inherited(frame, fill, relations)
