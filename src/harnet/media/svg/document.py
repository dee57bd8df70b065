"""An SVG as a document: one page, with the raster images inside or beside it."""

import base64
import binascii
from pathlib import Path
from urllib.parse import unquote, unquote_to_bytes

from harnet.core.documents.document import PageKind
from harnet.core.documents.formats import DocumentFormat
from harnet.media.errors import UnreadableFile
from harnet.media.packages.archive import MOST_MEDIA_BYTES, PartsInMemory, UnreadablePart
from harnet.media.packages.gathering import PageGatherer, ReadDocument, short
from harnet.media.packages.media import MediaStore
from harnet.media.packages.xml import Element, local, parsed
from harnet.media.svg.css import Cascade
from harnet.media.svg.sizes import PT_PER_PX, USUAL_PX, length_px, view_box
from harnet.media.svg.walk import PX_TO_POINTS, SvgWalk

MOST_SVG_BYTES = 400_000_000
_MOST_BESIDE = 2_000


class SvgReader:
    """Reads an SVG; `beside` is the folder of pictures that it may refer to."""

    def __init__(self, path: Path, name: str, beside: Path | None) -> None:
        self._path, self._name = path, name
        self._images = InlineImages(PartsInMemory(), beside)

    def read(self) -> ReadDocument:
        """The SVG as one page.

        Raises:
            UnreadableFile: it is no SVG, or too large.
        """
        if self._path.stat().st_size > MOST_SVG_BYTES:
            limit = MOST_SVG_BYTES // 1_000_000
            raise UnreadableFile(self._name, f"the SVG is larger than {limit} MB")
        data = self._path.read_bytes()
        try:
            root = parsed(data, "the SVG", holds_data=True)
        except UnreadablePart as error:
            raise UnreadableFile(
                self._name, str(error), "Export it again from the drawing program"
            ) from None
        if local(root) != "svg":
            raise UnreadableFile(self._name, "it is XML, but not an SVG")
        width, height = size_px(root)
        page = PageGatherer(
            MediaStore(self._images.store),
            1,
            PageKind.PAGE,
            width * PT_PER_PX,
            height * PT_PER_PX,
        )
        cascade = Cascade(root)
        cascade.take_own_sheets()
        walk = SvgWalk(page=page, find=self._images.find, styles=cascade.of)
        walk.walk(root, PX_TO_POINTS, width, height)
        media = page.media
        whole: dict[str, object] = {
            "format": DocumentFormat.SVG.value,
            "parts": 1,
            "repeated": media.repeated_values(),
            "title": short(_title(root)),
        }
        store = self._images.store
        return ReadDocument(pages=[page.page()], images=page.images, whole=whole, store=store)


def size_px(root: Element, usual: tuple[float, float] = USUAL_PX) -> tuple[float, float]:
    """Width and height of an SVG's viewport in CSS px.

    What is not stated comes from the viewBox, one unit for one px, else from `usual`.
    """
    width, height = length_px(root.get("width")), length_px(root.get("height"))
    box = view_box(root.get("viewBox"))
    if box is not None:
        if width is None and height is None:
            return box.width, box.height
        if width is None and height is not None:
            return height * box.width / box.height, height
        if height is None and width is not None:
            return width, width * box.height / box.width
    return width or usual[0], height or usual[1]


def _title(root: Element) -> str:
    return next((one.text or "" for one in root if local(one) == "title"), "")


class InlineImages:
    """Images that stand in the text of a document as data, or lie in files beside it."""

    def __init__(self, store: PartsInMemory, beside: Path | None = None) -> None:
        self.store, self._beside = store, beside
        self._known: dict[str, str | None] = {}

    def find(self, address: str) -> str | None:
        """The part with an image's bytes; None where it is neither inside nor beside."""
        key = address if len(address) < 300 else f"{hash(address)} {len(address)}"
        if key not in self._known:
            self._known[key] = self._taken(address)
        return self._known[key]

    def _taken(self, address: str) -> str | None:
        if address[:5].lower() == "data:":
            data = data_in(address)
            name = f"image {len(self.store.names) + 1}"
        else:
            data, name = self._file(address), short(address)
        return self.store.put(name, data) if data is not None else None

    def _file(self, address: str) -> bytes | None:
        """A file in the folder of the document, or below it; nothing else is ever opened."""
        if self._beside is None or ":" in address or len(self.store.names) > _MOST_BESIDE:
            return None
        folder = self._beside.resolve()
        path = (folder / unquote(address.split("#")[0].split("?")[0])).resolve()
        try:
            if not path.is_relative_to(folder) or not path.is_file():
                return None
            return path.read_bytes() if path.stat().st_size <= MOST_MEDIA_BYTES else None
        except OSError:
            return None


def data_in(address: str) -> bytes | None:
    """The bytes of a data address (RFC 2397); None where it holds none."""
    head, comma, text = address.partition(",")
    if not comma:
        return None
    try:
        if head.lower().rstrip().endswith(";base64"):
            return base64.b64decode("".join(unquote(text).split()))
        return unquote_to_bytes(text)
    except (binascii.Error, ValueError):
        return None
