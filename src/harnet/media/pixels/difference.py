"""How far two pictures differ: structural similarity and the largest difference of a sample."""

from dataclasses import dataclass
from pathlib import Path

import numpy
import pyvips

from harnet.media.bounded import Order, Tell, work_apart
from harnet.media.errors import UnreadableFile
from harnet.media.limits import EXAMINE_MEMORY_BYTES

MOST_PX = 4_000_000
"""Beyond that both are shrunk first: the measure needs some sixty bytes a pixel."""
_SAME_PROPORTION = 0.02


@dataclass(frozen=True, slots=True)
class Difference:
    """SSIM (1 is the same) and the peak difference of 255, over `px_w × px_h` pixels."""

    ssim: float
    peak: int
    px_w: int
    px_h: int


def difference(one: Path, other: Path) -> Difference | None:
    """The difference of two exact previews; None where their proportions do not agree.

    Raises:
        UnreadableFile: one of them cannot be read.
    """
    answer = work_apart(
        "harnet.media.pixels.difference",
        {"one": str(one), "other": str(other)},
        name="The two pictures",
        seconds=60,
        memory_bytes=EXAMINE_MEMORY_BYTES,
    )
    return Difference(**answer) if answer else None


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    Raises:
        UnreadableFile: one of the two cannot be read.
    """
    # Imported here: it takes long, and only this process needs it.
    from skimage.metrics import structural_similarity  # noqa: PLC0415

    try:
        images = [pyvips.Image.new_from_file(order[side]) for side in ("one", "other")]
        proportions = [image.width / image.height for image in images]
        if abs(proportions[0] / proportions[1] - 1) > _SAME_PROPORTION:
            return {}
        small = min(images, key=lambda image: image.width)
        shrink = min(1.0, (MOST_PX / (small.width * small.height)) ** 0.5)
        width = max(8, round(small.width * shrink))
        height = max(8, round(small.height * shrink))
        pixels = [
            image.thumbnail_image(width, height=height, size="force").numpy() for image in images
        ]
    except pyvips.Error:
        raise UnreadableFile("The two pictures", "one of them cannot be read") from None
    edge = min(7, width, height)
    ssim = structural_similarity(  # type: ignore[no-untyped-call]
        *pixels, channel_axis=2, data_range=255, win_size=edge - 1 + edge % 2
    )
    peak = int(numpy.abs(pixels[0].astype("int16") - pixels[1]).max())
    return {"ssim": float(ssim), "peak": peak, "px_w": width, "px_h": height}
