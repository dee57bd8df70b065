"""A part of a drawn page, cut out and made small."""

import pyvips


def page_spot(page: bytes, part: tuple[float, float, float, float], edge_px: int) -> bytes:
    """The part of a drawn page as JPEG, its longer edge at most `edge_px`.

    `part` is left, top, width and height in shares of the page.
    """
    image = pyvips.Image.new_from_buffer(page, "")
    left = min(int(part[0] * image.width), image.width - 1)
    top = min(int(part[1] * image.height), image.height - 1)
    width = max(1, min(round(part[2] * image.width), image.width - left))
    height = max(1, min(round(part[3] * image.height), image.height - top))
    spot = image.crop(left, top, width, height)
    scale = min(1.0, edge_px / max(width, height))
    return bytes(spot.resize(scale).jpegsave_buffer(Q=85, keep="none"))
