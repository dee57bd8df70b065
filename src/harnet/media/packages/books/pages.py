"""The pictures of one XHTML page of a book, sized as CSS says (formula 14)."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace

from harnet.core.measure.geometry import Matrix
from harnet.media.packages.gathering import HIDDEN, Fitting, PageGatherer, Shape
from harnet.media.packages.xml import Element, attribute, local
from harnet.media.svg.css import Cascade, address_in
from harnet.media.svg.document import size_px
from harnet.media.svg.sizes import PT_PER_PX, Aspect, filled_in, fitting_for, length_px
from harnet.media.svg.walk import PX_TO_POINTS, SvgWalk

_EM_PX = 16.0
"""The usual size of letters in browsers; common practice, no source."""
_HEADINGS = frozenset({"h1", "h2", "h3", "h4", "h5", "h6"})
_WITH_ADDRESS = {"img": "src", "embed": "src", "input": "src", "object": "data", "video": "poster"}
_NOT_SHOWN = frozenset({"head", "script", "style", "template", "title"})
_FITS = {
    "fill": Aspect(is_stretched=True),
    "contain": Aspect(),
    "cover": Aspect(is_cut=True),
    "scale-down": Aspect(),
}


@dataclass(slots=True, kw_only=True)
class BookPageWalk:
    """Walks a page in reading order; `viewport` is its size in px where the book fixes it."""

    page: PageGatherer
    find: Callable[[str], str | None]
    cascade: Cascade
    viewport: tuple[float, float] | None = None
    covers: frozenset[str] = frozenset()
    heading: str = ""
    _widths: list[float | None] = field(default_factory=list)
    _in_cell: int = 0

    def walk(self, root: Element) -> None:
        """Everything on the page."""
        self._widths = [self.viewport[0] if self.viewport else None]
        self._one(root, "")

    def _one(self, one: Element, unseen: str) -> None:
        name = local(one)
        if not name or name in _NOT_SHOWN:
            return
        styles = self.cascade.of(one)
        if styles.get("display") == "none" or styles.get("visibility") == "hidden":
            unseen = unseen or HIDDEN
        if one.get("hidden") is not None:
            unseen = unseen or HIDDEN
        if name in _HEADINGS:
            self.heading = " ".join("".join(one.itertext()).split())
        self._background(one, styles, unseen)
        if name == "svg":
            self._svg(one, unseen)
            return
        address = one.get(_WITH_ADDRESS[name], "") if name in _WITH_ADDRESS else ""
        if name == "input" and one.get("type") != "image":
            address = ""
        if address and not (name == "object" and self.find(address) is None):
            self._picture(one, address.strip(), styles, unseen)
            return
        own = _size(styles.get("width"), self._widths[-1])
        self._widths.append(own if own is not None else self._widths[-1])
        self._in_cell += name in ("td", "th")
        for each in one:
            self._one(each, unseen)
        self._in_cell -= name in ("td", "th")
        self._widths.pop()

    def _picture(self, one: Element, address: str, styles: dict[str, str], unseen: str) -> None:
        part = self.find(address)
        px = self.page.media.look_at(part).upright_px if part is not None else (0, 0)
        room = self._widths[-1]
        tall = self.viewport[1] if self.viewport else None
        width = _size(styles.get("width") or _plain(one.get("width")), room)
        height = _size(styles.get("height") or _plain(one.get("height")), tall)
        is_assumed = width is None and height is None
        width, height = filled_in(width, height, px)
        width, height = _bounded(width, height, styles, room, tall)
        shape = Shape(
            matrix=Matrix.scaling(width, height).then(PX_TO_POINTS),
            own_w_pt=width * PT_PER_PX,
            own_h_pt=height * PT_PER_PX,
            source=self._where(one, part),
            name=one.get("alt", "") or one.get("id", ""),
            heading=self.heading,
            unseen=unseen,
            is_assumed=is_assumed,
        )
        if part is None:
            self.page.link(address, shape)
            return
        aspect = _FITS.get(styles.get("object-fit", "fill"), Aspect(is_stretched=True))
        self.page.picture(
            part, shape, fitting_for(aspect, px, width, height), is_upright=True, has_mark=False
        )

    def _where(self, one: Element, part: str | None) -> str:
        if part in self.covers:
            return "cover"
        if local(one) == "video":
            return "media poster"
        return "table cell" if self._in_cell else "body"

    def _svg(self, one: Element, unseen: str) -> None:
        styles = self.cascade.of(one)
        room, tall = self._widths[-1], self.viewport[1] if self.viewport else None
        natural = size_px(one)
        width = _size(styles.get("width") or one.get("width"), room)
        height = _size(styles.get("height") or one.get("height"), tall)
        if width is None and height is None:
            width, height = natural
        elif height is None and width is not None:
            height = width * natural[1] / natural[0]
        elif width is None and height is not None:
            width = height * natural[0] / natural[1]
        assert width is not None and height is not None
        first = len(self.page.images)
        walk = SvgWalk(page=self.page, find=self.find, styles=self.cascade.of, heading=self.heading)
        walk.source = "body"
        walk.walk(one, PX_TO_POINTS, width, height)
        is_assumed = _size(one.get("width"), room) is None and not styles.get("width")
        for place in range(first, len(self.page.images)):
            image = self.page.images[place]
            where = "cover" if image.part in self.covers else image.source
            self.page.images[place] = replace(
                image,
                source=where,
                unseen=image.unseen or unseen,
                is_assumed=image.is_assumed or is_assumed,
            )

    def _background(self, one: Element, styles: dict[str, str], unseen: str) -> None:
        """A background, at one CSS px for a pixel unless its size is stated in lengths."""
        value = styles.get("background-image") or styles.get("background") or ""
        address = address_in(value) if "url" in value.lower() else None
        if address is None:
            return
        part = self.find(address)
        px = self.page.media.look_at(part).upright_px if part is not None else (0, 0)
        stated = [_size(one_side, None) for one_side in styles.get("background-size", "").split()]
        width = stated[0] if stated else None
        height = stated[1] if len(stated) > 1 else None
        is_assumed = width is None and height is None
        width, height = filled_in(width, height, px)
        shape = Shape(
            matrix=Matrix.scaling(width, height).then(PX_TO_POINTS),
            own_w_pt=width * PT_PER_PX,
            own_h_pt=height * PT_PER_PX,
            source="background",
            name=attribute(one, "id"),
            heading=self.heading,
            unseen=unseen,
            is_assumed=is_assumed,
        )
        if part is not None:
            self.page.picture(part, shape, Fitting(), is_upright=True, has_mark=False)
        else:
            self.page.link(address, shape)


def _plain(text: str | None) -> str | None:
    """A size from an attribute: a number of px, or a percentage."""
    return text.strip() if text else None


def _size(text: str | None, whole: float | None) -> float | None:
    """A length of CSS in px; None where it depends on what is not known."""
    if not text:
        return None
    text = text.strip().lower()
    for unit in ("rem", "em"):
        if text.endswith(unit):
            found = length_px(text.removesuffix(unit))
            return None if found is None else found * _EM_PX
    return length_px(text, whole)


def _bounded(
    width: float,
    height: float,
    styles: dict[str, str],
    room: float | None,
    tall: float | None,
) -> tuple[float, float]:
    """A size within `max-width` and `max-height`; the side that is not stated keeps step."""
    most_w, most_h = _size(styles.get("max-width"), room), _size(styles.get("max-height"), tall)
    if most_w is not None and width > most_w > 0:
        if styles.get("height") in (None, "auto"):
            height *= most_w / width
        width = most_w
    if most_h is not None and height > most_h > 0:
        if styles.get("width") in (None, "auto"):
            width *= most_h / height
        height = most_h
    return width, height
