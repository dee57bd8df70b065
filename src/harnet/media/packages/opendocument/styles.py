"""Styles of ISO/IEC 26300: properties by name and family, with what they inherit; fill pictures."""

from dataclasses import dataclass, field

from harnet.media.packages.xml import Element, attribute, child, children, local

_MOST_PARENTS = 60
Properties = dict[str, str]


@dataclass(frozen=True, slots=True)
class _Style:
    parent: str
    properties: dict[str, Properties]
    element: Element


@dataclass(slots=True)
class Styles:
    """All styles of a document: automatic ones of its text go before those of its styles."""

    _styles: dict[tuple[str, str], _Style] = field(default_factory=dict)
    _usual: dict[str, Properties] = field(default_factory=dict)
    fills: dict[str, Element] = field(default_factory=dict)
    masters: dict[str, Element] = field(default_factory=dict)
    page_layouts: dict[str, Element] = field(default_factory=dict)
    lists: list[Element] = field(default_factory=list)

    def take(self, root: Element) -> None:
        """Takes the styles of a content, a styles or a flat document."""
        for part in children(root):
            if local(part) in ("automatic-styles", "styles", "master-styles"):
                for one in children(part):
                    self._one(one)

    def _one(self, one: Element) -> None:
        kind, name = local(one), attribute(one, "name")
        if kind == "style":
            key = (attribute(one, "family"), name)
            self._styles.setdefault(
                key, _Style(attribute(one, "parent-style-name"), _properties(one), one)
            )
        elif kind == "default-style":
            found = _properties(one)
            self._usual[attribute(one, "family")] = {
                key: value for each in found.values() for key, value in each.items()
            }
        elif kind == "fill-image":
            self.fills.setdefault(name, one)
        elif kind == "master-page":
            self.masters.setdefault(name, one)
        elif kind == "list-style":
            self.lists.append(one)
        elif kind == "page-layout":
            self.page_layouts.setdefault(name, one)

    def value(self, family: str, name: str, key: str) -> str:
        """A property of a style by its local name, or of what it inherits from; empty for none."""
        seen = 0
        own: str = name
        while own and seen < _MOST_PARENTS:
            style = self._styles.get((family, own))
            if style is None:
                break
            for properties in style.properties.values():
                if key in properties:
                    return properties[key]
            own, seen = style.parent, seen + 1
        return self._usual.get(family, {}).get(key, "")

    def element(self, family: str, name: str) -> Element | None:
        """The style itself."""
        style = self._styles.get((family, name))
        return style.element if style is not None else None

    def elements(self) -> list[Element]:
        """Every style that has properties with something in them."""
        return [style.element for style in self._styles.values()]

    def page_size(self, master: Element | None) -> tuple[str, str]:
        """Width and height of the pages of a master, as text."""
        name = attribute(master, "page-layout-name") if master is not None else ""
        layout = self.page_layouts.get(name)
        properties = child(layout, "page-layout-properties") if layout is not None else None
        if properties is None:
            return "", ""
        return attribute(properties, "page-width"), attribute(properties, "page-height")


def _properties(style: Element) -> dict[str, Properties]:
    found: dict[str, Properties] = {}
    for one in children(style):
        if local(one).endswith("-properties"):
            found[local(one)] = {
                str(key).rpartition("}")[2]: str(value) for key, value in one.attrib.items()
            }
    return found
