"""One image of a PDF by itself: every pixel, in the colours in which a page shows it."""

import io

import numpy as np
import pikepdf
import pytest
from pikepdf import Array, Dictionary, Name
from PIL import Image

from harnet.media.errors import UnreadableFile
from harnet.media.pdf.reading import single_image as alone
from tests.support.pdfs import ByHand
from tests.support.pictures import photo


@pytest.fixture
def by_hand(tmp_path):
    return ByHand(tmp_path / "hand.pdf")


def taken_out(by_hand, data, **stated):
    """The pixels of an image with these samples and this dictionary."""
    image = by_hand.image(**stated)
    filters = image.get("/Filter")
    image.write(data, **({"filter": filters} if filters is not None else {}))
    by_hand.resources.XObject.X = image
    by_hand.painted(b"q 72 0 0 48 20 20 cm /X Do Q")
    with pikepdf.open(by_hand.path) as pdf:
        number = pdf.pages[0].Resources.XObject.X.objgen[0]
    look = by_hand.path.with_name("look.png")
    order = {"path": str(by_hand.path), "name": "hand.pdf", "number": number, "look": str(look)}
    alone.work(order, lambda number: None)
    with Image.open(look) as image:
        return np.asarray(image.convert("RGB"), int)


def test_every_pixel_is_there_and_exact(by_hand):
    pixels = photo(61, 43)
    taken = taken_out(by_hand, pixels.tobytes(), px_w=61, px_h=43, ColorSpace=Name.DeviceRGB)
    assert taken.shape == (43, 61, 3) and np.abs(taken - pixels).max() <= 1


def test_one_bit_a_pixel(by_hand):
    bits = np.random.default_rng(7).integers(0, 2, (40, 48), "uint8")
    data = np.packbits(bits, axis=1).tobytes()
    stated = {"ColorSpace": Name.DeviceGray, "BitsPerComponent": 1}
    taken = taken_out(by_hand, data, px_w=48, px_h=40, **stated)
    assert (taken[..., 0] == bits * 255).all()


@pytest.mark.parametrize("decode, shown", [(None, 0), ([1, 0] * 4, 255)])
def test_inks_of_a_jpeg_are_taken_as_the_pdf_says(by_hand, decode, shown):
    """Pillow writes inks turned round, as is usual; only `Decode` turns them back."""
    out = io.BytesIO()
    Image.new("CMYK", (32, 24), (0, 0, 0, 0)).save(out, "JPEG", quality=95)
    stated = {"ColorSpace": Name.DeviceCMYK, "Filter": Name.DCTDecode}
    if decode:
        stated["Decode"] = Array(decode)
    taken = taken_out(by_hand, out.getvalue(), px_w=32, px_h=24, **stated)
    assert np.abs(taken - shown).max() < 40


def test_a_named_ink_has_the_colour_that_stands_for_it(by_hand):
    tint = Dictionary(
        FunctionType=2, Domain=Array([0, 1]), C0=Array([1, 1, 1]), C1=Array([1, 0, 0]), N=1
    )
    space = Array([Name.Separation, Name("/Harbour#20red"), Name.DeviceRGB, tint])
    data = bytes([255] * 50 + [0] * 50)
    taken = taken_out(by_hand, data, px_w=10, px_h=10, ColorSpace=space)
    assert tuple(taken[2, 2]) == (255, 0, 0) and tuple(taken[8, 8]) == (255, 255, 255)


def test_samples_that_cannot_be_read_are_told(by_hand):
    stated = {"ColorSpace": Name.DeviceRGB, "Filter": Name.JPXDecode}
    with pytest.raises(UnreadableFile, match="this image cannot be extracted from the PDF"):
        taken_out(by_hand, b"no picture", px_w=10, px_h=10, **stated)


def test_a_white_picture_is_a_picture(by_hand):
    taken = taken_out(by_hand, b"\xff" * 300, px_w=10, px_h=10, ColorSpace=Name.DeviceRGB)
    assert (taken == 255).all()
