"""Pictures as image streams of a PDF: passed through, lossless, or as small as was asked for."""

import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy
import pikepdf
import pyvips

from harnet.core.copies.recipe import CopyColour, PixelBox
from harnet.core.measure.geometry import quarter_turns
from harnet.core.measure.wording import px_text
from harnet.core.output.treatment import Treatment, TreatmentKind
from harnet.core.pictures.picture import Colour, Facts, oriented_size
from harnet.media.errors import ChangedFile, UnreadableFile
from harnet.media.facts.header import Header
from harnet.media.facts.read import raster_header, raster_header_in
from harnet.media.pagedrawing.plan import AnyPicture
from harnet.media.pixels.colour import converted
from harnet.media.pixels.decode import opened_image

PASSES_THROUGH, LOSSLESS = "passed through unchanged", "lossless"
STAYS_VECTOR = "vector, unchanged"
_ROWS_AT_ONCE = 256
_DEVICE = {1: pikepdf.Name.DeviceGray, 3: pikepdf.Name.DeviceRGB, 4: pikepdf.Name.DeviceCMYK}
_INVERTED = (1, 0) * 4
_MOST_INDEXED = 256
_ICC_SPACE = {b"GRAY": 1, b"RGB ": 3, b"CMYK": 4}
_APP14 = b"\xff\xee\x00\x0e"
"""The segment that names a colour transform (ISO/IEC 10918-6, 6.5.3, from memory)."""


@dataclass(frozen=True, slots=True)
class Samples:
    """Decoded samples on their way into a PDF.

    `is_bilevel` where they are ink or paper; `palette` holds their few colours in ascending order,
    as an array of colours × channels, where they can be stored as places in it.
    """

    image: pyvips.Image
    is_bilevel: bool = False
    palette: numpy.ndarray | None = None


@dataclass(frozen=True, slots=True)
class FileStream:
    """The bytes of a file as they stand, and what a PDF says of them."""

    about: pikepdf.Dictionary
    data: bytes


@dataclass(frozen=True, slots=True)
class StoredImage:
    """An image XObject, in words how it was taken over, and the profile its samples need."""

    stream: pikepdf.Stream | FileStream
    how: str
    icc: bytes | None


def image_stream(
    pdf: pikepdf.Pdf, part: AnyPicture, treatment: Treatment, intent: Path | None = None
) -> StoredImage:
    """The picture as an image XObject of `pdf`, by its treatment.

    `intent` is the profile whose inks a picture gets where it is to be converted. That its bytes
    are those which were judged is made sure of by `Unchanged`, before or beside.

    Raises:
        UnreadableFile: the file vanished, changed or cannot be decoded.
    """  # noqa: DOC501
    if is_taken_over(part, treatment):
        data = _bytes_of(part)
        header = _header_of(part, data)
        if header.format == "jpeg" and header.lossy:
            icc = None if treatment.is_inked else header.icc
            return StoredImage(_passed_through(data, header), PASSES_THROUGH, icc)
    header = _header_of(part)
    icc = None if treatment.is_inked else header.icc
    try:
        samples = samples_for(part, treatment, intent)
        return StoredImage(stored_as(pdf, samples, treatment), how_of(treatment, part.facts), icc)
    except pyvips.Error:
        raise _undecodable(part) from None


def is_taken_over(part: AnyPicture, treatment: Treatment) -> bool:
    """Whether the bytes of a picture's file go into the PDF as they are."""
    return treatment.action is TreatmentKind.PASSES and part.facts.format == "jpeg"


def samples_for(part: AnyPicture, treatment: Treatment, intent: Path | None) -> Samples:
    """The samples as they are to be stored, to be read from top to bottom once.

    The colours of a palette are looked for in a reading of their own.

    Raises:
        UnreadableFile: the file vanished, changed or cannot be decoded.
    """  # noqa: DOC501
    header = _header_of(part)
    image = _opened_for(part, treatment, intent, header)
    is_bilevel = (
        header.colour is Colour.BILEVEL and treatment.action is not TreatmentKind.DOWNSAMPLED
    )
    palette = None
    if header.colour is Colour.PALETTE and treatment.action is TreatmentKind.LOSSLESS:
        try:
            palette = _palette_of(_opened_for(part, treatment, intent, header))
        except pyvips.Error:
            raise _undecodable(part) from None
    return Samples(image, is_bilevel, palette)


