"""A document made elsewhere as a whole: its pages, what it says of itself, what travels along."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import Enum
from typing import Any

from harnet.core.documents.formats import DocumentFormat
from harnet.core.documents.sketch import SketchMark, mark_values, marks_in
from harnet.core.documents.userspace import bleed_between

Edges = tuple[float, float, float, float]
"""Left, bottom, right, top of a box, in points, y upwards."""


class PageKind(Enum):
    """What a page of a document is; those without a number of their own follow the others."""

    PAGE = "page"
    SLIDE = "slide"
    SECTION = "section"
    """An item of a book's spine."""
    TEXT = "text"
    """A text that has no pages before it is set."""
    SHEET = "sheet"
    LAYOUT = "layout"
    MASTER = "master"
    NOTES = "notes"
    HANDOUT = "handout"

    @property
    def is_numbered(self) -> bool:
        """Whether it counts in the document's order."""
        return self in (PageKind.PAGE, PageKind.SLIDE, PageKind.SECTION)

    @property
    def is_shared(self) -> bool:
        """Whether what is on it shows on several others."""
        return self in (PageKind.LAYOUT, PageKind.MASTER)


@dataclass(frozen=True, slots=True, kw_only=True)
class DocumentPage:
    """A page of a document: what is seen of it, the boxes that it states, what was noticed on it.

    `box` is what is seen, before the turn; all zeros where there is nothing to draw on. `is_bare`
    says that a picture meets the edge where the page is cut and nothing lies beyond; `left_out`
    what of its content was not followed. `number` is that of the slide that notes belong to;
    `shown_on` how many slides show a master or a layout, `hidden_on` how many of them are hidden.
    """

    box: Edges
    turn_deg: int
    trim: Edges | None = None
    bleed: Edges | None = None
    is_transparent: bool = False
    is_bare: bool = False
    left_out: str = ""
    kind: PageKind = PageKind.PAGE
    title: str = ""
    number: int | None = None
    shown_on: int | None = None
    hidden_on: int = 0
    is_hidden: bool = False
    marks: tuple[SketchMark, ...] = ()

    @property
    def cut(self) -> Edges:
        """Where the page is cut: its trim, or all that is seen."""
        return self.trim or self.box

    @property
    def bleed_pt(self) -> float:
        """How far the page reaches beyond where it is cut, on its narrowest side."""
        return bleed_between(self.cut, self.bleed or self.box)

    @property
    def is_drawn(self) -> bool:
        """Whether it has a size, so that a picture stands somewhere on it."""
        left, bottom, right, top = self.box
        return right > left and top > bottom


_NOTHING: Edges = (0.0, 0.0, 0.0, 0.0)


def text_page(title: str = "", kind: PageKind = PageKind.TEXT) -> DocumentPage:
    """What stands for a text that has no pages."""
    return DocumentPage(box=_NOTHING, turn_deg=0, kind=kind, title=title)


def page_from(stored: Mapping[str, Any]) -> DocumentPage:
    """A page from what `page_values` made; what was not asked for then is False or empty."""
    return DocumentPage(
        box=_edges(stored["box"]),
        turn_deg=stored["turn"],
        trim=_edges(stored["trim"]) if stored["trim"] else None,
        bleed=_edges(stored["bleed"]) if stored["bleed"] else None,
        is_transparent=stored["is_transparent"],
        is_bare=stored.get("is_bare", False),
        left_out=stored["left_out"],
        kind=PageKind(stored.get("kind", PageKind.PAGE.value)),
        title=stored.get("title", ""),
        number=stored.get("number"),
        shown_on=stored.get("shown_on"),
        hidden_on=stored.get("hidden_on", 0),
        is_hidden=stored.get("is_hidden", False),
        marks=marks_in(stored),
    )


def page_values(page: DocumentPage) -> dict[str, Any]:
    """A page as JSON keeps it."""
    values: dict[str, Any] = {
        "box": page.box,
        "turn": page.turn_deg,
        "trim": page.trim,
        "bleed": page.bleed,
        "is_transparent": page.is_transparent,
        "is_bare": page.is_bare,
        "left_out": page.left_out,
    }
    if page.kind is not PageKind.PAGE:
        values |= {"kind": page.kind.value, "title": page.title, "number": page.number}
        values |= {"shown_on": page.shown_on, "hidden_on": page.hidden_on}
        values |= {"is_hidden": page.is_hidden}
    if page.marks:
        values["marks"] = [mark_values(one) for one in page.marks]
    return values


