"""Print copies: the pixels of a recipe, as a stream from the original's file to the copy's."""

import subprocess
from pathlib import Path

import pyvips

from harnet.core.copies.recipe import (
    Compression,
    CopyFormat,
    Kernel,
    PadEdges,
    Recipe,
    bits_of_copy,
    recipe_from_values,
)
from harnet.core.measure.units import MM_PER_INCH
from harnet.core.pictures.picture import Colour, Facts, facts_from_values
from harnet.media.bounded import Order, Tell
from harnet.media.errors import UnreadableFile
from harnet.media.pixels.colour import converted, paint_for
from harnet.media.pixels.decode import opened_image

_INTERPOLATORS = {Kernel.LINEAR: "bilinear", Kernel.CUBIC: "bicubic", Kernel.NOHALO: "nohalo"}
_MIDDLE = 127
SPOT_PX = 184
"""Edge of the squares that show a sample of the original and of the copy, in pixels."""


def copy_image(
    path: Path, facts: Facts, recipe: Recipe, profile: Path | None, in_any_order: bool = False
) -> pyvips.Image:
    """The copy's pixels, not computed yet.

    Raises:
        pyvips.Error: the original cannot be decoded.
    """
    needs_any_order = facts.orientation > 1 or recipe.padding.edges is PadEdges.MIRROR
    image = _upright(path, facts, in_any_order or needs_any_order)
    crop = recipe.crop
    image = image.crop(crop.left, crop.top, crop.width, crop.height)
    if bits_of_copy(recipe, facts) == 1:
        return _padded(_thresholded(image, recipe), recipe)
    image = _resampled(image, recipe)
    image = converted(image, facts, recipe.colour, profile)
    image = _padded(image, recipe)
    if image.hasalpha() and recipe.flatten is not None:
        image = image.flatten(background=paint_for(image, recipe.flatten)[: image.bands - 1])
    return _with_depth(image, bits_of_copy(recipe, facts))


def _upright(path: Path, facts: Facts, in_any_order: bool) -> pyvips.Image:
    image = opened_image(path, facts, in_any_order).autorot()
    if facts.colour is Colour.LAB:
        # Packed Lab cannot be computed with.
        return image.colourspace("lab")
    if facts.colour is Colour.PALETTE and image.bands < 3:
        # A palette of greys is unpacked to grey; a copy counts as colour like its original.
        image = image.colourspace("srgb")
    return image


def _resampled(image: pyvips.Image, recipe: Recipe) -> pyvips.Image:
    """The picture with other pixels; colour is measured by alpha, so that edges stay clean."""
    width, height = recipe.px_w, recipe.px_h
    if (image.width, image.height) == (width, height):
        return image
    was = image.format
    has_alpha = image.hasalpha()
    if has_alpha:
        image = image.premultiply()
    kernel = recipe.used_kernel
    across, down = width / image.width, height / image.height
    if kernel is Kernel.NEAREST:
        image = image.resize(across, vscale=down, kernel="nearest")
    else:
        if across < 1 or down < 1:
            shrinking = kernel.value if kernel.value != "nohalo" else "lanczos3"
            # Without a gap every pixel is measured by the kernel; none is averaged in blocks first.
            image = image.resize(min(across, 1), vscale=min(down, 1), kernel=shrinking, gap=0)
        if across > 1 or down > 1:
            image = _enlarged(image, width, height, _INTERPOLATORS.get(kernel, "bicubic"))
    if has_alpha:
        image = image.unpremultiply()
    if was != "float" and image.format != was:
        image = image.rint().cast(was)
    return image


def _thresholded(image: pyvips.Image, recipe: Recipe) -> pyvips.Image:
    """1-bit art with other pixels, still ink or paper: averaged by area, then cut at the middle."""
    if image.bands > 1:
        image = image.colourspace("b-w")[0]
    across, down = image.width / recipe.px_w, image.height / recipe.px_h
    if recipe.kernel is not Kernel.AUTO:
        image = _resampled(image, recipe)
    else:
        if across > 1 or down > 1:
            image = image.shrink(max(across, 1), max(down, 1))
        if (image.width, image.height) != (recipe.px_w, recipe.px_h):
            image = _enlarged(image, recipe.px_w, recipe.px_h, "bicubic")
    return (image > _MIDDLE).copy(interpretation="b-w")


def _enlarged(image: pyvips.Image, width: int, height: int, interpolator: str) -> pyvips.Image:
    """Pixel centres lie on pixel centres: half a pixel in from the edges, on both sides."""
    across, down = width / image.width, height / image.height
    return image.affine(
        [across, 0, 0, down],
        interpolate=pyvips.Interpolate.new(interpolator),
        odx=(across - 1) / 2,
        ody=(down - 1) / 2,
        oarea=[0, 0, width, height],
        extend="copy",
    )


def _padded(image: pyvips.Image, recipe: Recipe) -> pyvips.Image:
    pad = recipe.padding
    if pad.is_none:
        return image
    width, height = recipe.file_px
    if pad.edges is PadEdges.MIRROR:
        return image.embed(pad.left, pad.top, width, height, extend="mirror")
    paint = paint_for(image, pad.colour)
    return image.embed(pad.left, pad.top, width, height, extend="background", background=paint)


