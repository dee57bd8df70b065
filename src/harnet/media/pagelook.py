"""A page of an output as a picture to look at: its trim, of a bounded size."""

from pathlib import Path

import pypdfium2
import pyvips

from harnet.media.bounded import Order, Tell
from harnet.media.errors import UnreadableFile


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`."""
    path, look, edge_px = Path(order["path"]), Path(order["look"]), int(order["edge_px"])
    try:
        if order["is_pdf"]:
            _draw(path, int(order["page"]) - 1, edge_px, look)
        else:
            image = pyvips.Image.thumbnail(str(path), edge_px, height=edge_px, size="down")
            image.colourspace("srgb").pngsave(str(look), compression=3, keep="none")
    except (pypdfium2.PdfiumError, pyvips.Error, IndexError):
        raise UnreadableFile(order["name"], "its page cannot be drawn") from None
    return {}


def _draw(path: Path, index: int, edge_px: int, look: Path) -> None:
    with pypdfium2.PdfDocument(path) as pdf:
        page = pdf[index]
        left, bottom, right, top = page.get_trimbox()
        media = page.get_mediabox()
        scale = edge_px / max(right - left, top - bottom)
        margins = (left - media[0], bottom - media[1], media[2] - right, media[3] - top)
        drawn = page.render(scale=scale, crop=margins)
        drawn.to_pil().convert("RGB").save(look, "PNG", compress_level=3)
