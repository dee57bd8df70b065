"""Rights as a picture file states them: IPTC-IIM records and XMP, read by Pillow."""

import warnings
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from PIL import Image, IptcImagePlugin

from harnet.core.pictures.picture import Facts
from harnet.core.pictures.rights import Rights, credit_line, licence_from, named_licence, tidied

# IPTC-IIM 4.2, record 2 (from memory).
_BYLINE, _CREDIT, _SOURCE, _NOTICE = (2, 80), (2, 110), (2, 115), (2, 116)
_DEEPEST = 12


def rights_in(path: Path, facts: Facts) -> Rights:
    """Licence, credit and origin from the file's own records; XMP leads where both speak.

    A file without records, or with damaged ones, states nothing.
    """
    if facts.is_vector:
        return Rights()
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            with Image.open(path) as image:
                iptc = IptcImagePlugin.getiptcinfo(image) or {}
                xmp = dict(_leaves(image.getxmp()))
    except Exception:
        # Records are an untrusted: whatever their reader raises, they state nothing.
        return Rights()

    def record(key: tuple[int, int]) -> str:
        value = iptc.get(key, b"")
        first = value[0] if isinstance(value, list) else value
        return bytes(first).decode("utf-8", "replace")

    def first(*texts: str) -> str:
        return next((text for text in map(tidied, texts) if text), "")

    notice = first(xmp.get("rights", ""), record(_NOTICE))
    licence = first(xmp.get("license", ""), xmp.get("WebStatement", ""), xmp.get("UsageTerms", ""))
    by_line = first(xmp.get("creator", ""), record(_BYLINE))
    credit = first(xmp.get("Credit", ""), xmp.get("CreditLine", ""), record(_CREDIT))
    return Rights(
        # A copyright notice says who owns a picture, not what one may do; unless it says both.
        licence_from(licence) or named_licence(notice),
        credit_line(by_line, credit) or notice,
        first(xmp.get("Source", ""), xmp.get("source", ""), record(_SOURCE)),
    )


def _leaves(node: Any, name: str = "", depth: int = 0) -> Iterator[tuple[str, str]]:
    """Each property of an XMP tree with its text; lists and languages give their first."""
    if depth > _DEEPEST:
        return
    if isinstance(node, str):
        if name:
            yield name, node
    elif isinstance(node, list):
        for one in reversed(node):
            yield from _leaves(one, name, depth + 1)
    elif isinstance(node, dict):
        for key, value in node.items():
            is_wrapper = key in ("li", "Alt", "Seq", "Bag", "text", "resource")
            if key not in ("lang", "about", "xmptk"):
                yield from _leaves(value, name if is_wrapper else key, depth + 1)
