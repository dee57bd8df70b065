"""Samples behind every chain of filters, also with parameters that a filter does not know."""

import base64
import io
import zlib

import numpy
import pikepdf
import pytest
from PIL import Image

from harnet.media.pdf.samples.samples import coded_bytes, samples_of
from tests.support.pictures import photo

Name, Array, Dictionary = pikepdf.Name, pikepdf.Array, pikepdf.Dictionary
OWNER = pikepdf.new()
"""Streams live as long as their PDF."""
SIZE = (60, 40)
PIXELS = photo(*SIZE, seed=3)
RAW = PIXELS.tobytes()
HEX, A85, RUN = Name.ASCIIHexDecode, Name.ASCII85Decode, Name.RunLengthDecode
LZW, FLATE, DCT = Name.LZWDecode, Name.FlateDecode, Name.DCTDecode
NONE, IDENTITY = Dictionary(), Dictionary(Name=Name.Identity)
PREDICTED = Dictionary(Predictor=15, Colors=3, Columns=SIZE[0], BitsPerComponent=8)


def jpeg(**options):
    out = io.BytesIO()
    Image.fromarray(PIXELS).save(out, "JPEG", **options)
    return out.getvalue()


def in_hex(data):
    return data.hex().encode() + b">"


def in_85(data):
    return base64.a85encode(data) + b"~>"


def in_runs(data):
    parts = [data[at : at + 128] for at in range(0, len(data), 128)]
    return b"".join(bytes([len(one) - 1]) + one for one in parts) + b"\x80"


def in_lzw(data):
    """As Pillow writes it into a TIFF, in one strip."""
    out = io.BytesIO()
    image = Image.frombytes("L", (len(data), 1), data)
    image.save(out, "TIFF", compression="tiff_lzw")
    with Image.open(out) as tiff:
        [start], [length] = tiff.tag_v2[273], tiff.tag_v2[279]
    return out.getvalue()[start : start + length]


def predicted(data):
    """Rows that begin with 0, which says that they are as they are (PNG, 9.2)."""
    row = 3 * SIZE[0]
    return zlib.compress(b"".join(b"\0" + data[at : at + row] for at in range(0, len(data), row)))


def image_of(data, filters, parms=None):
    stream = pikepdf.Stream(OWNER, data)
    stream.Width, stream.Height = SIZE
    stream.BitsPerComponent, stream.ColorSpace = 8, Name.DeviceRGB
    stream.Filter = filters
    if parms is not None:
        stream.DecodeParms = parms
    return stream


@pytest.mark.parametrize(
    "data, filters, parms",
    [
        (in_hex(RAW), HEX, None),
        (in_85(RAW), Array([A85]), Array([NONE])),
        (in_runs(RAW), RUN, NONE),
        (in_lzw(RAW), LZW, Dictionary(EarlyChange=1)),
        (zlib.compress(RAW), FLATE, NONE),
        (zlib.compress(RAW), Array([FLATE]), Array([Dictionary(Predictor=1)])),
        (predicted(RAW), FLATE, PREDICTED),
        (in_85(predicted(RAW)), Array([A85, FLATE]), Array([None, PREDICTED])),
        (in_85(predicted(RAW)), Array([A85, FLATE]), Array([NONE, PREDICTED])),
        (in_85(zlib.compress(RAW)), Array([Name.A85, Name.Fl]), None),
        (
            zlib.compress(RAW),
            Array([Name.Crypt, FLATE]),
            Array([Dictionary(Name=Name.Identity), None]),
        ),
    ],
)
def test_samples_without_loss(data, filters, parms):
    assert (samples_of(image_of(data, filters, parms)).values == PIXELS).all()


@pytest.mark.parametrize("parms", [None, NONE, PREDICTED, Dictionary(Quality=60)])
@pytest.mark.parametrize(
    "coded, first",
    [(in_hex, HEX), (in_85, A85), (in_runs, RUN), (in_lzw, LZW), (zlib.compress, FLATE)],
    ids=["hex", "85", "runs", "lzw", "flate"],
)
def test_a_jpeg_behind_another_filter(coded, first, parms):
    data = jpeg(quality=90)
    said = Array([None if parms is None else NONE, parms])
    stream = image_of(coded(data), Array([first, DCT]), said)
    assert coded_bytes(stream) == data
    theirs = numpy.asarray(Image.open(io.BytesIO(data))).astype(int)
    assert abs(samples_of(stream).values - theirs).max() <= 2, "two decoders of one JPEG"


@pytest.mark.parametrize("transform, looks_right", [(0, True), (1, False)])
def test_the_pdf_says_what_a_jpeg_leaves_open(transform, looks_right):
    """ColorTransform counts where no marker of the JPEG's own speaks (ISO 32000-2, 7.4.8)."""
    data = jpeg(quality=95, subsampling=0, keep_rgb=True)
    at = data.find(b"\xff\xee")
    if at > 0:
        data = data[:at] + data[at + 2 + int.from_bytes(data[at + 2 : at + 4], "big") :]
    assert b"\xff\xee" not in data[:200], "no segment says so"
    found = samples_of(image_of(data, DCT, Dictionary(ColorTransform=transform)))
    assert (abs(found.values.astype(int) - PIXELS).mean() < 3) == looks_right
