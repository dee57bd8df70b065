"""Pictures as image streams of a PDF: compressed data passes through, all else is lossless."""

import zlib
from collections.abc import Iterator

import numpy
import pikepdf
import pyvips

from harnet.core.picture import Colour, turned_upright
from harnet.core.resampling import px_for
from harnet.media.decode import opened_image
from harnet.media.errors import UnreadableFile
from harnet.media.facts.header import Header
from harnet.media.facts.read import raster_header
from harnet.media.pageplan import PicturePart

PASSES_THROUGH, LOSSLESS, RESAMPLED = "passes through", "lossless", "resampled for this image"
_ROWS_AT_ONCE = 256
_DEVICE = {1: pikepdf.Name.DeviceGray, 3: pikepdf.Name.DeviceRGB, 4: pikepdf.Name.DeviceCMYK}
_ICC_SPACE = {b"GRAY": 1, b"RGB ": 3, b"CMYK": 4}
_APP14 = b"\xff\xee\x00\x0e"
"""The segment that names a colour transform (ISO/IEC 10918-6, 6.5.3, from memory)."""


def image_stream(
    pdf: pikepdf.Pdf, part: PicturePart, at_most_ppi: float | None = None
) -> tuple[pikepdf.Stream, str]:
    """The picture as an image XObject of `pdf`, and how it was taken over.

    With `at_most_ppi` a picture denser than that on its page is resampled to it first.

    Raises:
        UnreadableFile: the file vanished, changed or cannot be decoded.
    """
    header = _unchanged_header(part)
    density = part.placement.density
    if at_most_ppi and density and min(density.x, density.y) > at_most_ppi:
        return _resampled(pdf, part, header, at_most_ppi), RESAMPLED
    if header.format == "jpeg" and header.lossy and header.bits == 8:
        return _passed_through(pdf, part, header), PASSES_THROUGH
    return _decoded(pdf, part, header, _opened(part)), LOSSLESS


def _unchanged_header(part: PicturePart) -> Header:
    """The header as it was when the picture was placed; the figures promised rest on it."""
    assert part.path is not None
    header = raster_header(part.path, part.name)
    if header is not None:
        size = turned_upright(header.stored_w, header.stored_h, header.orientation)
        if size == (part.facts.px_w, part.facts.px_h):
            return header
    raise changed_since(part.name)


def changed_since(name: str) -> UnreadableFile:
    """The error for a file that is no longer the picture that was placed."""
    return UnreadableFile(
        name,
        "its file changed after it was placed and no longer has the same size",
        "Place or relink it again",
    )


def _passed_through(pdf: pikepdf.Pdf, part: PicturePart, header: Header) -> pikepdf.Stream:
    assert part.path is not None
    data = part.path.read_bytes()
    stream = pikepdf.Stream(pdf, data)
    stream.Filter = pikepdf.Name.DCTDecode
    _describe(pdf, stream, header.stored_w, header.stored_h, header.channels, 8, header.icc)
    # Common practice, no source: a CMYK JPEG with this segment is stored inverted.
    if header.channels == 4 and _APP14 in data[: data.find(b"\xff\xda")]:
        stream.Decode = pikepdf.Array([1, 0] * 4)
    return stream


def _opened(part: PicturePart) -> pyvips.Image:
    assert part.path is not None
    try:
        return opened_image(part.path, part.facts)
    except (pyvips.Error, OSError):
        raise UnreadableFile(part.name, "its pixels cannot be decoded any more") from None


def _resampled(
    pdf: pikepdf.Pdf, part: PicturePart, header: Header, at_most_ppi: float
) -> pikepdf.Stream:
    width_pt, height_pt = part.placement.drawn_size_pt
    if header.orientation > 4:
        width_pt, height_pt = height_pt, width_pt
    image = _opened(part)
    px_w = min(image.width, px_for(width_pt, at_most_ppi))
    px_h = min(image.height, px_for(height_pt, at_most_ppi))
    if header.colour is Colour.BILEVEL:
        header = Header("png", px_w, px_h, Colour.GREY, 8, 1)
    small = image.resize(px_w / image.width, vscale=px_h / image.height, kernel="lanczos3")
    return _decoded(pdf, part, header, small.crop(0, 0, px_w, px_h))


