"""One image of a PDF by itself, as PNG with every pixel; done apart, see `harnet.media.bounded`."""

from pathlib import Path
from typing import Any

import pikepdf
from PIL import Image

from harnet.media.bounded import Order, Tell
from harnet.media.errors import UnreadableFile
from harnet.media.limits import MAX_PIXELS
from harnet.media.pdf.content import NONSENSE
from harnet.media.pdf.opening import opened_pdf

_GONE = "this picture cannot be taken out of the PDF"


def work(order: Order, tell: Tell) -> Order:
    """Writes the image with the object number `number` to `look`; its own colours become RGB.

    Raises:
        UnreadableFile: there is no such image, or its samples cannot be read.
    """
    with opened_pdf(Path(order["path"]), order["name"]) as pdf:
        try:
            image = _samples(pdf.get_object(int(order["number"]), 0))
        except (*NONSENSE, NotImplementedError, OSError, Image.DecompressionBombError):
            raise UnreadableFile(order["name"], _GONE) from None
        image.save(order["look"], "PNG", compress_level=3)
    return {}


def _samples(stream: pikepdf.Object) -> Image.Image:
    if not isinstance(stream, pikepdf.Stream):
        raise ValueError("no image")
    image: Any = pikepdf.PdfImage(stream)
    if image.width * image.height > MAX_PIXELS:
        raise ValueError("too many pixels")
    Image.MAX_IMAGE_PIXELS = MAX_PIXELS
    samples: Image.Image = image.as_pil_image()
    return samples if samples.mode in ("1", "L", "P", "RGB") else samples.convert("RGB")