def _with_depth(image: pyvips.Image, bits: int) -> pyvips.Image:
    if image.interpretation == "lab":
        return image.colourspace("labs" if bits == 16 else "labq")
    wanted = "ushort" if bits == 16 else "uchar"
    if image.format == wanted:
        return image
    kinds = {"srgb": "rgb16", "rgb": "rgb16", "b-w": "grey16"}
    kind = image.interpretation
    if bits == 16:
        deep = image.cast("ushort").linear(257, 0).cast("ushort")
        return deep.copy(interpretation=kinds.get(kind, kind))
    if image.format == "ushort":
        image = image.linear(1 / 257, 0).rint().cast("uchar")
    plain = {deep: shallow for shallow, deep in kinds.items() if shallow != "rgb"}
    return image.cast("uchar").copy(interpretation=plain.get(kind, kind))


def save_copy(image: pyvips.Image, recipe: Recipe, path: Path, is_bilevel: bool = False) -> None:
    """Writes the copy with its profile and density tag, and nothing else of the original.

    With `is_bilevel` its samples are stored as one bit each.

    Raises:
        pyvips.Error: it cannot be written.
    """
    tag = {"xres": recipe.density_x / MM_PER_INCH, "yres": recipe.density_y / MM_PER_INCH}
    image = image.copy(**tag)
    depth = {"bitdepth": 1} if is_bilevel else {}
    for field in image.get_fields():
        if field.startswith("exif-"):
            image.remove(field)
    image.set_type(pyvips.GValue.gstr_type, "resolution-unit", "in")
    if recipe.format is CopyFormat.TIFF:
        compression = {Compression.LZW: "lzw", Compression.DEFLATE: "deflate"}.get(
            recipe.compression, "none"
        )
        predictor = "none" if compression == "none" or is_bilevel else "horizontal"
        image.tiffsave(
            str(path),
            compression=compression,
            predictor=predictor,
            resunit="inch",
            keep="icc",
            **depth,
        )
        if recipe.is_big_endian:
            _turn_byte_order(path, compression, is_bilevel)
    elif recipe.format is CopyFormat.PNG:
        image.pngsave(str(path), compression=6, keep="icc", **depth)
    else:
        full = "off" if recipe.quality >= 90 else "on"
        # libvips states a JPEG's density in an Exif block of its own, so that has to be kept.
        image.jpegsave(str(path), Q=recipe.quality, subsample_mode=full, keep="exif|icc")


def _turn_byte_order(path: Path, compression: str, is_bilevel: bool) -> None:
    """Writes a TIFF again in big-endian order, which libvips does not offer but libtiff does.

    Raises:
        pyvips.Error: libtiff cannot turn the order.
    """
    turned = path.with_name(f"{path.name}.turned")
    code = {"none": "none", "lzw": "lzw:2", "deflate": "zip:2"}[compression]
    if is_bilevel:
        # Neighbouring samples are predicted in bytes, not in bits.
        code = code.partition(":")[0]
    run = subprocess.run(
        ["tiffcp", "-B", "-c", code, path, turned], capture_output=True, text=True, check=False
    )
    if run.returncode:
        turned.unlink(missing_ok=True)
        raise pyvips.Error("the byte order could not be turned", run.stderr)
    turned.replace(path)


def work(order: Order, tell: Tell) -> Order:
    """Makes a copy, or the two samples of it, in a process of its own; see `media.bounded`."""  # noqa: DOC501
    path, facts = Path(order["path"]), facts_from_values(order["facts"])
    recipe = recipe_from_values(order["recipe"])
    profile = Path(order["profile"]) if order["profile"] else None
    try:
        if "spot" in order:
            _write_spots(path, facts, recipe, profile, order)
            return {}
        image = copy_image(path, facts, recipe, profile)
        image.set_progress(True)
        image.signal_connect("eval", lambda _, progress: tell(progress.percent))
        save_copy(image, recipe, Path(order["target"]), bits_of_copy(recipe, facts) == 1)
    except pyvips.Error as error:
        raise _told(error, order["name"]) from None
    return {}


def _told(error: pyvips.Error, name: str) -> UnreadableFile:
    text = str(error)
    if any(sign in text for sign in ("No space left", "File too large", "write error")):
        return UnreadableFile(
            name, "the disk is too full for its copy", "Free some space and try again"
        )
    if "premature" in text.lower() or "truncated" in text.lower():
        return UnreadableFile(name, "the file is incomplete", "Download it again")
    return UnreadableFile(name, "its copy cannot be made from this file", "Save it again")


def _write_spots(
    path: Path, facts: Facts, recipe: Recipe, profile: Path | None, order: Order
) -> None:
    """A square of the copy at 100 %, and the square around the same place in the original."""
    across, down = order["spot"]
    copy = copy_image(path, facts, recipe, profile, in_any_order=True)
    original = _upright(path, facts, in_any_order=True)
    crop, pad = recipe.crop, recipe.padding
    copy_at = (pad.left + across * recipe.px_w, pad.top + down * recipe.px_h)
    original_at = (crop.left + across * crop.width, crop.top + down * crop.height)
    _square(copy, *copy_at).pngsave(order["copy_spot"], keep="none")
    _square(original, *original_at).pngsave(order["original_spot"], keep="none")


def _square(image: pyvips.Image, x: float, y: float) -> pyvips.Image:
    width, height = min(SPOT_PX, image.width), min(SPOT_PX, image.height)
    left = max(0, min(round(x - width / 2), image.width - width))
    top = max(0, min(round(y - height / 2), image.height - height))
    square = image.crop(left, top, width, height).copy_memory()
    shown = square.thumbnail_image(width, height=height, size="force", output_profile="srgb")
    return shown.flatten(background=255) if shown.hasalpha() else shown
