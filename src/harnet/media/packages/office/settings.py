"""What documents of ISO/IEC 29500 say about the pictures in them when they are saved."""

from collections.abc import Mapping

from harnet.media.packages.relationships import Parts
from harnet.media.packages.xml import (
    Element,
    attribute,
    children,
    descendants,
    is_on,
    local,
    number,
)

_AS_THEY_ARE = (0, 32_767)
"""Default densities that stand for "keep every pixel" (from memory)."""
_AUTOMATIC, _NEVER = "autoCompress", "doNotAutoCompress"
_SHRINKS, _NEVER_SHRINKS = f"{_AUTOMATIC}Pictures", f"{_NEVER}Pictures"
"""An attribute and an element of the standard that say whether pictures are shrunk on saving."""
Saving = dict[str, object]


def presentation_settings(
    parts: Parts, part: str, root: Element, marks: Mapping[int, int]
) -> Saving:
    """Of a presentation: its own flag, and two extensions of its properties."""
    properties = parts.root(parts.first(part, "presProps"))
    stated = root.get(_SHRINKS)
    return _saving(
        None if stated is None else is_on(stated),
        list(descendants(properties)) if properties is not None else [],
        marks,
    )


def text_settings(parts: Parts, part: str, marks: Mapping[int, int]) -> Saving:
    """Of a text document: three elements of its settings."""
    settings = parts.root(parts.first(part, "settings"))
    found = list(children(settings)) if settings is not None else []
    never = next((one for one in found if local(one) == _NEVER_SHRINKS), None)
    is_never = None if never is None else is_on(attribute(never, "val", "1"))
    return _saving(None if is_never is None else not is_never, found, marks)


def sheet_settings(root: Element, marks: Mapping[int, int]) -> Saving:
    """Of a spreadsheet: attributes of its properties."""
    found = list(descendants(root))
    stated = next(
        (
            one.get(_SHRINKS)
            for one in found
            if local(one) == "workbookPr" and one.get(_SHRINKS) is not None
        ),
        None,
    )
    return _saving(None if stated is None else is_on(stated), found, marks)


def _saving(shrinks: bool | None, elements: list[Element], marks: Mapping[int, int]) -> Saving:
    default_ppi = discards = None
    for one in elements:
        name = local(one)
        if name == "defaultImageDpi":
            stated = int(number(attribute(one, "val"), -1))
            if stated >= 0:
                default_ppi = 0 if stated in _AS_THEY_ARE else stated
        elif name in ("discardImageEditData", "discardImageEditingData"):
            discards = is_on(attribute(one, "val", "1"))
    return {
        "shrinks": shrinks,
        "default_ppi": default_ppi,
        "discards_edits": discards,
        "marked_ppi": {str(ppi): count for ppi, count in sorted(marks.items())},
    }
