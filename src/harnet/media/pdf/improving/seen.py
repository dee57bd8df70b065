"""Images of a PDF as they are seen, for finding and comparing them with originals."""

from functools import partial
from pathlib import Path
from tempfile import NamedTemporaryFile

import numpy
import pyvips

from harnet.core.pictures.picture import Colour
from harnet.media.pdf.extracting.image_file import image_of_samples
from harnet.media.pdf.samples.samples import Samples
from harnet.media.pdf.samples.space import SampleSpace, UnreadableSamples
from harnet.media.pixels.colour import generic_cmyk
from harnet.media.pixels.conversion import PERCEPTUAL, RELATIVE, exported
from harnet.media.pixels.registration.comparing import as_it_is
from harnet.media.pixels.registration.seen import (
    InOwnColours,
    SeenImage,
    in_colours,
    seen,
)


def seen_of_samples(samples: Samples, quality: int | None = None) -> SeenImage:
    """An image's samples as they are seen; `quality` is that of its JPEG, None for others.

    Raises:
        UnreadableSamples: nobody can say what they look like.
    """
    own = samples.space.base or samples.space
    if own.colour is Colour.LAB:
        image = _lab_image(samples)
    elif own.colour is Colour.SPOT and own.channels > 1:
        raise UnreadableSamples("its spot colours cannot be compared")
    else:
        image, _ = image_of_samples(samples, None)
        if own.profile:
            image = image.copy()
            image.set_type(pyvips.GValue.blob_type, "icc-profile-data", own.profile)
    try:
        pixels = seen(image)
    except pyvips.Error:
        raise UnreadableSamples("its profile cannot be used") from None
    is_bilevel = samples.bits == 1 and samples.space.colour is Colour.GREY
    palette = None
    if samples.space.colour is Colour.PALETTE:
        palette = numpy.unique(pixels.reshape(-1, 3), axis=0)
    return SeenImage(pixels, quality, _in_colours_of(own), palette, is_bilevel)


def _lab_image(samples: Samples) -> pyvips.Image:
    values = samples.shown().astype(numpy.float32) / (2**samples.bits - 1)
    low, high = (
        numpy.array([edge, *samples.space.lab_range[at::2]]) for at, edge in ((0, 0), (1, 100))
    )
    lab = numpy.ascontiguousarray(low + values * (high - low), numpy.float32)
    image = pyvips.Image.new_from_memory(lab.data, lab.shape[1], lab.shape[0], 3, "float")
    return image.copy(interpretation="lab").colourspace("srgb")


def _in_colours_of(space: SampleSpace) -> dict[str, InOwnColours]:
    """By intent, what colours become in a colour space and are seen as again."""
    if space.colour is Colour.GREY and space.profile is None:
        return {RELATIVE: in_colours(lambda image: image.colourspace("b-w"))}
    if space.profile is not None:
        profile = space.profile
        return {
            one: in_colours(partial(_in_profile, profile=profile, intent=one))
            for one in ((RELATIVE, PERCEPTUAL) if space.channels == 4 else (RELATIVE,))
        }
    if space.colour is Colour.CMYK:
        return {
            one: in_colours(partial(exported, output=generic_cmyk(), depth=8, intent=one))
            for one in (RELATIVE, PERCEPTUAL)
        }
    return {RELATIVE: as_it_is}


def _in_profile(image: pyvips.Image, profile: bytes, intent: str) -> pyvips.Image:
    with NamedTemporaryFile(suffix=".icc") as file:
        Path(file.name).write_bytes(profile)
        return exported(image, file.name, 8, intent).copy_memory()
