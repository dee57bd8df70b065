"""Colour models in words."""

from harnet.core.pictures.picture import Colour

COLOUR_WORDS = {
    Colour.GREY: "grey",
    Colour.RGB: "RGB",
    Colour.CMYK: "CMYK",
    Colour.LAB: "Lab",
    Colour.PALETTE: "palette",
    Colour.BILEVEL: "1-bit",
    Colour.VECTOR: "vector",
    Colour.SPOT: "spot inks",
}


def colour_word(colour: str) -> str:
    """A colour model by its value, in words; what is none stays as it is.

    >>> colour_word("rgb")
    'RGB'
    """
    return next((word for one, word in COLOUR_WORDS.items() if one.value == colour), colour)


def colour_text(colour: str, bits: int) -> str:
    """A colour model with its bits per channel.

    >>> colour_text("cmyk", 8), colour_text("bilevel", 1)
    ('CMYK, 8-bit', '1-bit')
    """
    word = colour_word(colour)
    return word if colour in (Colour.BILEVEL.value, Colour.VECTOR.value) else f"{word}, {bits}-bit"