def _decoded(
    pdf: pikepdf.Pdf, part: PicturePart, header: Header, image: pyvips.Image
) -> pikepdf.Stream:
    """Unpacked samples, compressed again without loss; alpha becomes a soft mask."""
    try:
        if image.interpretation == "lab" or image.format not in ("uchar", "ushort"):
            image = image.colourspace("srgb").cast("uchar")
        bits = 16 if image.format == "ushort" else 8
        alpha = None
        if image.hasalpha():
            # Two streams are made from one decoding, so it is kept in memory or on disk.
            image = image.copy_memory()
            alpha, image = image[image.bands - 1], image[: image.bands - 1]
        if header.colour is Colour.BILEVEL:
            bits = 1
        stream = _compressed(pdf, image, bits)
        _describe(pdf, stream, image.width, image.height, image.bands, bits, header.icc)
        if alpha is not None:
            mask = _compressed(pdf, alpha, bits)
            _describe(pdf, mask, alpha.width, alpha.height, 1, bits, None)
            stream.SMask = pdf.make_indirect(mask)
        return stream
    except pyvips.Error:
        raise UnreadableFile(part.name, "its pixels cannot be decoded any more") from None


def _describe(
    pdf: pikepdf.Pdf,
    stream: pikepdf.Stream,
    px_w: int,
    px_h: int,
    channels: int,
    bits: int,
    icc: bytes | None,
) -> None:
    stream.Type, stream.Subtype = pikepdf.Name.XObject, pikepdf.Name.Image
    stream.Width, stream.Height, stream.BitsPerComponent = px_w, px_h, bits
    stream.ColorSpace = _DEVICE[channels]
    if icc and _ICC_SPACE.get(icc[16:20]) == channels and bits > 1:
        profile = pikepdf.Stream(pdf, icc)
        profile.N = channels
        profile.Alternate = _DEVICE[channels]
        stream.ColorSpace = pikepdf.Array([pikepdf.Name.ICCBased, pdf.make_indirect(profile)])


def _compressed(pdf: pikepdf.Pdf, image: pyvips.Image, bits: int) -> pikepdf.Stream:
    """Rows less the row above (PNG predictor 2, ISO 32000-2, 7.4.4.4), then Deflate."""
    packer = zlib.compressobj(6)
    blocks = [packer.compress(rows) for rows in _predicted_rows(image, bits)]
    stream = pikepdf.Stream(pdf, b"".join([*blocks, packer.flush()]))
    stream.Filter = pikepdf.Name.FlateDecode
    stream.DecodeParms = pikepdf.Dictionary(
        Predictor=12, Colors=image.bands, BitsPerComponent=bits, Columns=image.width
    )
    return stream


def _predicted_rows(image: pyvips.Image, bits: int) -> Iterator[bytes]:
    region = pyvips.Region.new(image)
    above: numpy.ndarray | None = None
    for top in range(0, image.height, _ROWS_AT_ONCE):
        height = min(_ROWS_AT_ONCE, image.height - top)
        samples = numpy.frombuffer(
            region.fetch(0, top, image.width, height), "uint16" if bits == 16 else "uint8"
        ).reshape(height, image.width * image.bands)
        if bits == 16:
            rows = samples.astype(">u2").view("uint8")
        elif bits == 1:
            rows = numpy.packbits(samples > 127, axis=1)
        else:
            rows = samples
        first = numpy.zeros((1, rows.shape[1]), "uint8") if above is None else above
        less_above = rows - numpy.vstack([first, rows[:-1]])
        above = rows[-1:].copy()
        marker = numpy.full((height, 1), 2, "uint8")
        yield numpy.hstack([marker, less_above]).tobytes()
