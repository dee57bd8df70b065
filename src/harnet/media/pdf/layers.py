"""Optional content: which layers of a PDF are switched off when it is opened or printed.

ISO 32000-2, 8.11: groups, membership dictionaries with a policy, the default configuration.
"""

from typing import Any

import pikepdf

Key = tuple[int, int]
_MOST_GROUPS = 10_000


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
