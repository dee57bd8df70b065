"""XML of untrusted documents: parsed without entities, and read by local names.

The transitional and the strict form of ISO/IEC 29500 differ in their namespaces alone, so that
elements are told by what follows it.
"""

import math
import re
import sys
from collections.abc import Iterator
from functools import lru_cache
from typing import Any

from lxml import etree

from harnet.media.errors import UnreadableFile
from harnet.media.packages.archive import Package, UnreadablePart

Element = Any
_PARSER_SETTINGS: dict[str, Any] = {
    "resolve_entities": False,
    "no_network": True,
    "load_dtd": False,
    "dtd_validation": False,
    "huge_tree": False,
    "remove_comments": True,
    "remove_pis": True,
}
_DEEPEST, _CALLS = 256, 6_000
EMU_PER_POINT = 12_700
"""ISO/IEC 29500-1, 20.1.2.1 (from memory)."""
_MOST_PT = 1e7
"""A hundred kilometres are no slide."""
_CURRENT = re.compile(r"http://schemas\.[a-z]+\.com/office/\w+/20\d\d/")
"""Extensions that programs of the last fifteen years know; others are not drawn by them."""


def allow_nesting() -> None:
    """Lets this process walk elements nested as deep as the parser takes, by calls inside calls."""
    sys.setrecursionlimit(_CALLS)


def parsed(data: bytes, part: str, *, holds_data: bool = False) -> Element:
    """The root of an XML part; `holds_data` lets texts in it be as long as pictures are.

    Entities of its own are not resolved, external ones not loaded, and elements nested deeper than
    256 refused.

    Raises:
        UnreadablePart: it is not well-formed, or nested too deeply.
    """
    if holds_data and b"<!ENTITY" in data:
        raise UnreadablePart(f"{part} declares entities")
    try:
        settings = _PARSER_SETTINGS | {"huge_tree": holds_data}
        root = etree.fromstring(data, etree.XMLParser(**settings))
        if holds_data and _is_too_deep(root):
            raise UnreadablePart(f"{part} is nested too deeply")
    except (etree.XMLSyntaxError, ValueError) as error:
        if "depth" in str(error).lower():
            raise UnreadablePart(f"{part} is nested too deeply") from None
        raise UnreadablePart(f"{part} is not well-formed XML") from None
    if root is None:
        raise UnreadablePart(f"{part} is empty")
    return root


def required_root(package: Package, part: str, what: str, advice: str) -> Element:
    """The root of a part without which there is no document; `what` names that.

    Raises:
        UnreadableFile: it cannot be read; `advice` says what to do.
    """
    try:
        return parsed(package.read(part), part)
    except UnreadablePart as error:
        raise UnreadableFile(package.name, f"the {what} is damaged: {error}", advice) from None


def _is_too_deep(root: Element) -> bool:
    """Whether elements are nested deeper than the parser's own bound, which is lifted for data."""
    depth = 0
    for event, _ in etree.iterwalk(root, events=("start", "end")):
        depth += 1 if event == "start" else -1
        if depth > _DEEPEST:
            return True
    return False


def local(element: Element) -> str:
    """An element's name without its namespace; empty for what is no element."""
    tag = element.tag
    return _own_name(tag) if isinstance(tag, str) else ""


@lru_cache(4096)
def _own_name(tag: str) -> str:
    return tag.rpartition("}")[2]


def space(element: Element) -> str:
    """An element's namespace."""
    tag = element.tag
    return tag[1:].partition("}")[0] if isinstance(tag, str) and tag.startswith("{") else ""


def attribute(element: Element, name: str, default: str = "") -> str:
    """An attribute by its local name, whatever its namespace."""
    value = element.get(name)
    if value is not None:
        return str(value)
    for key, one in element.attrib.items():
        if key.rpartition("}")[2] == name:
            return str(one)
    return default


