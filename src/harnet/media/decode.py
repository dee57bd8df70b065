"""Opening a picture's pixels: libvips for everything but BMP, which its build does not read."""

from pathlib import Path

import numpy
import pyvips
from PIL import Image

from harnet.core.picture import Colour, Facts
from harnet.media.limits import MAX_PIXELS

Image.MAX_IMAGE_PIXELS = MAX_PIXELS


def opened_image(path: Path, facts: Facts, in_any_order: bool = False) -> pyvips.Image:
    """The stored pixels, not yet upright; read from top to bottom once unless `in_any_order`.

    Raises:
        pyvips.Error: the pixels cannot be decoded.
        OSError: the same, from the BMP reader.
    """
    if facts.format != "bmp":
        access = "random" if in_any_order else "sequential"
        return pyvips.Image.new_from_file(str(path), access=access, fail_on="truncated")
    with Image.open(path) as bitmap:
        grey = facts.colour is Colour.BILEVEL
        pixels = numpy.asarray(bitmap.convert("L" if grey else "RGBA" if facts.alpha else "RGB"))
    interpretation = "b-w" if grey else "srgb"
    return pyvips.Image.new_from_array(pixels, interpretation=interpretation)