def _edges(stored: Sequence[float]) -> Edges:
    left, bottom, right, top = stored
    return left, bottom, right, top


class LeftoverKind(Enum):
    """Why a picture in a document's file is not seen on any page."""

    UNUSED = "unused"
    """Nothing refers to it."""
    EDITED = "edited"
    """The state before an effect, kept so that the effect can be undone."""
    UNKNOWN = "unknown"
    """Something refers to it in a way that Harnet does not know."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Leftover:
    """A picture that a file holds and that no page shows; pixels are 0 where they are not known."""

    part: str
    kind: LeftoverKind
    size_bytes: int
    px_w: int = 0
    px_h: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Repeated:
    """Parts with the same bytes, each of `size_bytes`."""

    parts: tuple[str, ...]
    size_bytes: int

    @property
    def spare_bytes(self) -> int:
        """What all but one of them take."""
        return self.size_bytes * (len(self.parts) - 1)


@dataclass(frozen=True, slots=True, kw_only=True)
class SavingSettings:
    """What a document's own settings say about pictures when it is saved; None where nothing.

    `default_ppi` is the density that pictures are shrunk to; 0 stands for "not at all".
    `marked_ppi` counts pictures by the density that they are marked as shrunk for.
    """

    shrinks: bool | None = None
    default_ppi: int | None = None
    discards_edits: bool | None = None
    marked_ppi: Mapping[int, int] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class DocumentFacts:
    """A document as it was read: its pages, and what it says of itself.

    `unembedded_fonts` are the names of fonts that are not embedded. `intent` is the colour model
    whose figures its output intent explains, empty where it has none. `is_damaged` says that it
    had to be mended to be read. `notes` are sentences on what was not followed in the whole.
    """

    name: str
    pages: Sequence[DocumentPage]
    version: str = ""
    unembedded_fonts: tuple[str, ...] = ()
    intent: str = ""
    is_damaged: bool = False
    format: DocumentFormat = DocumentFormat.PDF
    saving: SavingSettings = field(default_factory=SavingSettings)
    leftovers: tuple[Leftover, ...] = ()
    repeated: tuple[Repeated, ...] = ()
    notes: tuple[str, ...] = ()
    parts: int = 0
    """How many slides, sheets or sections it has; 0 where its pages are counted."""

    def page_of(self, page_number: int) -> DocumentPage | None:
        """The page at a place in the list, from 1."""
        return self.pages[page_number - 1] if 1 <= page_number <= len(self.pages) else None

    def number_of(self, page_number: int) -> int | None:
        """The number that readers know a page by; None where it has none."""
        page = self.page_of(page_number)
        if page is None:
            return page_number or None
        return page_number if page.kind.is_numbered else page.number

    @property
    def count(self) -> int:
        """How many pages, slides, sheets or sections it has."""
        return self.parts or sum(page.kind.is_numbered for page in self.pages)


def read_from(name: str, stored: Mapping[str, Any], pages: Sequence[DocumentPage]) -> DocumentFacts:
    """A document from what is kept of it as a whole; what was not asked for then is empty."""
    saving = stored.get("saving", {})
    return DocumentFacts(
        name=name,
        pages=pages,
        version=stored.get("version", ""),
        unembedded_fonts=tuple(stored.get("unembedded_fonts", ())),
        intent=stored.get("intent", ""),
        is_damaged=stored.get("is_damaged", False),
        format=DocumentFormat(stored.get("format", DocumentFormat.PDF.value)),
        saving=SavingSettings(
            **{**saving, "marked_ppi": {int(k): v for k, v in saving["marked_ppi"].items()}}
        )
        if saving
        else SavingSettings(),
        leftovers=tuple(
            Leftover(**{**one, "kind": LeftoverKind(one["kind"])})
            for one in stored.get("leftovers", ())
        ),
        repeated=tuple(
            Repeated(parts=tuple(one["parts"]), size_bytes=one["size_bytes"])
            for one in stored.get("repeated", ())
        ),
        notes=tuple(stored.get("notes", ())),
        parts=stored.get("parts", 0),
    )
