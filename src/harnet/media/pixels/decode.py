"""Opening a picture's pixels: libvips, but Pillow for what its build does not read.

That is BMP, and TIFF with 8-bit CIE Lab.
"""

from pathlib import Path

import numpy
import pyvips
from PIL import Image

from harnet.core.pictures.picture import Colour, Facts
from harnet.media.limits import MAX_PIXELS

Image.MAX_IMAGE_PIXELS = MAX_PIXELS


def opened_image(path: Path, facts: Facts, in_any_order: bool = False) -> pyvips.Image:
    """The stored pixels, not yet upright; read from top to bottom once unless `in_any_order`.

    Raises:
        pyvips.Error: the pixels cannot be decoded.
        OSError: the same, from the BMP reader.
    """
    if facts.colour is Colour.LAB and facts.bits == 8:
        return _lab(path)
    if facts.format != "bmp":
        access = "random" if in_any_order else "sequential"
        return pyvips.Image.new_from_file(str(path), access=access, fail_on="truncated")
    with Image.open(path) as bitmap:
        grey = facts.colour is Colour.BILEVEL
        pixels = numpy.asarray(bitmap.convert("L" if grey else "RGBA" if facts.alpha else "RGB"))
    interpretation = "b-w" if grey else "srgb"
    return pyvips.Image.new_from_array(pixels, interpretation=interpretation)


def _lab(path: Path) -> pyvips.Image:
    """8-bit CIE Lab of a TIFF as floats: L up to 255, a and b signed (TIFF 6.0, from memory)."""
    with Image.open(path) as picture:
        stored = numpy.ascontiguousarray(picture)
    pixels = stored.astype("float32")
    pixels[..., 0] *= 100 / 255
    pixels[..., 1:] = stored[..., 1:].view("int8")
    return pyvips.Image.new_from_array(pixels, interpretation="lab")
