"""One image of a PDF by itself, as PNG with every pixel; done apart, see `harnet.media.bounded`."""

import io
from pathlib import Path
from typing import Any

import pikepdf
import pypdfium2
from PIL import Image

from harnet.media.bounded import Order, Tell
from harnet.media.errors import UnreadableFile
from harnet.media.limits import MAX_PIXELS
from harnet.media.pdf.opening.opened import opened_pdf

_GONE = "this image cannot be extracted from the PDF"
_MOST_DRAWN_PX = 200_000_000
"""Four bytes each, within the bound on memory."""
_WHITE, _BLACK = (255, 255, 255), (0, 0, 0)


def work(order: Order, tell: Tell) -> Order:
    """Writes the image with the object number `number` to `look`; its own colours become RGB.

    Raises:
        UnreadableFile: there is no such image, or its samples cannot be read.
    """
    with opened_pdf(Path(order["path"]), order["name"]) as pdf:
        # Whatever its dictionary and its samples hold: one picture cannot be shown, and that is it.
        try:
            stream = pdf.get_object(int(order["number"]), 0)
            width, height = _size(stream)
            try:
                image = _drawn(stream, width, height)
            except Exception:
                image = _samples(stream)
            image.save(order["look"], "PNG", compress_level=3)
        except Exception:
            raise UnreadableFile(order["name"], _GONE) from None
    return {}


def _size(stream: pikepdf.Object) -> tuple[int, int]:
    if not isinstance(stream, pikepdf.Stream) or stream.get("/Subtype") != "/Image":
        raise ValueError("no image")
    width, height = int(stream.Width), int(stream.Height)
    if not 0 < width * height <= MAX_PIXELS:
        raise ValueError(f"{width} × {height} pixels")
    return width, height


def _drawn(stream: pikepdf.Object, width: int, height: int) -> Image.Image:
    """The image drawn pixel for point, as a page shows it: with its colours and its mask.

    Raises:
        ValueError: it is too large, or cannot be shown as it is.
    """
    if width * height > _MOST_DRAWN_PX:
        raise ValueError(f"{width} × {height} pixels")
    alone = pikepdf.new()
    page = alone.make_indirect(
        pikepdf.Dictionary(
            Type=pikepdf.Name.Page,
            MediaBox=pikepdf.Array([0, 0, width, height]),
            Resources=pikepdf.Dictionary(
                XObject=pikepdf.Dictionary(X=alone.copy_foreign(stream)),
            ),
            Contents=alone.make_stream(f"{width} 0 0 {height} 0 0 cm /X Do".encode()),
        )
    )
    alone.pages.append(pikepdf.Page(page))
    out = io.BytesIO()
    alone.save(out)
    shown = pypdfium2.PdfDocument(out.getvalue())[0]
    drawn = _on(shown, _WHITE)
    if drawn.size != (width, height):
        raise ValueError(f"drawn as {drawn.size}")
    # Samples that it cannot read are left out without a word: then the paper shows through.
    if _is_all(drawn, _WHITE) and _is_all(_on(shown, _BLACK), _BLACK):
        raise ValueError("nothing is drawn")
    return drawn


def _on(page: pypdfium2.PdfPage, paper: tuple[int, int, int]) -> Image.Image:
    drawn: Image.Image = page.render(scale=1, fill_color=(*paper, 255)).to_pil()
    return drawn.convert("RGB")


def _is_all(image: Image.Image, colour: tuple[int, int, int]) -> bool:
    return image.getextrema() == tuple((value, value) for value in colour)


def _samples(stream: pikepdf.Object) -> Image.Image:
    """The samples as they are packed, where the image cannot be drawn or is too large to be.

    Raises:
        ValueError: it is too large, or cannot be shown as it is.
    """
    Image.MAX_IMAGE_PIXELS = MAX_PIXELS
    image: Any = pikepdf.PdfImage(stream)  # type: ignore[arg-type]
    samples: Image.Image = image.as_pil_image()
    if samples.mode == "CMYK":
        # Of a JPEG nobody knows here whether its inks are turned round.
        raise ValueError("inks")
    return samples if samples.mode in ("1", "L", "P", "RGB") else samples.convert("RGB")
