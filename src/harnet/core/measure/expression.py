"""Simple arithmetic with lengths, as a person types it: `210mm/2 - 5`."""

import re
from dataclasses import dataclass

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.units import CSS_PX_PER_INCH, Unit, to_points

_TOKEN = re.compile(r"\s*(?:(\d+(?:[.,]\d*)?|[.,]\d+)\s*(mm|cm|in|pt|px)?|([-+*/()×÷−]))", re.I)
_SAME = {"×": "*", "÷": "/", "−": "-"}
_DEEPEST = 40
_LONGEST_PT = 1e9


@dataclass(frozen=True, slots=True)
class _Value:
    """A figure: a length in points, or a bare number."""

    figure: float
    is_length: bool


def length_meant(text: str, unit: Unit, px_per_inch: float = CSS_PX_PER_INCH) -> float:
    """Points meant by a length or a small sum of lengths; a bare number counts in `unit`.

    Numbers that multiply or divide stay numbers, so `210mm/2` is 105 mm and `3*5` is 15 `unit`s.

    Raises:
        ValueOutOfRange: the text is no such sum, divides by nothing, or is longer than any page.

    >>> round(length_meant("210mm/2 - 5", Unit.MM) / 72 * 25.4, 6)
    100.0
    """
    return _Reader(text, unit, px_per_inch).length()


class _Reader:
    """Reads sums, products and signs from left to right."""

    def __init__(self, text: str, unit: Unit, px_per_inch: float) -> None:
        self._text, self._unit, self._px_per_inch = text, unit, px_per_inch
        self._tokens = self._split()
        self._at = 0

    def length(self) -> float:
        value = self._sum(0)
        if self._at < len(self._tokens):
            raise self._not_a_length()
        points = self._as_length(value).figure
        # Written so that a figure that is none fails as well.
        if not abs(points) < _LONGEST_PT:
            raise self._not_a_length()
        return points

    def _split(self) -> list[_Value | str]:
        tokens: list[_Value | str] = []
        position, text = 0, self._text.rstrip()
        while position < len(text):
            match = _TOKEN.match(text, position)
            if match is None:
                raise self._not_a_length()
            if match[3]:
                tokens.append(_SAME.get(match[3], match[3]))
            else:
                figure = float(match[1].replace(",", "."))
                unit = Unit.named(match[2].lower()) if match[2] else None
                points = to_points(figure, unit, self._px_per_inch) if unit else figure
                tokens.append(_Value(points, unit is not None))
            position = match.end()
        return tokens

    def _not_a_length(self) -> ValueOutOfRange:
        return ValueOutOfRange(
            f"“{self._text[:40]}” is not a length; write a figure such as 120, 120 mm or"
            " 210mm/2 - 5"
        )

    def _next_is(self, *signs: str) -> str | None:
        if self._at < len(self._tokens):
            token = self._tokens[self._at]
            if isinstance(token, str) and token in signs:
                self._at += 1
                return token
        return None

    def _sum(self, depth: int) -> _Value:
        total = self._product(depth)
        while sign := self._next_is("+", "-"):
            other = self._product(depth)
            if total.is_length or other.is_length:
                total, other = self._as_length(total), self._as_length(other)
            figure = total.figure + other.figure if sign == "+" else total.figure - other.figure
            total = _Value(figure, total.is_length)
        return total

    def _product(self, depth: int) -> _Value:
        value = self._signed(depth)
        while sign := self._next_is("*", "/"):
            other = self._signed(depth)
            if sign == "/":
                if other.is_length or other.figure == 0:
                    raise self._not_a_length()
                value = _Value(value.figure / other.figure, value.is_length)
            else:
                if value.is_length and other.is_length:
                    raise self._not_a_length()
                value = _Value(value.figure * other.figure, value.is_length or other.is_length)
        return value

    def _signed(self, depth: int) -> _Value:
        if depth > _DEEPEST:
            raise self._not_a_length()
        if sign := self._next_is("+", "-"):
            value = self._signed(depth + 1)
            return _Value(-value.figure, value.is_length) if sign == "-" else value
        if self._next_is("("):
            value = self._sum(depth + 1)
            if not self._next_is(")"):
                raise self._not_a_length()
            return value
        if self._at >= len(self._tokens):
            raise self._not_a_length()
        token = self._tokens[self._at]
        if isinstance(token, str):
            raise self._not_a_length()
        self._at += 1
        return token

    def _as_length(self, value: _Value) -> _Value:
        if value.is_length:
            return value
        return _Value(to_points(value.figure, self._unit, self._px_per_inch), True)
