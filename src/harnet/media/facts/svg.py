"""SVG: natural size, and refusal of anything that is not known to draw and nothing else."""

import math
import re
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any
from xml.etree.ElementTree import Element, ParseError

import tinycss2
from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import iterparse

from harnet.core.measure.units import CSS_PX_PER_INCH, POINTS_PER_INCH, Unit, to_points
from harnet.core.pictures.picture import Colour, Facts, Kind
from harnet.media.errors import UnreadableFile
from harnet.media.facts.svg_vocabulary import ATTRIBUTES, ELEMENTS
from harnet.media.limits import MAX_SVG_BYTES
from harnet.media.pdf.writing.vector import Inside, inside_svg

_DEFAULT_SIZE_PX = (300.0, 150.0)
"""CSS 2.2, 10.3.2: a replaced element without any size of its own."""
_SVG, _XHTML = "http://www.w3.org/2000/svg", "http://www.w3.org/1999/xhtml"
_XLINK, _XML = "http://www.w3.org/1999/xlink", "http://www.w3.org/XML/1998/namespace"
_PAINTS_PIXELS = {"image", "feImage"}
_INERT_PREFIXES = ("data-", "aria-")
_EMBEDDED = re.compile(r"data:image/(png|jpe?g|gif|webp|bmp|tiff)[;,]", re.IGNORECASE)
_LENGTH = re.compile(
    r"\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)\s*(mm|cm|in|pt|px|pc|q)?\s*", re.I
)
_ADVICE = "Save it again without scripts, animations and references to other files"
_LARGEST_PT = 1e7


def read_svg(path: Path, name: str) -> Facts:
    """Facts of a self-contained SVG.

    Raises:
        UnreadableFile: not XML, too large, or with anything that does more than draw.
    """
    size_bytes = path.stat().st_size
    if size_bytes > MAX_SVG_BYTES:
        raise UnreadableFile(name, f"the SVG is larger than {MAX_SVG_BYTES // 10**6} MB")
    try:
        root, paints_pixels = _looked_through(path, name)
    except DefusedXmlException:
        raise UnreadableFile(name, "the SVG declares entities", _ADVICE) from None
    except (ParseError, UnicodeError, LookupError, ValueError):
        raise UnreadableFile(
            name, "the SVG is not well-formed XML", "Export it again from the drawing program"
        ) from None
    width_pt, height_pt = natural_size_pt(root)
    inside = (
        inside_svg(path, name) if paints_pixels else Inside(width_pt=width_pt, height_pt=height_pt)
    )
    return Facts(
        kind=Kind.VECTOR,
        format="svg",
        px_w=None,
        px_h=None,
        density_x=None,
        density_y=None,
        colour=Colour.VECTOR,
        bits=0,
        channels=0,
        alpha=True,
        lossy=False,
        icc=None,
        frames=1,
        size_bytes=size_bytes,
        compression="none",
        width_pt=inside.width_pt,
        height_pt=inside.height_pt,
        images=inside.images,
        image_count=inside.image_count,
    )


def _looked_through(path: Path, name: str) -> tuple[dict[str, str], bool]:
    """The root's attributes, and whether there are images; element by element, none is kept.

    Raises:
        UnreadableFile: the SVG holds something that is not allowed.
    """
    root: dict[str, str] | None = None
    paints_pixels = False
    events = iterparse(
        path, events=("start", "end", "pi"), forbid_entities=True, forbid_external=True
    )
    for event, element in events:
        if event == "pi":
            if str(element.text or "").startswith("xml-stylesheet"):
                raise UnreadableFile(name, "the SVG refers to a style sheet", _ADVICE)
            continue
        if event == "start":
            if root is None:
                if _local(element.tag) != "svg":
                    raise UnreadableFile(name, "it is XML but not an SVG picture")
                root = dict(element.attrib)
            paints_pixels = _check_element(element, name) or paints_pixels
        else:
            if _local(element.tag) == "style":
                _check_styles(element.text or "", name, is_sheet=True)
            element.clear()
    assert root is not None
    return root, paints_pixels


def _local(tag: object) -> str:
    return tag.rpartition("}")[2] if isinstance(tag, str) else ""


def _space(tag: str) -> str:
    return tag[1:].partition("}")[0] if tag.startswith("{") else ""


def _check_element(element: Element, name: str) -> bool:
    """Refuses what is not known to draw; returns whether the element shows pixels.

    Elements and attributes of other vocabularies, such as those of the program that wrote the
    file, draw nothing; only XHTML is refused.

    Raises:
        UnreadableFile: the SVG holds something that is not allowed.
    """
    space, tag = _space(element.tag), _local(element.tag)
    if space == _XHTML:
        raise UnreadableFile(name, f"the SVG contains a <{tag}> of a web page", _ADVICE)
    if space not in ("", _SVG):
        return False
    if tag not in ELEMENTS:
        raise UnreadableFile(name, f"the SVG contains a <{tag[:40]}> element", _ADVICE)
    for key, value in element.attrib.items():
        _check_attribute(tag, _space(key), _local(key), value, name)
    return tag in _PAINTS_PIXELS


