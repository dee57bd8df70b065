"""Images of a PDF in grey, from 0 to 1, for finding them in originals."""

import numpy

from harnet.core.pictures.picture import Colour
from harnet.media.pdf.samples.samples import Samples
from harnet.media.pdf.samples.space import UnreadableSamples
from harnet.media.pixels.registration.features import Grey

_LUMA = numpy.array([0.299, 0.587, 0.114], numpy.float32)
"""ITU-R BT.601, from memory; close enough to compare."""


def grey_of_samples(samples: Samples) -> Grey:
    """An image's samples in grey, inks and palettes as they roughly look.

    Raises:
        UnreadableSamples: nobody can say what they look like.
    """
    space, values = samples.space, samples.shown()
    most = 2**samples.bits - 1
    if space.colour is Colour.PALETTE:
        assert space.palette is not None and space.base is not None
        values = space.palette[numpy.minimum(values[:, :, 0], len(space.palette) - 1)]
        space, most = space.base, 255
    shares = values.astype(numpy.float32) / most
    if space.colour is Colour.GREY:
        grey: Grey = shares[:, :, 0]
    elif space.colour is Colour.RGB:
        grey = shares @ _LUMA
    elif space.colour is Colour.CMYK:
        grey = ((1 - shares[:, :, :3]) * (1 - shares[:, :, 3:])) @ _LUMA
    elif space.colour is Colour.LAB:
        grey = shares[:, :, 0]
    elif space.channels == 1:
        grey = 1 - shares[:, :, 0]
    else:
        raise UnreadableSamples("its spot colours cannot be compared")
    return grey
