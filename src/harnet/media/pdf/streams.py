"""Pictures as image streams of a PDF: passed through, lossless, or as small as was asked for."""

import zlib
from collections.abc import Iterator

import numpy
import pikepdf
import pyvips

from harnet.core.pdfmode import Action, Fate
from harnet.core.picture import Colour, Facts, turned_upright
from harnet.core.wording import px_text
from harnet.media.decode import opened_image
from harnet.media.errors import UnreadableFile
from harnet.media.facts.header import Header
from harnet.media.facts.read import raster_header
from harnet.media.pageplan import PicturePart

PASSES_THROUGH, LOSSLESS = Action.PASSES.value, Action.LOSSLESS.value
_ROWS_AT_ONCE = 256
_DEVICE = {1: pikepdf.Name.DeviceGray, 3: pikepdf.Name.DeviceRGB, 4: pikepdf.Name.DeviceCMYK}
_ICC_SPACE = {b"GRAY": 1, b"RGB ": 3, b"CMYK": 4}
_APP14 = b"\xff\xee\x00\x0e"
"""The segment that names a colour transform (ISO/IEC 10918-6, 6.5.3, from memory)."""


def image_stream(pdf: pikepdf.Pdf, part: PicturePart, fate: Fate) -> tuple[pikepdf.Stream, str]:
    """The picture as an image XObject of `pdf`, by its fate, and in words how it was taken over.

    Raises:
        UnreadableFile: the file vanished, changed or cannot be decoded.
    """
    header = _unchanged_header(part)
    if fate.action is Action.DOWNSAMPLED:
        return _resampled(pdf, part, header, fate), how_of(fate, part.facts)
    if fate.action is Action.COMPRESSED:
        return _packed(pdf, part, header, _opened(part), fate.quality), how_of(fate, part.facts)
    if header.format == "jpeg" and header.lossy and header.bits == 8:
        return _passed_through(pdf, part, header), PASSES_THROUGH
    return _decoded(pdf, part, header, _opened(part)), LOSSLESS


def how_of(fate: Fate, facts: Facts) -> str:
    """A fate in words: what becomes of the pixels, and how they are compressed."""
    if fate.action is Action.PASSES:
        return PASSES_THROUGH
    packing = "lossless" if fate.quality is None else f"JPEG of quality {fate.quality}"
    if fate.action is Action.DOWNSAMPLED:
        before, after = px_text(facts.px_w, facts.px_h), px_text(fate.px_w, fate.px_h)
        return f"downsampled from {before} to {after} px, {packing}"
    if fate.action is Action.COMPRESSED:
        return f"compressed as {packing}"
    return "stays vector" if fate.action is Action.VECTOR else LOSSLESS


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


def _resampled(pdf: pikepdf.Pdf, part: PicturePart, header: Header, fate: Fate) -> pikepdf.Stream:
    px_w, px_h = turned_upright(fate.px_w, fate.px_h, header.orientation)
    image = _opened(part)
    if header.colour is Colour.BILEVEL:
        header = Header("png", px_w, px_h, Colour.GREY, 8, 1)
    small = image.resize(px_w / image.width, vscale=px_h / image.height, kernel="lanczos3")
    return _packed(pdf, part, header, small.crop(0, 0, px_w, px_h), fate.quality)


def _packed(
    pdf: pikepdf.Pdf, part: PicturePart, header: Header, image: pyvips.Image, quality: int | None
) -> pikepdf.Stream:
    """Samples as JPEG of a quality, or without loss; alpha is never lossy."""
    if quality is None:
        return _decoded(pdf, part, header, image)
    try:
        if image.interpretation == "lab" or image.format not in ("uchar", "ushort"):
            image = image.colourspace("srgb")
        if image.format == "ushort":
            image = image.rshift(8)
        image = image.cast("uchar")
        alpha = None
        if image.hasalpha():
            image = image.copy_memory()
            alpha, image = image[image.bands - 1], image[: image.bands - 1]
        plain = image.copy(interpretation="b-w" if image.bands == 1 else "srgb")
        stream = pikepdf.Stream(pdf, plain.jpegsave_buffer(Q=quality, keep="none"))
        stream.Filter = pikepdf.Name.DCTDecode
        _describe(pdf, stream, image.width, image.height, image.bands, 8, header.icc)
        if alpha is not None:
            stream.SMask = pdf.make_indirect(_soft_mask(pdf, alpha, 8))
        return stream
    except pyvips.Error:
        raise UnreadableFile(part.name, "its pixels cannot be decoded any more") from None


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
            stream.SMask = pdf.make_indirect(_soft_mask(pdf, alpha, bits))
        return stream
    except pyvips.Error:
        raise UnreadableFile(part.name, "its pixels cannot be decoded any more") from None


def _soft_mask(pdf: pikepdf.Pdf, alpha: pyvips.Image, bits: int) -> pikepdf.Stream:
    """The alpha channel as a soft mask (ISO 32000-2, 11.6.5.2)."""
    mask = _compressed(pdf, alpha, bits)
    _describe(pdf, mask, alpha.width, alpha.height, 1, bits, None)
    return mask


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
