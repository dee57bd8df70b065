"""Pictures of pictures for the screen: upright, sRGB, 8 bit, at their true proportion."""

from pathlib import Path

import numpy
import pypdfium2
import pyvips

from harnet.core.picture import Facts
from harnet.media.decode import opened_image
from harnet.media.errors import UnreadableFile

LIGHT_PX, THUMB_PX = 1400, 320
"""Longest edges of the page proxy and of the thumbnail."""
SIZES = {"light": LIGHT_PX, "thumb": THUMB_PX}
_JPEG_QUALITY = 84


def preview_name(sha256: str, size: str) -> str:
    """The name a preview is kept under."""
    return f"{sha256}-{SIZES[size]}"


def write_previews(path: Path, facts: Facts, name: str, folder: Path) -> dict[str, Path]:
    """Decodes the picture once and writes a preview of each size into `folder`.

    Raises:
        UnreadableFile: the pixels cannot be decoded, or break off.
    """
    try:
        light = _decoded(path, facts)
        light = light.copy_memory()
        return {
            size: _written(light, edge, folder / f"{size}-{edge}") for size, edge in SIZES.items()
        }
    except (pyvips.Error, OSError) as error:
        if "premature" in str(error).lower() or "truncated" in str(error).lower():
            trouble = "the file breaks off before its end"
        else:
            trouble = f"its pixels cannot be decoded as {facts.format.upper()}"
        raise UnreadableFile(name, trouble, "Fetch or export it again") from None


def _decoded(path: Path, facts: Facts) -> pyvips.Image:
    if facts.format == "pdf":
        with pypdfium2.PdfDocument(path) as pdf:
            page = pdf[0]
            pixels = page.render(scale=LIGHT_PX / max(page.get_size()), rev_byteorder=True)
            rows = numpy.ascontiguousarray(pixels.to_numpy()[:, :, :3])
            return pyvips.Image.new_from_array(rows, interpretation="srgb")
    if facts.format == "bmp":
        return opened_image(path, facts).thumbnail_image(LIGHT_PX, height=LIGHT_PX, size="down")
    size = "both" if facts.is_vector else "down"
    return pyvips.Image.thumbnail(
        str(path),
        LIGHT_PX,
        height=LIGHT_PX,
        size=size,
        output_profile="srgb",
        fail_on="truncated",
    )


def _written(image: pyvips.Image, edge: int, path: Path) -> Path:
    scale = edge / max(image.width, image.height)
    small = image.resize(scale) if scale < 1 else image
    if small.hasalpha():
        small.write_to_file(f"{path}.png", compression=6, keep="none")
        return path.with_name(path.name + ".png")
    small.write_to_file(f"{path}.jpg", Q=_JPEG_QUALITY, keep="none")
    return path.with_name(path.name + ".jpg")
