"""The one door for values from forms and addresses: figures, lengths, choices, row numbers."""

import re
from collections.abc import Mapping
from enum import Enum
from math import isfinite
from typing import TypeVar

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.expression import length_meant
from harnet.core.measure.units import CSS_PX_PER_INCH, Unit
from harnet.core.targets.target import OWN

_LARGEST = 1e9
_LARGEST_ROW = 2**31 - 1
_SEPARATORS = re.compile(r"[\s\u00a0]")
_HEX = re.compile(r"#[0-9a-fA-F]{6}")
_Choice = TypeVar("_Choice", bound=Enum)


def figure(text: str, what: str) -> float:
    """A figure as a person types it: a comma counts as the decimal sign, spaces as nothing.

    Raises:
        ValueOutOfRange: it is none, or none that anything here could have.
    """
    plain = _SEPARATORS.sub("", text).replace(",", ".").replace("\u2212", "-")
    try:
        found = float(plain) if plain.isascii() else float("nan")
    except ValueError:
        found = float("nan")
    if not isfinite(found):
        raise ValueOutOfRange(f"the {what} must be a figure such as 300, not “{text[:40]}”")
    if abs(found) >= _LARGEST:
        raise ValueOutOfRange(f"the {what} cannot be {text[:40]}")
    return found


def figure_within(text: str, what: str, least: float, most: float, unit: str) -> float:
    """A figure of at least `least` and at most `most`; `unit` is for the sentence.

    Raises:
        ValueOutOfRange: it is none, or lies outside.
    """
    found = figure(text, what)
    if not least <= found <= most:
        raise ValueOutOfRange(f"the {what} is {least:g} to {most:g} {unit}, not {found:g}")
    return found


def whole_figure(text: str, what: str) -> int:
    """A whole number as a person types it.

    Raises:
        ValueOutOfRange: it is none.
    """
    found = figure(text, what)
    if found != int(found):
        raise ValueOutOfRange(f"the {what} must be a whole number, not “{text[:40]}”")
    return int(found)


def positive_figure(text: str) -> float:
    """A figure above 0 from an address, 0 for anything else."""
    try:
        return max(0.0, figure(text, "figure"))
    except ValueOutOfRange:
        return 0.0


def share(text: str) -> float | None:
    """A share typed in percent, such as `50 %`; None for anything that is no percentage.

    Raises:
        ValueOutOfRange: a percent sign behind no figure.
    """
    plain = text.strip()
    return figure(plain[:-1], "percentage") / 100 if plain.endswith("%") else None


def length(text: str, unit: Unit, px_per_inch: float = CSS_PX_PER_INCH) -> float:
    """Points meant by a length as a person types it; arithmetic such as `210mm/2 - 5` works.

    Nothing typed is no length at all: 0.

    Raises:
        ValueOutOfRange: it is no length, or one longer than anything here could have.
    """
    return length_meant(text, unit, px_per_inch) if text.strip() else 0.0


def choice(kind: type[_Choice], text: str, usual: _Choice | None = None) -> _Choice:
    """The member of an enum with this value; without such a member `usual`.

    Raises:
        ValueOutOfRange: there is none and no usual one; the text lists those there are.
    """
    for one in kind:
        if one.value == text:
            return one
    if usual is not None:
        return usual
    known = ", ".join(str(one.value) for one in kind)
    raise ValueOutOfRange(f"“{text[:40]}” is not one of {known}")


def colour(values: Mapping[str, str], name: str) -> str | None:
    """A colour as #rrggbb; None where a tick named `no_…` says so, or for anything else."""
    text = values.get(name, "")
    is_off = values.get(f"no_{name}") == "yes"
    return text.lower() if not is_off and _HEX.fullmatch(text) else None


def custom_density(values: Mapping[str, str]) -> float | None:
    """The figure of a custom target in ppi; None where the form names one of the list.

    Raises:
        ValueOutOfRange: a custom target without a sensible figure.
    """
    if values.get("target") != OWN:
        return None
    return figure(values.get("own_ppi", ""), "custom target")


def row_number(text: str) -> int | None:
    """The number of a row, or of a page; None for anything that is none."""
    if not (text.isascii() and text.isdigit() and len(text) < 11):
        return None
    number = int(text)
    return number if number <= _LARGEST_ROW else None
