"""New bytes for a picture file of a document: denser, smaller, or without what is cut off."""

import io
import struct
from dataclasses import dataclass
from functools import partial
from math import ceil, floor
from pathlib import Path
from tempfile import NamedTemporaryFile
from typing import Any

import pyvips
from PIL import Image

from harnet.core.documents.comparison import Tone, tone_from_values
from harnet.core.documents.images import Crop
from harnet.core.documents.improving import Fate
from harnet.core.measure.geometry import Matrix
from harnet.core.measure.units import CSS_PX_PER_INCH, MM_PER_INCH
from harnet.media.packages.archive import MOST_MEDIA_BYTES
from harnet.media.packages.making.held import HeldDocument, HeldPart
from harnet.media.packages.media import media_of
from harnet.media.pixels.colour import generic_cmyk
from harnet.media.pixels.conversion import PERCEPTUAL, RELATIVE, exported, upon_srgb
from harnet.media.pixels.registration.comparing import as_it_is
from harnet.media.pixels.registration.part import part_of_original
from harnet.media.pixels.registration.seen import InOwnColours, in_colours
from harnet.media.pixels.registration.tone import toned_picture

_WRITTEN = frozenset({"jpeg", "png", "tiff", "webp"})
_MIDDLE = 127


class NotReplaced(Exception):
    """A picture file stays as it is; the words say why."""


def why_not(document: HeldDocument, held: HeldPart) -> str:
    """Why a picture file cannot be replaced without changing what is seen; empty where it can."""
    first = held.uses[0]
    if first.filters not in _WRITTEN:
        return f"it is a {first.filters.upper()} file, which is not replaced"
    file = media_of(document.store.read(held.part, MOST_MEDIA_BYTES), held.part)
    if file.facts is not None and file.facts.orientation > 1:
        return "it is turned by its orientation tag"
    if any(one.is_assumed for one in held.uses):
        return "its size comes from its pixels, and other pixels would change it"
    if any(one.source == "bullet" for one in held.uses):
        return "it is a bullet"
    return ""


@dataclass(frozen=True, slots=True)
class NewFile:
    """New bytes of a picture file: its pixels, how they came about, what is still cut off."""

    data: bytes
    px_w: int
    px_h: int
    how: str
    crop: Crop | None = None
    """What is cut off of the new file, where that changed."""


def new_file(
    document: HeldDocument,
    held: HeldPart,
    item: dict[str, Any],
    folder: Path,
    quality: int,
    *,
    cuts: bool,
) -> NewFile:
    """The new bytes that an item of an order asks for.

    Raises:
        NotReplaced: it stays as it is.
        pyvips.Error: it, or its original, cannot be decoded.
    """
    reason = why_not(document, held)
    if reason:
        raise NotReplaced(reason)
    data = document.store.read(held.part, MOST_MEDIA_BYTES)
    old = pyvips.Image.new_from_buffer(data, "", access="random").copy_memory()
    size = item["px_w"], item["px_h"]
    fate = Fate(item["fate"])
    if fate is Fate.REPLACED:
        original = part_of_original(
            Path(item["original"]), Matrix(*item["to_original"]), (old.width, old.height), size
        )
        tone = tone_from_values(item.get("tone"))
        how = "denser original" if tone is None else "denser original, in the picture's tone"
        image = _coloured(_in_tone(original, tone), old, folder, item)
    elif fate is Fate.TRIMMED:
        image = old.resize(size[0] / old.width, vscale=size[1] / old.height, kernel="lanczos3")
        image, how = image.crop(0, 0, *size), "trimmed"
    else:
        image, how = old, ""
    crop = None
    if cuts and held.crop is not None:
        image, crop = _cut(image, held.crop)
        how = f"{how}, cropped-off parts cut away" if how else "cropped-off parts cut away"
    if fate is Fate.LEFT and crop is None:
        raise NotReplaced("nothing of it is cut off everywhere alike")
    image = _tagged(image, old, size)
    made = _encoded(image, held.uses[0].filters, quality)
    if fate is Fate.TRIMMED and len(made) >= len(data):
        raise NotReplaced("trimming it would not save bytes")
    return NewFile(made, image.width, image.height, how, crop)


def _in_tone(part: pyvips.Image, tone: Tone | None) -> pyvips.Image:
    if tone is None:
        return part
    return toned_picture(upon_srgb(part, 16 if part.format == "ushort" else 8), tone)