def _opened_for(
    part: AnyPicture, treatment: Treatment, intent: Path | None, header: Header
) -> pyvips.Image:
    image = _opened(part)
    try:
        if treatment.part is not None:
            image = _cropped(image, treatment.part, part.facts)
        if treatment.action is TreatmentKind.DOWNSAMPLED:
            image = _resized(image, treatment, header)
        if treatment.is_inked:
            image = converted(image, part.facts, CopyColour.CMYK, intent)
    except pyvips.Error:
        raise _undecodable(part) from None
    return image


def stored_as(pdf: pikepdf.Pdf, samples: Samples, treatment: Treatment) -> pikepdf.Stream:
    """Samples as an image of `pdf`: without loss, or as JPEG of the treatment's quality."""
    if treatment.quality is None:
        return _lossless(pdf, samples)
    return _as_jpeg(pdf, samples.image, treatment.quality)


def how_of(treatment: Treatment, facts: Facts) -> str:
    """A treatment in words: what becomes of the pixels, and how they are compressed."""
    if treatment.action is TreatmentKind.PASSES:
        return PASSES_THROUGH
    compression = (
        "lossless" if treatment.quality is None else f"JPEG of quality {treatment.quality}"
    )
    words = {TreatmentKind.VECTOR: STAYS_VECTOR, TreatmentKind.LOSSLESS: LOSSLESS}.get(
        treatment.action, ""
    )
    start = f"from {px_text(facts.px_w, facts.px_h)} " if treatment.part is None else ""
    if treatment.action is TreatmentKind.DOWNSAMPLED:
        words = f"downsampled {start}to {px_text(treatment.px_w, treatment.px_h)} px, {compression}"
    if treatment.action is TreatmentKind.COMPRESSED:
        words = f"compressed as {compression}"
    if treatment.part is not None:
        words = f"cropped to {px_text(treatment.part.width, treatment.part.height)} px, {words}"
    return f"{words}, converted to the output intent" if treatment.is_inked else words


def _bytes_of(part: AnyPicture) -> bytes:
    assert part.path is not None
    try:
        return part.path.read_bytes()
    except OSError:
        raise ChangedFile(part.name) from None


def _header_of(part: AnyPicture, data: bytes | None = None) -> Header:
    """The header of a picture made of pixels, as stored; `data` is its file where that was read.

    Raises:
        ChangedFile: the file is no longer what its facts say.
    """
    assert part.path is not None
    if data is None:
        header = raster_header(part.path, part.name)
    else:
        header = raster_header_in(data, part.name)
    if header is not None:
        size = oriented_size(header.stored_w, header.stored_h, header.orientation)
        if size == (part.facts.px_w, part.facts.px_h):
            return header
    raise ChangedFile(part.name)


def _passed_through(data: bytes, header: Header) -> FileStream:
    about = pikepdf.Dictionary(Filter=pikepdf.Name.DCTDecode)
    _describe(about, header.stored_w, header.stored_h, header.channels, 8)
    # Common practice, no source: a CMYK JPEG with this segment is stored inverted.
    if header.channels == 4 and _APP14 in data[: data.find(b"\xff\xda")]:
        about.Decode = pikepdf.Array(_INVERTED)
    return FileStream(about, data)


def _opened(part: AnyPicture) -> pyvips.Image:
    assert part.path is not None
    try:
        return opened_image(part.path, part.facts)
    except (pyvips.Error, OSError):
        raise _undecodable(part) from None


def _undecodable(part: AnyPicture) -> UnreadableFile:
    return UnreadableFile(part.name, "its pixels can no longer be decoded")


