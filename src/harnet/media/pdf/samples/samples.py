"""The samples of an image in a PDF as an array, whatever filters they went through."""

import io
from dataclasses import dataclass
from typing import Any

import numpy
import pikepdf
import pypdfium2
from PIL import Image

from harnet.core.pictures.picture import Colour
from harnet.media.limits import MAX_PIXELS
from harnet.media.pdf.samples.ccitt import is_plain_ccitt, tiff_of_ccitt
from harnet.media.pdf.samples.space import GREY, SampleSpace, UnreadableSamples, space_of
from harnet.media.pdf.walking.content import NONSENSE, name_text

_APP14 = bytes.fromhex("ffee000e 41646f6265 0064 0000 0000")
"""The start of the segment that says how a JPEG's colours were transformed, in its last byte
(ISO/IEC 10918-6, 6.5.3, from memory); five of its bytes are the name it is known by."""
_APP14_NAME = _APP14[4:9]
_MARKERS_BYTES = 1 << 16
_PREDICTED = ("/Predictor", "/Colors", "/BitsPerComponent", "/Columns")
_PARMS = {
    "FlateDecode": _PREDICTED,
    "LZWDecode": (*_PREDICTED, "/EarlyChange"),
}
_LOSSY_OR_BILEVEL = ("DCTDecode", "JPXDecode", "CCITTFaxDecode", "JBIG2Decode")
_SHORT = {
    "DCT": "DCTDecode",
    "CCF": "CCITTFaxDecode",
    "Fl": "FlateDecode",
    "LZW": "LZWDecode",
    "RL": "RunLengthDecode",
    "AHx": "ASCIIHexDecode",
    "A85": "ASCII85Decode",
}
"""Names of filters in inline images (ISO 32000-2, table 92)."""


STENCIL = "/ImageMask"
"""The key of what lets colour through where its samples say so."""


@dataclass(frozen=True, kw_only=True)
class Samples:
    """An image's samples as its file has them, before `Decode`.

    `values` has the shape (height, width, channels), in 8 bits or, of 16 bits, in 16. `decode` maps
    them, two figures a channel.
    """

    values: numpy.ndarray
    bits: int
    space: SampleSpace
    decode: list[float]
    is_stencil: bool = False

    @property
    def is_inverted(self) -> bool:
        """Whether `Decode` turns every channel round, which is what it is used for."""
        usual = self.space.default_decode(self.bits)
        turned = [
            one for low, high in zip(usual[::2], usual[1::2], strict=True) for one in (high, low)
        ]
        return self.decode == turned and self.space.colour is not Colour.PALETTE

    @property
    def is_plain(self) -> bool:
        """Whether `Decode` changes nothing."""
        return self.decode == self.space.default_decode(self.bits)

    def shown(self) -> numpy.ndarray:
        """The values with `Decode` applied, from 0 to the most that the bits hold.

        Raises:
            UnreadableSamples: it maps a palette or Lab in an unusual way.
        """
        if self.is_plain:
            return self.values
        most = 2**self.bits - 1
        if self.is_inverted:
            turned: numpy.ndarray = (most - self.values).astype(self.values.dtype)
            return turned
        if self.space.colour in (Colour.PALETTE, Colour.LAB):
            raise UnreadableSamples("it maps its samples in a way that is not supported")
        low, high = numpy.array(self.decode[::2]), numpy.array(self.decode[1::2])
        mapped = low + self.values.astype(numpy.float32) / most * (high - low)
        shown: numpy.ndarray = (numpy.clip(mapped, 0, 1) * most + 0.5).astype(self.values.dtype)
        return shown


def filters_of(stream: pikepdf.Object) -> list[str]:
    """The names of an image's filters in full, outermost first."""
    stated = stream.get("/Filter", stream.get("/F"))
    names = [stated] if isinstance(stated, pikepdf.Name) else list(stated or [])
    plain = [name_text(one).lstrip("/") for one in names]
    return [_SHORT.get(one, one) for one in plain]


def coded_bytes(stream: pikepdf.Object) -> bytes:
    """An image's bytes as its last filter takes them: a JPEG file, for instance.

    Raises:
        UnreadableSamples: the filters before it cannot be undone.
    """
    filters = filters_of(stream)
    if len(filters) <= 1:
        return bytes(stream.read_raw_bytes())
    try:
        return _undone(stream, len(filters) - 1)
    except NONSENSE:
        raise UnreadableSamples("its filters cannot be undone") from None


