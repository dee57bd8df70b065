"""A page as a picture to look at, of a bounded size: within its trim, or whole as it is seen."""

from pathlib import Path

import pypdfium2
import pyvips

from harnet.media.bounded import Order, Tell
from harnet.media.errors import UnreadableFile


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    Raises:
        UnreadableFile: the page cannot be drawn.
    """
    path, look, edge_px = Path(order["path"]), Path(order["look"]), int(order["edge_px"])
    try:
        if order["is_pdf"]:
            _draw(path, int(order["page"]) - 1, edge_px, look, order.get("is_whole", False))
        else:
            image = pyvips.Image.thumbnail(str(path), edge_px, height=edge_px, size="down")
            image.colourspace("srgb").pngsave(str(look), compression=3, keep="none")
    except (pypdfium2.PdfiumError, pyvips.Error, IndexError):
        raise UnreadableFile(order["name"], "its page cannot be drawn") from None
    return {}


def _draw(path: Path, index: int, edge_px: int, look: Path, is_whole: bool) -> None:
    """Draws a page within its trim, or as whole as it is seen."""
    with pypdfium2.PdfDocument(path) as pdf:
        page = pdf[index]
        if is_whole:
            drawn = page.render(scale=edge_px / max(page.get_size()))
            drawn.to_pil().convert("RGB").save(look, "PNG", compress_level=3)
            return
        left, bottom, right, top = page.get_trimbox()
        media = page.get_mediabox()
        scale = edge_px / max(right - left, top - bottom)
        margins = (left - media[0], bottom - media[1], media[2] - right, media[3] - top)
        drawn = page.render(scale=scale, crop=margins)
        drawn.to_pil().convert("RGB").save(look, "PNG", compress_level=3)