def children(element: Element) -> Iterator[Element]:
    """The elements below one, with alternate content replaced by the branch that programs show.

    The first choice whose extensions current programs know is taken, else the fallback
    (ISO/IEC 29500-3, 7.5 to 7.7, from memory).
    """
    for child in element:
        tag = child.tag
        if not isinstance(tag, str):
            continue
        if tag.endswith("}AlternateContent"):
            branch = shown_branch(child)
            if branch is not None:
                yield from children(branch)
        else:
            yield child


def shown_branch(alternate: Element) -> Element | None:
    """The branch of alternate content that current programs show."""
    fallback = None
    for branch in alternate:
        if local(branch) == "Choice":
            needed = branch.get("Requires", "").split()
            spaces = [branch.nsmap.get(prefix, "") for prefix in needed]
            if needed and all(_is_known(one) for one in spaces):
                return branch
        elif local(branch) == "Fallback":
            fallback = branch
    return fallback


def _is_known(namespace: str) -> bool:
    return bool(_CURRENT.match(namespace)) or namespace.startswith(
        ("http://schemas.openxmlformats.org/", "http://purl.oclc.org/ooxml/")
    )


def child(element: Element | None, *names: str) -> Element | None:
    """The first element below along a path of local names; None where there is none."""
    for name in names:
        if element is None:
            return None
        element = _first(element, name)
    return element


def _first(element: Element, name: str) -> Element | None:
    for one in element:
        tag = one.tag
        if not isinstance(tag, str):
            continue
        own = _own_name(tag)
        if own == name:
            return one
        if own == "AlternateContent":
            branch = shown_branch(one)
            found = _first(branch, name) if branch is not None else None
            if found is not None:
                return found
    return None


def descendants(element: Element) -> Iterator[Element]:
    """All elements below one in document order, with alternate content resolved."""
    waiting = [children(element)]
    while waiting:
        for one in waiting[-1]:
            yield one
            if len(one):
                waiting.append(children(one))
                break
        else:
            waiting.pop()


def number(text: str | None, default: float = 0.0) -> float:
    """A finite number from an attribute; anything else is the default."""
    try:
        value = float(text) if text is not None else default
    except ValueError:
        return default
    return value if math.isfinite(value) else default


def points(text: str | None) -> float:
    """A length in EMU as points, bounded; also with a unit, as the strict form writes it."""
    if text is not None and text[-2:].isalpha():
        value = length_pt(text) or 0.0
    else:
        value = number(text) / EMU_PER_POINT
    return min(max(value, -_MOST_PT), _MOST_PT)


def share(text: str | None) -> float:
    """A percentage as a share: thousandths of a percent, or with a percent sign."""
    if text is None:
        return 0.0
    value = number(text[:-1]) / 100 if text.endswith("%") else number(text) / 100_000
    return min(max(value, -1000.0), 1000.0)


def is_on(text: str | None, default: bool = False) -> bool:
    """A yes or no of XML."""
    return default if text is None else text.strip().lower() in ("1", "true", "on", "t", "yes")


_POINTS_PER = {
    "pt": 1.0,
    "in": 72.0,
    "cm": 72 / 2.54,
    "mm": 72 / 25.4,
    "pc": 12.0,
    "pi": 12.0,
    "px": 0.75,
    "q": 72 / 101.6,
}
_LENGTH = re.compile(r"\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)\s*([a-z]*)\s*\Z", re.I)


def length_pt(text: str | None, bare: float | None = None) -> float | None:
    """A length with its unit, in points; 1 px is 1/96 in (CSS Values and Units Level 3, 6.2).

    A number without unit counts `bare` points each; None where it is no length.
    """
    found = _LENGTH.match(text or "")
    if found is None:
        return None
    unit = found.group(2).lower()
    per = _POINTS_PER.get(unit) if unit else bare
    if per is None:
        return None
    value = float(found.group(1)) * per
    return value if math.isfinite(value) and abs(value) <= _MOST_PT else None