def _undone(stream: pikepdf.Object, count: int) -> bytes:
    """An image's bytes with its first filters undone, so many of them.

    qpdf wants no parameters of filters that have none, not even empty ones, and some producers say
    of one filter what only another one understands: each is told what it knows.
    """
    names, parms = filters_of(stream)[:count], _parms_of(stream)[:count]
    known = [(one, _known_of(one, said)) for one, said in zip(names, parms, strict=True)]
    known = [(one, said) for one, said in known if one != "Crypt"]
    with pikepdf.new() as owner:
        alone = owner.make_stream(stream.read_raw_bytes())
        alone.Filter = pikepdf.Array([pikepdf.Name("/" + one) for one, _ in known])
        if any(said for _, said in known):
            dictionaries = [pikepdf.Dictionary(said) if said else None for _, said in known]
            alone.DecodeParms = pikepdf.Array(dictionaries)
        return bytes(alone.read_bytes(pikepdf.StreamDecodeLevel.all))


def _known_of(name: str, parms: Any) -> dict[str, int]:
    """Of the parameters of a filter those that it knows (ISO 32000-2, 7.4)."""
    if not isinstance(parms, pikepdf.Dictionary):
        return {}
    return {key: int(parms[key]) for key in _PARMS.get(name, ()) if key in parms}


def last_parms(stream: pikepdf.Object) -> dict[str, Any]:
    """The parameters of its last filter by name; empty without."""
    parms = _parms_of(stream)
    last = parms[-1] if parms else None
    return dict(last.items()) if isinstance(last, pikepdf.Dictionary) else {}


def _parms_of(stream: pikepdf.Object) -> list[Any]:
    stated = stream.get("/DecodeParms", stream.get("/DP"))
    listed = list(stated) if isinstance(stated, pikepdf.Array) else [stated]
    count = len(filters_of(stream))
    return (listed + [None] * count)[:count]


def samples_of(stream: pikepdf.Object, resources: Any = None) -> Samples:
    """An image's samples.

    `resources` are where names of colour spaces are looked up.

    Raises:
        UnreadableSamples: they cannot be read; the text says why.
    """
    try:
        return _samples_of(stream, resources)
    except UnreadableSamples:
        raise
    except (*NONSENSE, OSError, pypdfium2.PdfiumError, Image.DecompressionBombError):
        raise UnreadableSamples("its samples cannot be decoded") from None


def _samples_of(stream: pikepdf.Object, resources: Any) -> Samples:
    width, height = int(stream.Width), int(stream.Height)
    if not 0 < width * height <= MAX_PIXELS:
        raise UnreadableSamples(f"it has {width} × {height} pixels, which is more than can be read")
    filters = filters_of(stream)
    coding = filters[-1] if filters and filters[-1] in _LOSSY_OR_BILEVEL else ""
    is_stencil = bool(stream.get(STENCIL, False))
    bits = 1 if is_stencil or coding in ("CCITTFaxDecode", "JBIG2Decode") else 0
    space = GREY if is_stencil else None
    if coding == "JPXDecode":
        return _jpeg2000(stream, resources, (width, height))
    if space is None:
        space = space_of(stream.get("/ColorSpace"), resources)
    if not bits:
        bits = 8 if coding == "DCTDecode" else int(stream.get("/BitsPerComponent", 8))
    if coding == "CCITTFaxDecode":
        values = _ccitt(stream, (width, height))
    elif coding == "JBIG2Decode":
        values = _drawn_bilevel(stream, (width, height))
    else:
        data = _of_jpeg(stream, space) if coding == "DCTDecode" else _undone(stream, len(filters))
        values = unpacked(data, (width, height, space.channels), bits)
    stated = stream.get("/Decode")
    decode = [float(one) for one in stated] if stated is not None else space.default_decode(bits)
    if len(decode) != 2 * space.channels:
        decode = space.default_decode(bits)
    return Samples(values=values, bits=bits, space=space, decode=decode, is_stencil=is_stencil)


def _of_jpeg(stream: pikepdf.Object, space: SampleSpace) -> bytes:
    """Samples of a JPEG; the PDF says of its colours what the JPEG leaves open (7.4.8)."""
    data = coded_bytes(stream)
    stated = last_parms(stream).get("/ColorTransform")
    if stated is not None and _APP14_NAME not in data[:_MARKERS_BYTES]:
        transform = (1 if space.channels == 3 else 2) if int(stated) else 0
        data = data[:2] + _APP14 + bytes([transform]) + data[2:]
    with pikepdf.new() as owner:
        alone = owner.make_stream(data)
        alone.Filter = pikepdf.Name.DCTDecode
        return bytes(alone.read_bytes(pikepdf.StreamDecodeLevel.all))


