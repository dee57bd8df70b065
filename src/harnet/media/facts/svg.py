"""SVG: natural size, and refusal of anything that reaches beyond the file or runs."""

import re
from pathlib import Path
from xml.etree.ElementTree import Element, ParseError

from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import parse

from harnet.core.errors import ValueOutOfRange
from harnet.core.picture import Colour, Facts, Kind
from harnet.core.units import CSS_PX_PER_INCH, POINTS_PER_INCH, Unit, length_from_text
from harnet.media.errors import UnreadableFile
from harnet.media.limits import MAX_SVG_BYTES
from harnet.media.pdf.vector import Inside, inside_svg

_DEFAULT_SIZE_PX = (300.0, 150.0)
"""CSS 2.2, 10.3.2: a replaced element without any size of its own."""
_PAINTS_PIXELS = {"image", "feImage"}
_ACTIVE = {"script", "foreignObject", "iframe", "handler", "listener"}
_FETCHING = {"image", "use", "feImage", "tref", "pattern", "linearGradient", "radialGradient"}
_OUTSIDE_URL = re.compile(r"url\((?!\s*['\"]?\s*(?:#|data:))|@import", re.IGNORECASE)
_ADVICE = "Save it again without scripts and without references to other files"


def read_svg(path: Path, name: str) -> Facts:
    """Facts of a self-contained SVG.

    Raises:
        UnreadableFile: not XML, too large, or with a script or a reference to outside.
    """
    size_bytes = path.stat().st_size
    if size_bytes > MAX_SVG_BYTES:
        raise UnreadableFile(name, f"the SVG is larger than {MAX_SVG_BYTES // 10**6} MB")
    try:
        root = parse(path, forbid_dtd=False, forbid_entities=True, forbid_external=True).getroot()
    except DefusedXmlException:
        raise UnreadableFile(name, "the SVG declares entities", _ADVICE) from None
    except (ParseError, UnicodeDecodeError, ValueError):
        raise UnreadableFile(
            name, "the SVG is not well-formed XML", "Export it again from the drawing program"
        ) from None
    if _local(root.tag) != "svg":
        raise UnreadableFile(name, "it is XML but not an SVG picture")
    _refuse_reaching_out(root, name)
    width_pt, height_pt = natural_size_pt(root)
    paints_pixels = any(_local(element.tag) in _PAINTS_PIXELS for element in root.iter())
    inside = inside_svg(path, name) if paints_pixels else Inside(width_pt, height_pt)
    width_pt, height_pt = inside.width_pt, inside.height_pt
    return Facts(
        Kind.VECTOR,
        "svg",
        None,
        None,
        None,
        None,
        Colour.VECTOR,
        0,
        0,
        alpha=True,
        lossy=False,
        icc=None,
        frames=1,
        size_bytes=size_bytes,
        compression="none",
        width_pt=width_pt,
        height_pt=height_pt,
        images=inside.images,
        image_count=inside.image_count,
    )


def _local(tag: object) -> str:
    return tag.rpartition("}")[2] if isinstance(tag, str) else ""


def _refuse_reaching_out(root: Element, name: str) -> None:
    for element in root.iter():
        tag = _local(element.tag)
        if tag in _ACTIVE:
            raise UnreadableFile(name, f"the SVG holds a <{tag}> element", _ADVICE)
        if tag == "style" and _OUTSIDE_URL.search(element.text or ""):
            raise UnreadableFile(name, "the SVG's styles refer to another file", _ADVICE)
        for key, value in element.attrib.items():
            attribute = _local(key)
            if attribute.lower().startswith("on"):
                raise UnreadableFile(name, f"the SVG holds a script in “{attribute}”", _ADVICE)
            reaches = attribute == "href" and tag in _FETCHING
            if reaches and not value.strip().startswith(("#", "data:")):
                raise UnreadableFile(
                    name, f"the SVG refers to another file, “{value[:80]}”", _ADVICE
                )
            if _OUTSIDE_URL.search(value):
                raise UnreadableFile(
                    name, f"the SVG refers to another file in “{attribute}”", _ADVICE
                )


def natural_size_pt(root: Element) -> tuple[float, float]:
    """Width and height as the SVG states them; bare numbers are CSS pixels."""
    box = [float(part) for part in re.findall(r"-?[\d.]+", root.get("viewBox", ""))]
    has_box = len(box) == 4 and box[2] > 0 and box[3] > 0
    width, height = _length_pt(root.get("width")), _length_pt(root.get("height"))
    if width and height:
        return width, height
    ratio = box[2] / box[3] if has_box else _DEFAULT_SIZE_PX[0] / _DEFAULT_SIZE_PX[1]
    if width:
        return width, width / ratio
    if height:
        return height * ratio, height
    per_px = POINTS_PER_INCH / CSS_PX_PER_INCH
    return (
        (box[2] * per_px, box[3] * per_px)
        if has_box
        else (_DEFAULT_SIZE_PX[0] * per_px, _DEFAULT_SIZE_PX[1] * per_px)
    )


def _length_pt(text: str | None) -> float | None:
    try:
        length = length_from_text(text, Unit.PX) if text else 0.0
    except ValueOutOfRange:
        return None
    return length if length > 0 else None
