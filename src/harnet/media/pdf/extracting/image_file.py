"""One image of a PDF as a file: its bytes as they are where a format holds them, else lossless."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy
import pikepdf
import pyvips

from harnet.core.measure.units import MM_PER_INCH
from harnet.core.pictures.picture import Colour
from harnet.media.pdf.extracting.alpha import alpha_of_image
from harnet.media.pdf.samples.ccitt import is_plain_ccitt, tiff_of_ccitt
from harnet.media.pdf.samples.samples import (
    Samples,
    coded_bytes,
    filters_of,
    last_parms,
    samples_of,
)

AS_IT_IS, LOSSLESS = "bytes unchanged", "without loss"
_JP2_SIGNATURE = b"\0\0\0\x0cjP  "


@dataclass(frozen=True, slots=True)
class ImageFile:
    """A file that was written, and how its bytes came about."""

    path: Path
    how: str


def write_image_file(
    stream: pikepdf.Object,
    resources: Any,
    stem: Path,
    density_ppi: tuple[float, float],
    *,
    with_alpha: bool = False,
) -> ImageFile:
    """Writes an image beside `stem`, whose ending is that of the format.

    `density_ppi`, across and down, is what it is tagged with where the bytes are not kept as they
    are. `with_alpha` takes its mask along, which needs other bytes than its own.

    Raises:
        UnreadableSamples: it cannot be decoded.
    """
    alpha = alpha_of_image(stream, resources) if with_alpha else None
    if alpha is None:
        kept = _as_it_is(stream, density_ppi)
        if kept is not None:
            data, ending = kept
            path = stem.with_name(f"{stem.name}.{ending}")
            path.write_bytes(data)
            return ImageFile(path, AS_IT_IS)
    samples = samples_of(stream, resources)
    image, is_tiff = image_of_samples(samples, alpha)
    across, down = density_ppi
    image = image.copy(xres=across / MM_PER_INCH, yres=down / MM_PER_INCH)
    space = samples.space.base or samples.space
    if space.profile:
        image.set_type(pyvips.GValue.blob_type, "icc-profile-data", space.profile)
    path = stem.with_name(f"{stem.name}.{'tif' if is_tiff else 'png'}")
    if is_tiff:
        predictor = "horizontal" if image.format == "uchar" else "none"
        image.tiffsave(
            str(path), compression="deflate", predictor=predictor, resunit="inch", keep="icc"
        )
    else:
        depth = {"bitdepth": samples.bits} if _keeps_bits(samples, alpha) else {}
        image.pngsave(str(path), compression=6, filter="all", keep="icc", **depth)
    return ImageFile(path, LOSSLESS)


def _keeps_bits(samples: Samples, alpha: numpy.ndarray | None) -> bool:
    return samples.bits < 8 and samples.space.colour is Colour.GREY and alpha is None


def _as_it_is(stream: pikepdf.Object, density_ppi: tuple[float, float]) -> tuple[bytes, str] | None:
    """Its own bytes and the ending of their format; None where no format holds them."""
    filters = filters_of(stream)
    coding = filters[-1] if filters else ""
    if coding == "DCTDecode":
        return coded_bytes(stream), "jpg"
    if coding == "JPXDecode":
        data = coded_bytes(stream)
        return data, "jp2" if data.startswith(_JP2_SIGNATURE) else "j2k"
    if coding == "CCITTFaxDecode":
        parms = last_parms(stream)
        if not is_plain_ccitt(parms):
            return None
        decode = stream.get("/Decode")
        is_turned = decode is not None and [float(one) for one in decode] == [1.0, 0.0]
        size = int(stream.Width), int(stream.Height)
        data = tiff_of_ccitt(
            coded_bytes(stream), size, parms, density_ppi=density_ppi, is_turned=is_turned
        )
        return data, "tif"
    return None


def image_of_samples(samples: Samples, alpha: numpy.ndarray | None) -> tuple[pyvips.Image, bool]:
    """Samples as an image in the colours that they have, and whether only TIFF holds those.

    Palettes become colours, fewer bits 8, and a tint is dark where its ink is. `alpha` is of the
    shape (height, width), in 8 bits.

    Raises:
        UnreadableSamples: `Decode` maps them in an unusual way.
    """
    space, values = samples.space, samples.shown()
    if space.colour is Colour.PALETTE:
        assert space.palette is not None and space.base is not None
        values = space.palette[numpy.minimum(values[:, :, 0], len(space.palette) - 1)]
        space = space.base
    elif samples.bits < 8:
        most = 2**samples.bits - 1
        values = (values.astype(numpy.uint16) * 255 // most).astype(numpy.uint8)
    if space.colour is Colour.SPOT and space.channels == 1:
        # A tint of 1 is full ink, and is shown as dark.
        values = (numpy.iinfo(values.dtype).max - values).astype(values.dtype)
    is_deep = values.dtype == numpy.uint16
    if alpha is not None:
        scaled = alpha.astype(numpy.uint16) * 257 if is_deep else alpha
        values = numpy.concatenate([values, scaled[:, :, None]], axis=2)
    return _as_image(values, space.colour, space.channels, is_deep)


def _as_image(
    values: numpy.ndarray, colour: Colour, channels: int, is_deep: bool
) -> tuple[pyvips.Image, bool]:
    height, width, bands = values.shape
    values = numpy.ascontiguousarray(values)
    form = "ushort" if is_deep else "uchar"
    image = pyvips.Image.new_from_memory(values.data, width, height, bands, form)
    if colour is Colour.CMYK:
        return image.copy(interpretation="cmyk"), True
    if colour is Colour.RGB:
        return image.copy(interpretation="rgb16" if is_deep else "srgb"), False
    if colour is Colour.GREY or (colour is Colour.SPOT and channels == 1):
        return image.copy(interpretation="grey16" if is_deep else "b-w"), False
    return image.copy(interpretation="multiband"), True
