"""The mask of an image as alpha: soft masks, stencils beside it, masked colours."""

import zlib
from typing import Any

import numpy
import pikepdf
import pyvips

from harnet.media.pdf.samples.samples import samples_of


def alpha_of_image(stream: pikepdf.Object, resources: Any) -> numpy.ndarray | None:
    """Its alpha in 8 bits, shape (height, width); None where it has no mask.

    A mask of other pixels than the image's is brought to those.

    Raises:
        UnreadableSamples: it cannot be decoded.
    """
    size = int(stream.Width), int(stream.Height)
    soft, mask = stream.get("/SMask"), stream.get("/Mask")
    if isinstance(soft, pikepdf.Stream):
        samples = samples_of(soft, resources)
        return _at_size(_in_8_bits(samples.shown()[:, :, 0], samples.bits), size)
    if isinstance(mask, pikepdf.Stream):
        # Where the sample is 1, nothing is painted (ISO 32000-2, 8.9.6.3).
        shown = samples_of(mask, resources).shown()[:, :, 0]
        return _at_size(numpy.where(shown > 0, 0, 255).astype(numpy.uint8), size)
    if isinstance(mask, pikepdf.Array):
        return _by_colour(stream, resources, [int(one) for one in mask])
    return None


def stencil_of_colours(pdf: pikepdf.Pdf, stream: Any) -> Any:
    """A stencil that hides what masked colours hide; None where no colours are masked.

    Raises:
        UnreadableSamples: the image cannot be decoded.
    """
    mask = stream.get("/Mask")
    if not isinstance(mask, pikepdf.Array):
        return None
    alpha = _by_colour(stream, pikepdf.Dictionary(), [int(one) for one in mask])
    stencil = pdf.make_stream(zlib.compress(numpy.packbits(alpha == 0, axis=1).tobytes()))
    stencil.Type, stencil.Subtype = pikepdf.Name.XObject, pikepdf.Name.Image
    stencil.Filter, stencil.ImageMask = pikepdf.Name.FlateDecode, True
    stencil.Width, stencil.Height, stencil.BitsPerComponent = alpha.shape[1], alpha.shape[0], 1
    return pdf.make_indirect(stencil)


def _by_colour(stream: pikepdf.Object, resources: Any, ranges: list[int]) -> numpy.ndarray:
    """Samples within all ranges are not painted (8.9.6.4); they count before `Decode`."""
    values = samples_of(stream, resources).values
    low, high = numpy.array(ranges[::2]), numpy.array(ranges[1::2])
    is_clear = ((values >= low) & (values <= high)).all(axis=2)
    return numpy.where(is_clear, 0, 255).astype(numpy.uint8)


def _in_8_bits(values: numpy.ndarray, bits: int) -> numpy.ndarray:
    if bits == 8:
        return values
    scaled: numpy.ndarray = values.astype(numpy.uint32) * 255 // (2**bits - 1)
    return scaled.astype(numpy.uint8)


def _at_size(alpha: numpy.ndarray, size: tuple[int, int]) -> numpy.ndarray:
    height, width = alpha.shape
    if (width, height) == size:
        return alpha
    image = pyvips.Image.new_from_memory(
        numpy.ascontiguousarray(alpha).data, width, height, 1, "uchar"
    )
    scaled = image.resize(size[0] / width, vscale=size[1] / height, kernel="linear")
    return numpy.asarray(scaled.crop(0, 0, *size)).reshape(size[1], size[0])