def _cropped(image: pyvips.Image, part: PixelBox, facts: Facts) -> pyvips.Image:
    """The part of the stored pixels that lies under a part of the upright picture."""
    assert facts.px_w is not None and facts.px_h is not None
    to_stored = quarter_turns(facts.orientation).inverse
    corners = [
        to_stored.applied(x / facts.px_w, y / facts.px_h)
        for x, y in (
            (part.left, part.top),
            (part.left + part.width, part.top + part.height),
        )
    ]
    (left, right), (top, bottom) = (sorted(axis) for axis in zip(*corners, strict=True))
    x, y = round(left * image.width), round(top * image.height)
    return image.crop(x, y, round(right * image.width) - x, round(bottom * image.height) - y)


def _resized(image: pyvips.Image, treatment: Treatment, header: Header) -> pyvips.Image:
    px_w, px_h = oriented_size(treatment.px_w, treatment.px_h, header.orientation)
    small = image.resize(px_w / image.width, vscale=px_h / image.height, kernel="lanczos3")
    return small.crop(0, 0, px_w, px_h)


def _as_jpeg(pdf: pikepdf.Pdf, image: pyvips.Image, quality: int) -> pikepdf.Stream:
    """Samples as JPEG of a quality; alpha is never lossy."""
    image = _printable(image)
    if image.format == "ushort":
        image = image >> 8
    image, alpha = _alpha_apart(image.cast("uchar"))
    spaces = {1: "b-w", 3: "srgb", 4: "cmyk"}
    plain = image.copy(interpretation=spaces[image.bands])
    stream = pikepdf.Stream(pdf, plain.jpegsave_buffer(Q=quality, keep="none"))
    stream.Filter = pikepdf.Name.DCTDecode
    _describe(stream, image.width, image.height, image.bands, 8)
    if image.bands == 4:
        # libvips writes CMYK as nearly everybody does: inverted, with the APP14 segment.
        stream.Decode = pikepdf.Array(_INVERTED)
    if alpha is not None:
        stream.SMask = pdf.make_indirect(_soft_mask(pdf, alpha, 8))
    return stream


def _lossless(pdf: pikepdf.Pdf, samples: Samples) -> pikepdf.Stream:
    """Samples compressed without loss; alpha becomes a soft mask."""
    image, alpha = _alpha_apart(_printable(samples.image))
    depth = 16 if image.format == "ushort" else 8
    if samples.palette is not None and depth == 8:
        stream = _indexed(pdf, image, samples.palette)
    else:
        bits = 1 if samples.is_bilevel else depth
        stream = _compressed(pdf, image, bits)
        _describe(stream, image.width, image.height, image.bands, bits)
    if alpha is not None:
        stream.SMask = pdf.make_indirect(_soft_mask(pdf, alpha, depth))
    return stream


def _printable(image: pyvips.Image) -> pyvips.Image:
    """Samples of 8 or 16 bits in a colour space that an image of a PDF can have."""
    if image.interpretation == "lab" or image.format not in ("uchar", "ushort"):
        return image.colourspace("srgb").cast("uchar")
    return image


def _alpha_apart(image: pyvips.Image) -> tuple[pyvips.Image, pyvips.Image | None]:
    """Colours and alpha; both come from one decoding, which is kept in memory or on disk."""
    if not image.hasalpha():
        return image, None
    image = image.copy_memory()
    return image[: image.bands - 1], image[image.bands - 1]


def _palette_of(image: pyvips.Image) -> numpy.ndarray | None:
    """The colours of an image as an array of colours × channels; None if a byte cannot tell them
    apart, or where they have more than 8 bits.
    """
    image = _printable(image)
    if image.format != "uchar":
        return None
    channels = image.bands - (1 if image.hasalpha() else 0)
    known = numpy.empty(0, "uint32")
    for pixels in _blocks(image):
        known = numpy.union1d(known, _as_numbers(pixels[:, :, :channels]))
        if len(known) > _MOST_INDEXED:
            return None
    values = known.astype(">u4").view("uint8").reshape(-1, 4)
    return values[:, 4 - channels :]


