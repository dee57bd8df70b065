"""Exact previews: every pixel of a picture in sRGB, in tiles, so that any part is read at once."""

from dataclasses import dataclass
from pathlib import Path

import pyvips

from harnet.core.pictures.picture import Facts, facts_as_values, facts_from_values
from harnet.media.bounded import Order, Tell, work_apart
from harnet.media.errors import UnreadableFile
from harnet.media.limits import COPY_MEMORY_BYTES, COPY_SECONDS
from harnet.media.pixels.colour import source_profile
from harnet.media.pixels.decode import opened_image

TILE_PX = 256


@dataclass(frozen=True, slots=True)
class Level:
    """One size of an exact preview; level 0 has every pixel, each next one half as many across."""

    px_w: int
    px_h: int


def write_exact(path: Path, facts: Facts, name: str, target: Path) -> None:
    """Writes the tiled preview into `target`, a TIFF of Harnet's own, in a process of its own.

    Raises:
        UnreadableFile: the picture cannot be decoded.
    """
    order = {
        "path": str(path),
        "name": name,
        "facts": facts_as_values(facts),
        "target": str(target),
    }
    work_apart(
        "harnet.media.pixels.exact",
        order,
        name=name,
        seconds=COPY_SECONDS,
        memory_bytes=COPY_MEMORY_BYTES,
    )


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    Raises:
        UnreadableFile: its pixels cannot be decoded.
    """
    facts = facts_from_values(order["facts"])
    try:
        image = opened_image(Path(order["path"]), facts, facts.orientation > 1).autorot()
        if image.get_typeof("icc-profile-data") or image.interpretation == "cmyk":
            image = image.icc_transform(
                "srgb", embedded=True, input_profile=source_profile(facts), depth=8
            )
        image = image.colourspace("srgb")
        if image.hasalpha():
            image = image.flatten(background=255)
        image.cast("uchar").tiffsave(
            order["target"],
            compression="deflate",
            tile=True,
            tile_width=TILE_PX,
            tile_height=TILE_PX,
            pyramid=True,
            bigtiff=True,
            keep="none",
        )
    except (pyvips.Error, OSError):
        raise UnreadableFile(order["name"], "its pixels cannot be decoded") from None
    return {}


def levels_of(path: Path) -> list[Level]:
    """The sizes that an exact preview holds."""
    first = pyvips.Image.new_from_file(str(path))
    count = first.get("n-pages") if first.get_typeof("n-pages") else 1
    pages = [pyvips.Image.new_from_file(str(path), page=index) for index in range(count)]
    return [Level(page.width, page.height) for page in pages]


def exact_tile(path: Path, level: int, column: int, row: int) -> bytes:
    """A tile as PNG; those at the right and bottom edges are smaller.

    Raises:
        IndexError: there is no such tile.
    """
    try:
        image = pyvips.Image.new_from_file(str(path), page=level)
    except pyvips.Error:
        raise IndexError(f"no level {level}") from None
    left, top = column * TILE_PX, row * TILE_PX
    if not (0 <= left < image.width and 0 <= top < image.height):
        raise IndexError(f"no tile {column}, {row}")
    tile = image.crop(left, top, min(TILE_PX, image.width - left), min(TILE_PX, image.height - top))
    return bytes(tile.pngsave_buffer(compression=2, keep="none"))


def exact_square(path: Path, at: tuple[float, float], edge_px: int) -> bytes:
    """A square of real pixels as PNG, around a place given as shares of width and height.

    It lies inside the picture, and is smaller where the picture is.
    """
    image = pyvips.Image.new_from_file(str(path))
    edge = min(edge_px, image.width, image.height)
    left, top = (
        max(0, min(round(share * side - edge / 2), side - edge))
        for share, side in zip(at, (image.width, image.height), strict=True)
    )
    return bytes(image.crop(left, top, edge, edge).pngsave_buffer(compression=2, keep="none"))