def _check_attribute(tag: str, space: str, key: str, value: str, name: str) -> None:
    if key == "href" and space in ("", _XLINK):
        target = value.strip()
        is_inside = target.startswith("#")
        is_picture = tag in _PAINTS_PIXELS and _EMBEDDED.match(target) is not None
        if tag != "a" and not is_inside and not is_picture and target:
            raise UnreadableFile(name, f"the SVG refers to another file, “{target[:80]}”", _ADVICE)
        return
    if space not in ("", _SVG):
        if space not in (_XLINK, _XML) and key.lower().startswith("on"):
            raise UnreadableFile(name, f"the SVG contains a script in “{key[:40]}”", _ADVICE)
        return
    if key not in ATTRIBUTES and not key.startswith(_INERT_PREFIXES):
        what = "a script" if key.lower().startswith("on") else "something that Harnet does not know"
        raise UnreadableFile(name, f"the SVG contains {what} in “{key[:40]}”", _ADVICE)
    if key == "style" or "(" in value or "\\" in value:
        _check_styles(value, name, is_sheet=False)


def _check_styles(text: str, name: str, is_sheet: bool) -> None:
    """Refuses styles that reach outside; they are read as CSS is, escapes and all.

    Raises:
        UnreadableFile: the SVG holds something that is not allowed.
    """
    if is_sheet:
        parts: list[Any] = tinycss2.parse_stylesheet(text, skip_comments=True)
    else:
        parts = tinycss2.parse_component_value_list(text, skip_comments=True)
    for part in _tokens(parts):
        kind = part.type
        if kind == "at-rule" and part.lower_at_keyword == "import":
            raise UnreadableFile(name, "the SVG's styles refer to another file", _ADVICE)
        if kind == "at-keyword" and part.lower_value == "import":
            raise UnreadableFile(name, "the SVG's styles refer to another file", _ADVICE)
        if kind == "url":
            _check_address(part.value, name)
        elif kind == "function" and part.lower_name in ("url", "src", "image", "image-set"):
            for one in part.arguments:
                if one.type == "string":
                    _check_address(one.value, name)


def _check_address(address: str, name: str) -> None:
    if not address.strip().startswith(("#", "data:")):
        raise UnreadableFile(
            name, f"the SVG refers to another file, “{address.strip()[:80]}”", _ADVICE
        )


def _tokens(parts: Iterable[Any]) -> Iterator[Any]:
    """Every part of parsed CSS, from the outside in."""
    waiting = list(parts)
    while waiting:
        part = waiting.pop()
        yield part
        for inner in ("prelude", "content", "arguments", "value"):
            found = getattr(part, inner, None)
            if isinstance(found, list):
                waiting += found


def natural_size_pt(root: dict[str, str]) -> tuple[float, float]:
    """Width and height as the SVG states them; bare numbers are CSS pixels."""
    box = _view_box(root.get("viewBox", ""))
    styles = _styled_sizes(root.get("style", ""))
    width = styles.get("width") or _length_pt(root.get("width"))
    height = styles.get("height") or _length_pt(root.get("height"))
    if width and height:
        return width, height
    ratio = box[0] / box[1] if box else _DEFAULT_SIZE_PX[0] / _DEFAULT_SIZE_PX[1]
    if width:
        return width, width / ratio
    if height:
        return height * ratio, height
    per_px = POINTS_PER_INCH / CSS_PX_PER_INCH
    across, down = box or _DEFAULT_SIZE_PX
    return across * per_px, down * per_px


def _view_box(text: str) -> tuple[float, float] | None:
    """Width and height of a view box; None where there is none."""
    try:
        numbers = [float(part) for part in re.split(r"[\s,]+", text.strip())]
    except ValueError:
        return None
    if len(numbers) != 4 or not all(map(math.isfinite, numbers)):
        return None
    width, height = numbers[2:]
    return (width, height) if 0 < width < _LARGEST_PT and 0 < height < _LARGEST_PT else None


def _styled_sizes(style: str) -> dict[str, float]:
    """Width and height that a style attribute sets; it goes before the attributes (SVG 2, 7.3)."""
    found = {}
    for one in tinycss2.parse_declaration_list(style, skip_comments=True, skip_whitespace=True):
        if one.type == "declaration" and one.lower_name in ("width", "height"):
            length = _length_pt(tinycss2.serialize(one.value))
            if length:
                found[one.lower_name] = length
    return found


def _length_pt(text: str | None) -> float | None:
    match = _LENGTH.fullmatch(text or "")
    if match is None:
        return None
    unit = (match[2] or "px").lower()
    # CSS Values and Units Level 3: a pica has 12 points, a Q a quarter of a millimetre.
    factor, known = {"pc": (12.0, "pt"), "q": (0.25, "mm")}.get(unit, (1.0, unit))
    length = to_points(float(match[1]) * factor, Unit.named(known))
    return length if 0 < length < _LARGEST_PT else None
