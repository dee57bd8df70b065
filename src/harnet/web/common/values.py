"""The one door for figures and row numbers from forms and addresses."""

import re
from math import isfinite

from harnet.studio.common.errors import Refused

_LARGEST = 1e9
_LARGEST_ROW = 2**31 - 1
_SEPARATORS = re.compile(r"[\s\u00a0]")


def figure(text: str, what: str) -> float:
    """A figure as a person types it: a comma counts as the decimal sign, spaces as nothing.

    Raises:
        Refused: it is none, or none that anything here could have.
    """
    plain = _SEPARATORS.sub("", text).replace(",", ".").replace("\u2212", "-")
    try:
        found = float(plain) if plain.isascii() else float("nan")
    except ValueError:
        found = float("nan")
    if not isfinite(found):
        raise Refused(f"The {what} must be a figure such as 300, not “{text[:40]}”.")
    if abs(found) >= _LARGEST:
        raise Refused(f"The {what} cannot be {text[:40]}.")
    return found


def whole_figure(text: str, what: str) -> int:
    """A whole number as a person types it.

    Raises:
        Refused: it is none.
    """
    found = figure(text, what)
    if found != int(found):
        raise Refused(f"The {what} must be a whole number, not “{text[:40]}”.")
    return int(found)


def row_number(text: str) -> int | None:
    """The number of a row, or of a page; None for anything that is none."""
    if not (text.isascii() and text.isdigit() and len(text) < 11):
        return None
    number = int(text)
    return number if number <= _LARGEST_ROW else None
