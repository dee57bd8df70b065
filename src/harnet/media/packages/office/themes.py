"""Fills that a theme keeps for shapes and backgrounds (ISO/IEC 29500-1, 20.1.4.1)."""

from dataclasses import dataclass

from harnet.media.packages.relationships import Parts, Relationship
from harnet.media.packages.xml import Element, attribute, child, children, local, number

_FIRST_BACKGROUND = 1001
"""Numbers from here on mean the list of backgrounds (20.1.4.2.10, from memory)."""


@dataclass(frozen=True, slots=True)
class Theme:
    """A theme's picture fills, with what its part refers to."""

    relations: dict[str, Relationship]
    fills: tuple[Element, ...] = ()
    backgrounds: tuple[Element, ...] = ()

    def fill(self, reference: Element | None) -> Element | None:
        """The picture fill that a style's reference means; None where it means another fill."""
        if reference is None:
            return None
        index = int(number(attribute(reference, "idx")))
        if index >= _FIRST_BACKGROUND:
            listed, index = self.backgrounds, index - _FIRST_BACKGROUND
        else:
            listed, index = self.fills, index - 1
        found = listed[index] if 0 <= index < len(listed) else None
        return found if found is not None and local(found) == "blipFill" else None


def theme_of(parts: Parts, part: str) -> Theme:
    """The theme that a master refers to."""
    where = parts.first(part, "theme")
    root = parts.root(where)
    scheme = child(root, "themeElements", "fmtScheme") if root is not None else None
    if where is None or scheme is None:
        return Theme({})
    fills, backgrounds = child(scheme, "fillStyleLst"), child(scheme, "bgFillStyleLst")
    return Theme(
        parts.relations(where),
        tuple(children(fills)) if fills is not None else (),
        tuple(children(backgrounds)) if backgrounds is not None else (),
    )