def unpacked(data: bytes, shape: tuple[int, int, int], bits: int) -> numpy.ndarray:
    """Rows of packed samples as an array of (height, width, channels); `shape` is width first.

    Raises:
        UnreadableSamples: there are fewer than the image has, or bits that no image has.
    """
    width, height, channels = shape
    if bits not in (1, 2, 4, 8, 16):
        raise UnreadableSamples(f"it has {bits} bits a channel")
    row_bytes = (width * channels * bits + 7) // 8
    if len(data) < row_bytes * height:
        raise UnreadableSamples("its samples are incomplete")
    rows = numpy.frombuffer(data, numpy.uint8, row_bytes * height).reshape(height, row_bytes)
    if bits == 8:
        return rows.reshape(height, width, channels)
    if bits == 16:
        return rows.view(">u2").astype(numpy.uint16).reshape(height, width, channels)
    each = numpy.unpackbits(rows, axis=1).reshape(height, -1, bits)
    weights = 1 << numpy.arange(bits - 1, -1, -1, dtype=numpy.uint8)
    values: numpy.ndarray = (each * weights).sum(axis=2, dtype=numpy.uint8)
    return values[:, : width * channels].reshape(height, width, channels)


def _ccitt(stream: pikepdf.Object, size: tuple[int, int]) -> numpy.ndarray:
    parms = last_parms(stream)
    if not is_plain_ccitt(parms):
        return _drawn_bilevel(stream, size)
    tiff = tiff_of_ccitt(coded_bytes(stream), size, parms)
    with Image.open(io.BytesIO(tiff)) as image:
        grey = numpy.asarray(image.convert("L"))
    # What the TIFF calls black is 0 in the PDF unless BlackIs1, which the TIFF was told as well.
    if grey.shape[1] < size[0]:
        raise UnreadableSamples("its rows are shorter than the image")
    return (grey[:, : size[0]] > 127).astype(numpy.uint8)[:, :, None]


def _drawn_bilevel(stream: pikepdf.Object, size: tuple[int, int]) -> numpy.ndarray:
    """Samples of one bit through pdfium, which reads what nothing else here does.

    Raises:
        UnreadableSamples: it cannot read them either.
    """
    alone = pikepdf.new()
    copy = alone.copy_foreign(stream)
    for key in ("/Decode", "/ImageMask", "/SMask", "/Mask", "/ColorSpace"):
        if key in copy:
            del copy[key]
    copy.ColorSpace = pikepdf.Name.DeviceGray
    copy.BitsPerComponent = 1
    width, height = size
    page = alone.make_indirect(
        pikepdf.Dictionary(
            Type=pikepdf.Name.Page,
            MediaBox=pikepdf.Array([0, 0, width, height]),
            Resources=pikepdf.Dictionary(XObject=pikepdf.Dictionary(X=copy)),
            Contents=alone.make_stream(f"{width} 0 0 {height} 0 0 cm /X Do".encode()),
        )
    )
    alone.pages.append(pikepdf.Page(page))
    out = io.BytesIO()
    alone.save(out)
    with pypdfium2.PdfDocument(out.getvalue()) as pdf:
        for thing in pdf[0].get_objects():
            if isinstance(thing, pypdfium2.PdfImage):
                grey = thing.get_bitmap().to_pil().convert("L")
                if grey.size != size:
                    break
                return (numpy.asarray(grey) > 127).astype(numpy.uint8)[:, :, None]
    raise UnreadableSamples("its samples cannot be decoded")


def _jpeg2000(stream: pikepdf.Object, resources: Any, size: tuple[int, int]) -> Samples:
    Image.MAX_IMAGE_PIXELS = MAX_PIXELS
    with Image.open(io.BytesIO(coded_bytes(stream))) as image:
        if image.size != size:
            raise UnreadableSamples("its size is not the one that its dictionary states")
        values = numpy.asarray(image)
        mode = image.mode
    values = values[:, :, None] if values.ndim == 2 else values
    if mode in ("LA", "RGBA"):
        values = values[:, :, :-1]
    bits = 16 if values.dtype.itemsize > 1 else 8
    values = values.astype(numpy.uint16 if bits == 16 else numpy.uint8)
    stated = stream.get("/ColorSpace")
    if stated is not None:
        space = space_of(stated, resources)
    else:
        colour = {1: Colour.GREY, 3: Colour.RGB, 4: Colour.CMYK}[values.shape[2]]
        space = SampleSpace(colour=colour, channels=values.shape[2])
    if space.channels != values.shape[2]:
        raise UnreadableSamples("it has other channels than its colour space")
    return Samples(values=values, bits=bits, space=space, decode=space.default_decode(bits))
