"""Documents of ISO/IEC 26300: presentations, drawings, texts and spreadsheets."""

from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any

from harnet.core.documents.document import LeftoverKind
from harnet.media.errors import UnreadableFile
from harnet.media.packages.archive import (
    MOST_XML_BYTES,
    Package,
    PartsInMemory,
    UnreadablePart,
)
from harnet.media.packages.gathering import ReadDocument, short
from harnet.media.packages.leftovers import leftover_values
from harnet.media.packages.media import MediaStore, looks_like_picture
from harnet.media.packages.opendocument.bodies import BodyReader
from harnet.media.packages.opendocument.frames import Pictures
from harnet.media.packages.opendocument.styles import Styles
from harnet.media.packages.xml import (
    Element,
    descendants,
    local,
    parsed,
    required_root,
)

_ENCRYPTED = "the document is encrypted with a password"


def is_opendocument(package: Package) -> bool:
    """Whether a package says that it is such a document, or is built like one."""
    kind = _mimetype(package)
    if kind:
        return "opendocument" in kind
    return package.found("content.xml") is not None and package.found("styles.xml") is not None


def _mimetype(package: Package) -> str:
    name = package.found("mimetype")
    if name is None:
        return ""
    try:
        return package.read(name, 1000).decode("ascii", "ignore").strip()
    except UnreadablePart:
        return ""


class OpenDocumentReader:
    """Reads a document in a package."""

    def __init__(self, package: Package) -> None:
        self._package = package

    def read(self) -> ReadDocument:
        """The whole document.

        Raises:
            UnreadableFile: it is encrypted, damaged, or of a kind that is not checked.
        """
        package = self._package
        if self._is_encrypted():
            raise UnreadableFile(package.name, _ENCRYPTED, "Save it without a password")
        content = self._root("content.xml")
        media = MediaStore(package)
        styles = Styles()
        styles.take(content)
        notes = []
        try:
            others = parsed(package.read("styles.xml"), "styles.xml")
            styles.take(others)
        except UnreadablePart as error:
            notes.append(short(str(error)))
        pictures = Pictures(find=partial(package.resolved, ""), keep=lambda _data: "")
        reader = BodyReader(media, styles, pictures)
        read = reader.read(content)
        told = {
            "leftovers": self._leftovers(media),
            "repeated": media.repeated_values(),
            "notes": notes,
            **self._about(),
        }
        return replace(read, whole=read.whole | told)

    def _root(self, part: str) -> Element:
        return required_root(self._package, part, "document", "Save it again")

    def _is_encrypted(self) -> bool:
        try:
            return b"encryption-data" in self._package.read("META-INF/manifest.xml")
        except UnreadablePart:
            return False

    def _about(self) -> dict[str, str]:
        try:
            root = parsed(self._package.read("meta.xml"), "meta.xml")
        except UnreadablePart:
            return {}
        found = {local(one): (one.text or "") for one in descendants(root)}
        return {
            "producer": short(found.get("generator", "")),
            "title": short(found.get("title", "")),
        }

    def _leftovers(self, media: MediaStore) -> list[dict[str, Any]]:
        """Pictures that nothing in content and styles was seen to show."""
        found = []
        for part in self._package.names:
            if not looks_like_picture(part) or part in media.used or "Thumbnails/" in part:
                continue
            kind = LeftoverKind.UNKNOWN if self._is_named(part) else LeftoverKind.UNUSED
            found.append(leftover_values(media, part, kind))
        return found

    def _is_named(self, part: str) -> bool:
        for xml in ("content.xml", "styles.xml"):
            try:
                if part.encode() in self._package.read(xml):
                    return True
            except UnreadablePart:
                continue
        # An object inside the document has pictures of its own.
        return not part.startswith("Pictures/")


class FlatReader:
    """Reads a document that is one XML file, pictures included."""

    def __init__(self, path: Path, name: str) -> None:
        self._path, self._name = path, name

    def read(self) -> ReadDocument:
        """The whole document.

        Raises:
            UnreadableFile: damaged, too large, or of a kind that is not checked.
        """
        if self._path.stat().st_size > 8 * MOST_XML_BYTES:
            raise UnreadableFile(self._name, "it is larger than any document in one XML file")
        try:
            root = parsed(self._path.read_bytes(), self._name, holds_data=True)
        except UnreadablePart as error:
            raise UnreadableFile(self._name, str(error), "Save it again") from None
        store = PartsInMemory()
        media = MediaStore(store)
        styles = Styles()
        styles.take(root)
        pictures = Pictures(
            find=lambda _address: None,
            keep=lambda data: store.put(f"picture {len(store.names) + 1}", data),
        )
        read = BodyReader(media, styles, pictures).read(root)
        repeated = media.repeated_values()
        return replace(read, whole=read.whole | {"repeated": repeated}, store=store)