def _coloured(
    part: pyvips.Image, old: pyvips.Image, folder: Path, item: dict[str, Any]
) -> pyvips.Image:
    """The part in the colours of the picture that it replaces, with its transparency."""
    intent = item.get("intent", RELATIVE)
    depth = 16 if old.format == "ushort" and part.format == "ushort" else 8
    plain = old.extract_band(0, n=old.bands - 1) if old.hasalpha() else old
    if old.get_typeof("icc-profile-data") and plain.bands != 1:
        path = folder / "space.icc"
        path.write_bytes(old.get("icc-profile-data"))
        image = exported(part, str(path), depth, intent)
    elif old.interpretation == "cmyk":
        image = exported(part, str(generic_cmyk()), depth, intent)
    else:
        image = upon_srgb(part, depth)
        if plain.bands == 1:
            image = image.colourspace("grey16" if depth == 16 else "b-w")[0]
            if is_bilevel(old):
                image = (image > (item.get("threshold") or _MIDDLE)).copy(interpretation="b-w")
    if old.hasalpha():
        alpha = old[old.bands - 1]
        alpha = alpha.resize(
            image.width / alpha.width, vscale=image.height / alpha.height, kernel="linear"
        ).crop(0, 0, image.width, image.height)
        if depth == 8 and alpha.format == "ushort":
            alpha = (alpha >> 8).cast("uchar")
        image = image.bandjoin(alpha.cast(image.format))
    return image


def in_colours_of(old: pyvips.Image) -> dict[str, InOwnColours]:
    """By intent, what is seen of colours once they are in those of a picture without alpha."""
    intents = (RELATIVE, PERCEPTUAL) if old.interpretation == "cmyk" else (RELATIVE,)
    if old.get_typeof("icc-profile-data") and old.bands != 1:
        profile = old.get("icc-profile-data")

        def with_profile(image: pyvips.Image, intent: str) -> pyvips.Image:
            with NamedTemporaryFile(suffix=".icc") as file:
                Path(file.name).write_bytes(profile)
                return exported(image, file.name, 8, intent).copy_memory()

        return {one: in_colours(partial(with_profile, intent=one)) for one in intents}
    if old.interpretation == "cmyk":
        return {
            one: in_colours(partial(exported, output=generic_cmyk(), depth=8, intent=one))
            for one in intents
        }
    if old.bands == 1:
        return {RELATIVE: in_colours(lambda image: image.colourspace("b-w"))}
    return {RELATIVE: as_it_is}


def is_bilevel(old: pyvips.Image) -> bool:
    """Whether a picture file has pixels of 1 bit."""
    has_bits = old.get_typeof("bits-per-sample") != 0
    return bool(old.bands == 1 and has_bits and old.get("bits-per-sample") == 1)


def _cut(image: pyvips.Image, crop: Crop) -> tuple[pyvips.Image, Crop]:
    """The part that is seen, on whole pixels; what of a pixel is beyond stays cropped off."""
    left, top = crop[0] * image.width, crop[1] * image.height
    right, bottom = (1 - crop[2]) * image.width, (1 - crop[3]) * image.height
    x1, y1 = floor(left + 1e-6), floor(top + 1e-6)
    x2, y2 = min(image.width, ceil(right - 1e-6)), min(image.height, ceil(bottom - 1e-6))
    width, height = max(1, x2 - x1), max(1, y2 - y1)
    rest = (
        max(0.0, (left - x1) / width),
        max(0.0, (top - y1) / height),
        max(0.0, (x2 - right) / width),
        max(0.0, (y2 - bottom) / height),
    )
    return image.crop(x1, y1, width, height), rest


def _tagged(image: pyvips.Image, old: pyvips.Image, size: tuple[int, int]) -> pyvips.Image:
    """The picture with a density tag that keeps its native size, by which some are placed."""
    per_mm = old.xres if old.get_typeof("resolution-unit") else CSS_PX_PER_INCH / MM_PER_INCH
    down_mm = old.yres if old.get_typeof("resolution-unit") else per_mm
    return image.copy(xres=per_mm * size[0] / old.width, yres=down_mm * size[1] / old.height)


def _encoded(image: pyvips.Image, form: str, quality: int) -> bytes:
    """The bytes of a picture in the format of the file that it replaces."""
    if form == "jpeg":
        if image.format == "ushort":
            image = image.cast("uchar", shift=True)
        made = image.jpegsave_buffer(
            Q=quality, subsample_mode="off", keep="icc", optimize_coding=True
        )
        return _with_density(bytes(made), image.xres * MM_PER_INCH, image.yres * MM_PER_INCH)
    if form == "png":
        bits = {"bitdepth": 1} if image.bands == 1 and image.max() <= 1 else {}
        return bytes(image.pngsave_buffer(compression=6, keep="icc", **bits))
    if form == "tiff":
        return bytes(image.tiffsave_buffer(compression="deflate", resunit="inch", keep="icc"))
    return bytes(image.webpsave_buffer(Q=quality, keep="icc"))


def _with_density(jpeg: bytes, across_ppi: float, down_ppi: float) -> bytes:
    """A JPEG with a JFIF segment that states its density (ISO/IEC 10918-5); libvips writes none."""
    across, down = (min(65_535, max(1, round(one))) for one in (across_ppi, down_ppi))
    head = struct.pack(">HH5sHBHHBB", 0xFFE0, 16, b"JFIF\0", 0x0102, 1, across, down, 0, 0)
    return jpeg[:2] + head + jpeg[2:]


def sizes_in(data: bytes) -> tuple[int, int]:
    """Width and height of a picture file as Pillow reads them.

    Raises:
        OSError: it cannot read the file.
    """
    with Image.open(io.BytesIO(data)) as image:
        image.load()
        return image.size