def _as_numbers(pixels: numpy.ndarray) -> numpy.ndarray:
    """Colours of up to four bytes as one number each."""
    numbers = numpy.zeros(pixels.shape[:2], "uint32")
    for channel in range(pixels.shape[2]):
        numbers = numbers << 8 | pixels[:, :, channel]
    return numbers


def _indexed(pdf: pikepdf.Pdf, image: pyvips.Image, palette: numpy.ndarray) -> pikepdf.Stream:
    """Samples as places in a palette (ISO 32000-2, 8.6.6.3), with no more bits than it needs.

    Two colours take two bits: an image of one bit would be judged as 1-bit art.
    """
    bits = next(bits for bits in (2, 4, 8) if len(palette) <= 1 << bits)
    known = _as_numbers(palette[numpy.newaxis, :, :])[0]
    packer = zlib.compressobj(9)
    parts = []
    for pixels in _blocks(image):
        places = numpy.searchsorted(known, _as_numbers(pixels)).astype("uint8")
        parts.append(packer.compress(_narrowed(places, bits).tobytes()))
    stream = pikepdf.Stream(pdf, b"".join([*parts, packer.flush()]))
    stream.Filter = pikepdf.Name.FlateDecode
    _describe(stream, image.width, image.height, image.bands, bits)
    stream.ColorSpace = pikepdf.Array(
        [
            pikepdf.Name.Indexed,
            _DEVICE[image.bands],
            len(palette) - 1,
            pikepdf.String(palette.astype("uint8").tobytes()),
        ]
    )
    return stream


def _narrowed(places: numpy.ndarray, bits: int) -> numpy.ndarray:
    """Rows of bytes as rows of 2, 4 or 8 bits per sample, each row in whole bytes."""
    if bits == 8:
        return places
    each = 8 // bits
    height, width = places.shape
    wide = numpy.zeros((height, -(-width // each) * each), "uint8")
    wide[:, :width] = places
    shifts = numpy.arange(each - 1, -1, -1, dtype="uint8") * bits
    shifted = wide.reshape(height, -1, each) << shifts
    narrow: numpy.ndarray = numpy.bitwise_or.reduce(shifted, axis=2)
    return narrow


def _soft_mask(pdf: pikepdf.Pdf, alpha: pyvips.Image, bits: int) -> pikepdf.Stream:
    """The alpha channel as a soft mask (ISO 32000-2, 11.6.5.2)."""
    mask = _compressed(pdf, alpha, bits)
    _describe(mask, alpha.width, alpha.height, 1, bits)
    return mask


def _describe(stream: pikepdf.Object, px_w: int, px_h: int, channels: int, bits: int) -> None:
    stream.Type, stream.Subtype = pikepdf.Name.XObject, pikepdf.Name.Image
    stream.Width, stream.Height, stream.BitsPerComponent = px_w, px_h, bits
    stream.ColorSpace = _DEVICE[channels]


def channels_of(icc: bytes) -> int | None:
    """How many channels a profile's colours have (ICC.1:2022, 7.2.8, from memory)."""
    return _ICC_SPACE.get(icc[16:20])


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
    above: numpy.ndarray | None = None
    for block in _blocks(image):
        height = block.shape[0]
        samples = block.reshape(height, image.width * image.bands)
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


def _blocks(image: pyvips.Image) -> Iterator[numpy.ndarray]:
    """The image from top to bottom, as arrays of rows × columns × channels."""
    region = pyvips.Region.new(image)
    kind = "uint16" if image.format == "ushort" else "uint8"
    for top in range(0, image.height, _ROWS_AT_ONCE):
        height = min(_ROWS_AT_ONCE, image.height - top)
        content = region.fetch(0, top, image.width, height)
        yield numpy.frombuffer(content, kind).reshape(height, image.width, image.bands)
