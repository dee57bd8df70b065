"""Picture files in grey, from 0 to 1, for finding one in the other."""

from pathlib import Path

import numpy
import pyvips

from harnet.media.pixels.registration.features import Grey

ORIGINAL_PX = 1600
"""The longest edge that an original is looked at with: enough for images of a quarter of that."""


def grey_of_file(path: Path) -> tuple[Grey, tuple[int, int]]:
    """A picture file in grey and upright, small enough to look at, and its pixels in full.

    Raises:
        pyvips.Error: it cannot be decoded.
    """
    full = pyvips.Image.new_from_file(str(path)).autorot()
    small = pyvips.Image.thumbnail(str(path), ORIGINAL_PX, height=ORIGINAL_PX, size="down")
    return grey_of_image(small), (full.width, full.height)


def grey_of_image(image: pyvips.Image) -> Grey:
    """A decoded picture in grey, on white where it is transparent.

    Raises:
        pyvips.Error: it cannot be decoded.
    """
    if image.hasalpha():
        image = image.flatten(background=255)
    pixels = image.colourspace("b-w")[0].cast("uchar").numpy()
    grey: Grey = pixels.reshape(image.height, image.width).astype(numpy.float32) / 255
    return grey
