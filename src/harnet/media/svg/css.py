"""The declarations of CSS that decide about pictures: sizes, fitting, visibility, backgrounds."""

from collections.abc import Callable
from typing import Any

import cssselect2
import tinycss2

from harnet.media.packages.xml import Element, local

_HEEDED = frozenset(
    {"width", "height", "max-width", "max-height", "min-width", "min-height", "object-fit"}
    | {"object-position", "display", "visibility", "opacity", "fill", "transform", "x", "y"}
    | {"background", "background-image", "background-size"}
)
_SHOWN_MEDIA = ("", "all", "screen", "only screen", "print, screen", "screen, print")
_MOST_RULES = 20_000
_MOST_IMPORTS = 50
Fetch = Callable[[str], str | None]
"""The text of another style sheet, by its address; None where there is none."""
_Rule = tuple[tuple[int, ...], int, dict[str, tuple[str, bool]]]


class Cascade:
    """The style sheets of one document, and what they say of each of its elements."""

    def __init__(self, root: Element, fetch: Fetch | None = None) -> None:
        self._root, self._fetch = root, fetch
        self._matcher: Any = cssselect2.Matcher()
        self._count = self._imports = 0
        self._wrapped: dict[Element, Any] | None = None
        self._known: dict[Element, dict[str, str]] = {}
        self.has_backgrounds = False

    def take_own_sheets(self) -> None:
        """Takes the sheets that stand in `style` elements."""
        for one in self._root.iter():
            if local(one) == "style":
                self.take("".join(one.itertext()))

    def take(self, text: str) -> None:
        """Takes a style sheet."""
        self._rules(tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True))

    def _rules(self, rules: list[Any]) -> None:
        for rule in rules:
            if self._count > _MOST_RULES:
                return
            if rule.type == "qualified-rule":
                self._rule(rule)
            elif rule.type == "at-rule" and rule.lower_at_keyword == "media" and rule.content:
                media = tinycss2.serialize(rule.prelude).strip().lower()
                if media in _SHOWN_MEDIA:
                    self._rules(tinycss2.parse_rule_list(rule.content, skip_whitespace=True))
            elif rule.type == "at-rule" and rule.lower_at_keyword == "import":
                self._import(rule)

    def _import(self, rule: Any) -> None:
        self._imports += 1
        if self._fetch is None or self._imports > _MOST_IMPORTS:
            return
        for token in rule.prelude:
            if token.type in ("string", "url"):
                text = self._fetch(token.value)
                if text is not None:
                    self.take(text)
                return

    def _rule(self, rule: Any) -> None:
        found = _declared(rule.content)
        if not found:
            return
        if "background" in found or "background-image" in found:
            self.has_backgrounds = True
        try:
            selectors = cssselect2.compile_selector_list(rule.prelude)
        except cssselect2.SelectorError:
            return
        for selector in selectors:
            if selector.pseudo_element is None and not selector.never_matches:
                self._count += 1
                self._matcher.add_selector(selector, found)

    def of(self, element: Element) -> dict[str, str]:
        """The declarations that hold for an element: of sheets by weight, then its own style."""
        if element not in self._known:
            self._known[element] = self._found(element)
        return self._known[element]

    def _found(self, element: Element) -> dict[str, str]:
        rules: list[dict[str, tuple[str, bool]]] = []
        if self._count:
            wrapped = self._wrapper(element)
            if wrapped is not None:
                rules += [one[3] for one in sorted(self._matcher.match(wrapped), key=_weight)]
        own = element.get("style")
        if own:
            rules.append(_declared(tinycss2.parse_component_value_list(own)))
        plain: dict[str, str] = {}
        important: dict[str, str] = {}
        for one in rules:
            for key, (value, is_important) in one.items():
                (important if is_important else plain)[key] = value
        return plain | important

    def _wrapper(self, element: Element) -> Any:
        if self._wrapped is None:
            top = cssselect2.ElementWrapper.from_html_root(self._root)
            self._wrapped = {one.etree_element: one for one in top.iter_subtree()}
        return self._wrapped.get(element)


def _weight(match: Any) -> Any:
    specificity, order, _, _ = match
    return specificity, order


def _declared(content: Any) -> dict[str, tuple[str, bool]]:
    """The declarations that are heeded: value and whether it is important."""
    found = {}
    for one in tinycss2.parse_declaration_list(content, skip_comments=True, skip_whitespace=True):
        if one.type == "declaration" and one.lower_name in _HEEDED:
            found[one.lower_name] = (tinycss2.serialize(one.value).strip(), one.important)
    return found


def address_in(value: str) -> str | None:
    """The first address in a value such as that of `background`."""
    for token in tinycss2.parse_component_value_list(value):
        if token.type == "url":
            return str(token.value)
        if token.type == "function" and token.lower_name in ("url", "src"):
            for one in token.arguments:
                if one.type == "string":
                    return str(one.value)
    return None
