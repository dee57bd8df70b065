"""Pictures of pictures for the screen: upright, sRGB, 8-bit, at their true proportion."""

from pathlib import Path

import numpy
import pypdfium2
import pyvips

from harnet.core.pictures.detail import Detail
from harnet.core.pictures.picture import Colour, Facts
from harnet.media.errors import UnreadableFile
from harnet.media.pixels.decode import opened_image
from harnet.media.pixels.detail import detail_of

LIGHT_PX, THUMB_PX = 1400, 320
"""Longest edges of the page proxy and of the thumbnail."""
TINY_PX = 96
SIZES = {"light": LIGHT_PX, "thumb": THUMB_PX}
_JPEG_QUALITY = 84
_WITHOUT_TONES = (Colour.BILEVEL, Colour.PALETTE)
"""Steps between few levels look like detail everywhere."""
_INK_BELOW, _PAPER_ABOVE, _DRAWN_SHARE = 60, 195, 0.95


_PROFILE = "icc-profile-data"
_NEAR_SRGB = ("srgb", "b-w", "rgb16", "grey16")
SPOT = "spot"
SPOT_PX = 300
"""Edge of the square kept at full pixels: an inch of the picture as printed at 300 ppi."""


def preview_name(sha256: str, size: str) -> str:
    """The name that a preview, or the spot, is kept under."""
    return f"{sha256}-{SIZES.get(size, SPOT)}"


def write_previews(
    path: Path, facts: Facts, name: str, folder: Path
) -> tuple[dict[str, Path], Detail | None]:
    """Writes a preview of each size into `folder`; tells how much detail the pixels carry.

    Raises:
        UnreadableFile: the pixels cannot be decoded, or break off.
    """
    try:
        whole = None if facts.is_vector else _whole(path, facts)
        light = _drawn(path, facts) if whole is None else _shrunk(whole)
        light = light.copy_memory()
        made = {
            size: _written(light, edge, folder / f"{size}-{edge}") for size, edge in SIZES.items()
        }
        detail = None
        if whole is not None:
            made[SPOT] = folder / "spot.png"
            _spot(whole, facts, light).pngsave(str(made[SPOT]), keep="none")
            if facts.colour not in _WITHOUT_TONES:
                detail = detail_of(whole)
        return made, detail
    except (pyvips.Error, OSError) as error:
        if "premature" in str(error).lower() or "truncated" in str(error).lower():
            failure = "the file is incomplete"
        else:
            failure = f"its pixels cannot be decoded as {facts.format.upper()}"
        raise UnreadableFile(name, failure, "Download or export it again") from None


def looks_drawn(preview: Path) -> bool:
    """Whether a preview is nearly all ink and paper, as engravings, plans and logos are.

    Common practice, no source: with nineteen of twenty pixels near black or white, and both there,
    tones play no part.
    """
    grey = pyvips.Image.new_from_file(str(preview)).colourspace("b-w")[0].numpy()
    ink, paper = (grey < _INK_BELOW).mean(), (grey > _PAPER_ABOVE).mean()
    return bool(ink + paper > _DRAWN_SHARE and min(ink, paper) > 1 - _DRAWN_SHARE)


def _drawn(path: Path, facts: Facts) -> pyvips.Image:
    """A vector picture, drawn."""
    if facts.format == "pdf":
        with pypdfium2.PdfDocument(path) as pdf:
            page = pdf[0]
            pixels = page.render(scale=LIGHT_PX / max(page.get_size()), rev_byteorder=True)
            rows = numpy.ascontiguousarray(pixels.to_numpy()[:, :, :3])
            return pyvips.Image.new_from_array(rows, interpretation="srgb")
    return pyvips.Image.thumbnail(
        str(path), LIGHT_PX, height=LIGHT_PX, output_profile="srgb", fail_on="truncated"
    )


def _shrunk(whole: pyvips.Image) -> pyvips.Image:
    """The whole picture at the size of the page proxy, in sRGB.

    Its colours are converted once it is small. What shows through is weighed along, which libvips
    does in one step.
    """
    scale = LIGHT_PX / max(whole.width, whole.height)
    if scale < 1:
        whole = (
            whole.thumbnail_image(LIGHT_PX, height=LIGHT_PX, no_rotate=True)
            if whole.hasalpha()
            else whole.resize(scale)
        )
    return _in_srgb(whole.copy_memory())


def _in_srgb(image: pyvips.Image) -> pyvips.Image:
    """A small image in sRGB, 8-bit: by its profile, or by libvips' own where it has none."""
    has_profile = image.get_typeof(_PROFILE) != 0
    if not has_profile and image.interpretation in _NEAR_SRGB:
        return image.colourspace("srgb")
    edge = max(image.width, image.height)
    return image.thumbnail_image(edge, height=edge, output_profile="srgb", no_rotate=True)


def _whole(path: Path, facts: Facts) -> pyvips.Image:
    """The picture at all its pixels, upright; decoded once, and read in any order."""
    image = opened_image(path, facts, in_any_order=True).autorot()
    return image.colourspace("srgb") if facts.colour is Colour.LAB else image


def _spot(image: pyvips.Image, facts: Facts, light: pyvips.Image) -> pyvips.Image:
    """A square at full pixels from where the picture draws the eye."""
    assert facts.px_w is not None and facts.px_h is not None
    edge = min(SPOT_PX, facts.px_w, facts.px_h)
    small = round(light.width * edge / facts.px_w)
    small = max(1, min(small, light.width, light.height))
    _, found = light.smartcrop(
        small, small, interesting="attention", attention_x=True, attention_y=True
    )
    left = round(found["attention_x"] / light.width * image.width - edge / 2)
    top = round(found["attention_y"] / light.height * image.height - edge / 2)
    spot = image.crop(
        max(0, min(left, image.width - edge)), max(0, min(top, image.height - edge)), edge, edge
    )
    # An embedded profile is honoured as in the other previews; without one, libvips' own is.
    spot = _in_srgb(spot.copy_memory())
    return spot.flatten(background=255) if spot.hasalpha() else spot


def tiny(preview: bytes) -> bytes:
    """A preview shrunk for the strip of pages; PNG where something shows through, else JPEG."""
    image = pyvips.Image.thumbnail_buffer(preview, TINY_PX, size="down")
    if image.hasalpha():
        return bytes(image.pngsave_buffer(keep="none"))
    return bytes(image.jpegsave_buffer(Q=70, keep="none"))


def rung(spot: bytes, density_ppi: int, edge: int) -> bytes:
    """The spot as it would print at a density: that many squares across, as PNG.

    The spot is an inch at 300 ppi; `edge` is the size of the drawing in pixels.
    """
    image = pyvips.Image.new_from_buffer(spot, "")
    across = max(1, min(density_ppi, image.width))
    few = image.thumbnail_image(across, height=across, size="force")
    # Each printed pixel is drawn as a square: nearest neighbour only ever repeats it.
    kernel = "nearest" if across <= edge else "lanczos3"
    drawn = few.resize(edge / across, kernel=kernel)
    return bytes(drawn.crop(0, 0, min(edge, drawn.width), min(edge, drawn.height)).pngsave_buffer())


def _written(image: pyvips.Image, edge: int, path: Path) -> Path:
    scale = edge / max(image.width, image.height)
    small = image.resize(scale) if scale < 1 else image
    if small.hasalpha():
        small.write_to_file(f"{path}.png", compression=6, keep="none")
        return path.with_name(path.name + ".png")
    small.write_to_file(f"{path}.jpg", Q=_JPEG_QUALITY, keep="none")
    return path.with_name(path.name + ".jpg")
