"""Optional content: which layers of a PDF are switched off when it is opened or printed.

ISO 32000-2, 8.11: groups, membership dictionaries with a policy, the default configuration.
"""

from typing import Any

import pikepdf

Key = tuple[int, int]
_MOST_GROUPS, _DEEPEST = 10_000, 32


def layers_off(pdf: pikepdf.Pdf) -> frozenset[Key] | None:
    """The groups that the default configuration switches off; None where there are no layers."""
    properties = pdf.Root.get("/OCProperties")
    if not isinstance(properties, pikepdf.Dictionary):
        return None
    default = properties.get("/D", pikepdf.Dictionary())
    off = _keys(default.get("/OFF"))
    if default.get("/BaseState") == "/OFF":
        off = (_keys(properties.get("/OCGs")) | off) - _keys(default.get("/ON"))
    return frozenset(off)


def _keys(groups: Any) -> set[Key]:
    if not isinstance(groups, pikepdf.Array):
        return set()
    return {group.objgen for group in list(groups)[:_MOST_GROUPS] if hasattr(group, "objgen")}


def _policy(content: pikepdf.Object) -> str:
    policy = content.get("/P", "/AnyOn")
    known = ("/AllOn", "/AnyOff", "/AllOff")
    return next((one for one in known if policy == one), "/AnyOn")


def is_off(content: Any, off: frozenset[Key]) -> bool:
    """Whether a group, or a membership of groups, is switched off."""
    if not isinstance(content, pikepdf.Dictionary):
        return False
    if content.get("/Type") != "/OCMD":
        return content.objgen in off
    expression = content.get("/VE")
    if isinstance(expression, pikepdf.Array):
        # Readers that know expressions take these before groups and policy (table 97).
        is_seen = _is_true(expression, off, 0)
        if is_seen is not None:
            return not is_seen
    groups = content.get("/OCGs")
    if isinstance(groups, pikepdf.Dictionary):
        groups = pikepdf.Array([groups])
    if not isinstance(groups, pikepdf.Array) or not len(groups):
        return False
    states = [group.objgen not in off for group in list(groups)[:_MOST_GROUPS]]
    seen = {
        "/AllOn": all(states),
        "/AnyOff": not all(states),
        "/AllOff": not any(states),
    }.get(_policy(content), any(states))
    return not seen


def _is_true(expression: Any, off: frozenset[Key], depth: int) -> bool | None:
    """What a visibility expression says (8.11.2.2); None where it is none."""
    if isinstance(expression, pikepdf.Dictionary):
        return expression.objgen not in off
    if not isinstance(expression, pikepdf.Array) or len(expression) < 2 or depth > _DEEPEST:
        return None
    operator, *operands = list(expression)[:_MOST_GROUPS]
    values = [_is_true(one, off, depth + 1) for one in operands]
    if any(value is None for value in values):
        return None
    if operator == "/Not":
        return not values[0] if len(values) == 1 else None
    if operator == "/And":
        return all(values)
    return any(values) if operator == "/Or" else None
