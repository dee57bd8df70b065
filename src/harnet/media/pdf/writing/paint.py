"""Colours of text, lines and areas in a PDF: as red, green and blue, or as inks."""

from functools import cache
from pathlib import Path

import pyvips
from reportlab.lib.colors import CMYKColor, Color, HexColor

from harnet.media.pixels.colour import inked


class Paint:
    """Writes colours such as `#1c2833`; with an intent's profile as inks, greys as black alone.

    That greys are printed with black alone is common practice, no source: small type in four inks
    would show coloured edges when the inks do not meet exactly.
    """

    def __init__(self, intent: Path | None = None) -> None:
        self._intent = intent

    def fill(self, colour: str) -> str:
        """The operator that sets the colour of areas."""
        return f"{self._values(colour)} {'rg' if self._intent is None else 'k'}"

    def stroke(self, colour: str) -> str:
        """The operator that sets the colour of lines."""
        return f"{self._values(colour)} {'RG' if self._intent is None else 'K'}"

    def for_reportlab(self, colour: str) -> Color:
        """The colour as the writer of text takes it."""
        if self._intent is None:
            return HexColor(colour)
        return CMYKColor(*inks_of(colour, str(self._intent)))

    def _values(self, colour: str) -> str:
        values = _rgb(colour) if self._intent is None else inks_of(colour, str(self._intent))
        return " ".join(f"{value:.5f}".rstrip("0").rstrip(".") for value in values)


def _rgb(colour: str) -> tuple[float, ...]:
    return tuple(int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5))


@cache
def inks_of(colour: str, profile: str) -> tuple[float, float, float, float]:
    """Cyan, magenta, yellow and black, 0 to 1, of a colour through an ICC profile."""
    red, green, blue = _rgb(colour)
    if red == green == blue:
        return 0.0, 0.0, 0.0, 1 - red
    dot = pyvips.Image.black(1, 1, bands=3).linear(0, [255 * red, 255 * green, 255 * blue])
    inks = inked(dot.cast("uchar").copy(interpretation="srgb"), Path(profile))
    cyan, magenta, yellow, black = (value / 255 for value in inks(0, 0))
    return cyan, magenta, yellow, black
