"""Taking crops out of a document once what they cut off is gone: srcRect and fo:clip."""

from collections.abc import Iterator
from typing import Any

from lxml import etree

from harnet.core.documents.formats import DocumentFormat
from harnet.core.documents.images import Crop
from harnet.media.packages.archive import Package
from harnet.media.packages.making.replacing import NotReplaced
from harnet.media.packages.relationships import Parts
from harnet.media.packages.xml import Element, attribute, local

_OFFICE = frozenset({DocumentFormat.PPTX, DocumentFormat.DOCX, DocumentFormat.XLSX})
_OPEN = frozenset({DocumentFormat.ODT, DocumentFormat.ODP, DocumentFormat.ODG, DocumentFormat.ODS})
_PER = 100_000
_NO_CLIP = "rect(0cm, 0cm, 0cm, 0cm)"


class Cutter:
    """Changes the crops in a package; parts of XML that it changed are in `changed`."""

    def __init__(self, package: Package, form: DocumentFormat) -> None:
        self._package, self._form = package, form
        self._parts = Parts(package)
        self._touched: set[str] = set()

    def set_crop(self, part: str, crop: Crop) -> None:
        """Has a picture file cropped otherwise wherever it is shown.

        Raises:
            NotReplaced: it is shown in ways whose crop cannot be changed alike.
        """
        if self._form in _OFFICE:
            self._in_office(part, crop)
        elif self._form in _OPEN:
            self._in_open(part)
        else:
            raise NotReplaced("cropped-off parts are cut away in slide decks and texts alone")

    def changed(self) -> dict[str, bytes]:
        """The parts of XML with other crops in them."""
        return {
            name: etree.tostring(
                self._parts.root(name), xml_declaration=True, encoding="UTF-8", standalone=True
            )
            for name in self._touched
        }

    def _in_office(self, part: str, crop: Crop) -> None:
        """A crop stands in a source rectangle beside each reference to the picture.

        Raises:
            NotReplaced: they differ, or something else shows the picture.
        """
        fills: list[tuple[str, Element]] = []
        for owner, ids in self._owners(part):
            root = self._parts.root(owner)
            if root is None:
                raise NotReplaced("a part that shows it cannot be read")
            found = [
                one.getparent()
                for one in root.iter()
                if local(one) == "blip" and attribute(one, "embed") in ids
            ]
            named = sum(
                value in ids
                for one in root.iter()
                if isinstance(one.tag, str)
                for key, value in one.attrib.items()
                if key.startswith("{") and "relationships" in key
            )
            if named != len(found) or any(local(one) != "blipFill" for one in found):
                raise NotReplaced("it is shown in a way whose crop cannot be changed")
            fills += [(owner, one) for one in found]
        rects = {tuple(sorted(_rect(fill).attrib.items())) for _, fill in fills}
        if len(rects) != 1 or any(_is_tile_or_inset(fill) for _, fill in fills):
            raise NotReplaced("it is cropped in different ways")
        for owner, fill in fills:
            rect = _rect(fill)
            rect.attrib.clear()
            for side, value in zip("ltrb", crop, strict=True):
                thousandths = round(value * _PER)
                if thousandths:
                    rect.set(side, str(thousandths))
            self._touched.add(owner)

    def _owners(self, part: str) -> Iterator[tuple[str, set[str]]]:
        """The parts that refer to a picture file, with the ids by which they do."""
        for name in self._package.names:
            if not name.endswith(".rels") or "_rels/" not in name:
                continue
            folder, _, file = name.rpartition("_rels/")
            owner = folder + file.removesuffix(".rels")
            ids = {one.id for one in self._parts.relations(owner).values() if one.part == part}
            if ids:
                yield owner, ids

    def _in_open(self, part: str) -> None:
        """A clip stands in a style, which must be that of this picture's frames alone.

        Raises:
            NotReplaced: it is that of other pictures, too, or the picture is a fill as well.
        """
        styles: set[str] = set()
        roots = {name: self._parts.root(name) for name in ("content.xml", "styles.xml")}
        for root in roots.values():
            for image in root.iter() if root is not None else ():
                shows = local(image) in ("image", "fill-image", "background-image") and (
                    self._package.resolved("", attribute(image, "href")) == part
                )
                if not shows:
                    continue
                frame = image.getparent()
                if local(image) != "image" or local(frame) != "frame":
                    raise NotReplaced("it is shown in a way whose crop cannot be changed")
                styles.add(attribute(frame, "style-name"))
        for root in roots.values():
            for frame in root.iter() if root is not None else ():
                if local(frame) == "frame" and attribute(frame, "style-name") in styles:
                    shown = {
                        self._package.resolved("", attribute(one, "href"))
                        for one in frame
                        if local(one) == "image"
                    }
                    if shown != {part}:
                        raise NotReplaced("its crop belongs to other pictures as well")
        changed = False
        for name, root in roots.items():
            for style in root.iter() if root is not None else ():
                if local(style) == "style" and attribute(style, "name") in styles:
                    changed = self._unclipped(name, style) or changed
        if not changed:
            raise NotReplaced("its crop cannot be changed")

    def _unclipped(self, name: str, style: Any) -> bool:
        for one in style:
            for key in list(one.attrib):
                if str(key).rpartition("}")[2] == "clip":
                    one.set(key, _NO_CLIP)
                    self._touched.add(name)
                    return True
        return False


def _rect(fill: Element) -> Element:
    """The source rectangle of a fill; made where there is none."""
    for one in fill:
        if local(one) == "srcRect":
            return one
    blip = next(one for one in fill if local(one) == "blip")
    made = blip.makeelement(blip.tag.replace("blip", "srcRect"))
    blip.addnext(made)
    return made


def _is_tile_or_inset(fill: Element) -> bool:
    for one in fill.iter():
        if local(one) == "tile":
            return True
        if local(one) == "fillRect" and any(
            value not in ("0", "0%") for value in one.attrib.values()
        ):
            return True
    return False
