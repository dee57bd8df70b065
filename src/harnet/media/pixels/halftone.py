"""A sample of paper under the loupe: pictures as a press prints them, in dots of its inks."""

import functools
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy
import pyvips
from PIL import Image, ImageDraw

from harnet.core.measure.geometry import Matrix
from harnet.core.measure.units import POINTS_PER_INCH
from harnet.core.pictures.halftone import Press, gained
from harnet.media.pixels.colour import SRGB, generic_cmyk, inked

Array = numpy.ndarray[Any, Any]
_LEAST_PX_PER_CELL, _MOST_OVERSAMPLING = 5.0, 4
"""Dots of fewer pixels are not drawn one by one: what an eye sees of them is their mean."""
_TILE_BITS = 7
_TILE = 1 << _TILE_BITS
_FULL = 255
_TABLE_STEPS = 33
_PER_FWHM = 2.3548
"""The width of a bell curve at half its height, in standard deviations: 2·√(2·ln 2)."""


@dataclass(frozen=True, slots=True)
class Lens:
    """A square of paper as it is shown: its edge in pixels, pixels per inch of paper, blur.

    `blur_in` is the width of one point as it is seen, in inches of paper; 0 is sharp. `x_in` and
    `y_in` say where on the paper its middle lies, so that the screens stand still under it.
    """

    edge_px: int
    px_per_inch: float
    blur_in: float = 0.0
    x_in: float = 0.0
    y_in: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class PrintedPicture:
    """A picture near the sample: its exact preview and where it lies.

    `matrix` maps its unit square to points from the sample's middle; `outline` holds the corners
    of what is seen of it, in the same points, empty for all. `most_ppi` is the density it is
    downsampled to, None for none. One in `black_only` prints in black ink alone.
    """

    path: Path
    matrix: Matrix
    outline: Sequence[tuple[float, float]] = ()
    most_ppi: tuple[float, float] | None = None
    black_only: bool = False


def printed_sample(
    pictures: Sequence[PrintedPicture], lens: Lens, press: Press, profile: Path | None = None
) -> bytes:
    """The sample as JPEG in sRGB, pictures lowest first; `profile` is the CMYK profile.

    With a line screen, tones are converted to inks by the profile, grow by the dot gain, and
    become dots by threshold screens at the press's angles; where dots would be finer than the
    drawing's pixels, their mean is drawn (Demichel's weights of the sixteen overprints). Without
    one, the pictures' own pixels are drawn.
    """
    factor = _oversampling(lens, press)
    step = factor or 1
    edge = lens.edge_px * step
    if press.has_screen:
        inks = _painted(pictures, lens, edge, 4, profile)
        grown = _growth(press.dot_gain)[inks]
        seen = _dots(grown, lens, press, profile) if factor else _mean(grown, profile)
    else:
        seen = _linear_table()[_painted(pictures, lens, edge, 3, None)]
    # Slices, added up: far faster than a mean over two axes.
    parts = [seen[row::step, column::step] for row in range(step) for column in range(step)]
    return _encoded(
        functools.reduce(numpy.add, parts) / len(parts), lens.blur_in * lens.px_per_inch / _PER_FWHM
    )


def _oversampling(lens: Lens, press: Press) -> int:
    """How many times finer than the drawing dots are computed; 0 where only their mean is."""
    if not press.has_screen or lens.blur_in > 0:
        return 0
    cell_px = lens.px_per_inch / press.lpi
    wanted = max(2, -int(-_LEAST_PX_PER_CELL // cell_px))
    return wanted if wanted <= _MOST_OVERSAMPLING else 0


def _painted(
    pictures: Sequence[PrintedPicture], lens: Lens, edge: int, bands: int, profile: Path | None
) -> Array:
    """The sample's pixels: amounts of ink, or of light where three bands are wanted."""
    paper = 0 if bands == 4 else _FULL
    found = numpy.full((edge, edge, bands), paper, numpy.uint8)
    per_px = POINTS_PER_INCH * lens.edge_px / lens.px_per_inch / edge
    along = (numpy.arange(edge, dtype=numpy.float32) + 0.5 - edge / 2) * per_px
    for picture in pictures:
        image = _image(picture, per_px)
        back = picture.matrix.inverse
        columns = back.a * along[None, :] + back.c * along[:, None] + back.e
        rows = back.b * along[None, :] + back.d * along[:, None] + back.f
        inside = (columns >= 0) & (columns < 1) & (rows >= 0) & (rows < 1)
        if picture.outline:
            inside &= _mask(picture.outline, per_px, edge)
        if not inside.any():
            continue
        across = (columns[inside] * image.width).astype(numpy.int32)
        down = (rows[inside] * image.height).astype(numpy.int32)
        left, top = int(across.min()), int(down.min())
        part = image.crop(left, top, int(across.max()) - left + 1, int(down.max()) - top + 1)
        pixels = _inks(part, picture.black_only, profile) if bands == 4 else part.numpy()
        found[inside] = pixels[down - top, across - left]
    return found


def _image(picture: PrintedPicture, per_px: float) -> pyvips.Image:
    """The picture at the pixels that are printed, or at the fewer that the drawing can show."""
    level, page = pyvips.Image.new_from_file(str(picture.path)), 0
    pages = level.get("n-pages") if level.get_typeof("n-pages") else 1
    across, down = picture.matrix.u_length, picture.matrix.v_length
    wanted = [float(level.width), float(level.height)]
    if picture.most_ppi is not None:
        for axis, length in enumerate((across, down)):
            printed = max(1.0, picture.most_ppi[axis] * length / POINTS_PER_INCH)
            wanted[axis] = min(wanted[axis], printed)
    shown = (across / per_px, down / per_px)
    while page + 1 < pages:
        smaller = pyvips.Image.new_from_file(str(picture.path), page=page + 1)
        if smaller.width < min(wanted[0], shown[0]) or smaller.height < min(wanted[1], shown[1]):
            break
        level, page = smaller, page + 1
    # Denser than the drawing it would be picked from here and there: means are drawn instead.
    px_w, px_h = (max(1, round(min(wanted[axis], shown[axis]))) for axis in (0, 1))
    if px_w >= level.width and px_h >= level.height:
        return level
    return level.resize(min(1.0, px_w / level.width), vscale=min(1.0, px_h / level.height))


def _mask(outline: Sequence[tuple[float, float]], per_px: float, edge: int) -> Array:
    image = Image.new("1", (edge, edge))
    points = [(x / per_px + edge / 2, y / per_px + edge / 2) for x, y in outline]
    ImageDraw.Draw(image).polygon(points, fill=1)
    return numpy.asarray(image)


def _inks(part: pyvips.Image, black_only: bool, profile: Path | None) -> Array:
    """Pixels in sRGB as amounts of the four inks, 0 to 255."""
    if black_only:
        black = _FULL - part.colourspace("b-w").numpy()
        inks = numpy.zeros((part.height, part.width, 4), numpy.uint8)
        inks[..., 3] = black.reshape(part.height, part.width)
        return inks
    return sample_inks(part, profile)


def sample_inks(part: pyvips.Image, profile: Path | None) -> Array:
    """Pixels in sRGB as the four inks of a profile, 0 to 255, to within a few."""
    return _looked_up(part.numpy(), _ink_table(profile))


@functools.lru_cache(maxsize=8)
def _ink_table(profile: Path | None) -> Array:
    """The inks of evenly spaced colours in sRGB, by red, green and blue.

    A table serves every sample: setting the conversion up takes longer than a sample may.
    """
    steps = numpy.linspace(0, _FULL, _TABLE_STEPS).round().astype(numpy.uint8)
    colours = numpy.stack(numpy.meshgrid(steps, steps, steps, indexing="ij"), axis=-1)
    rows = colours.reshape(_TABLE_STEPS, -1, 3)
    image = pyvips.Image.new_from_array(numpy.ascontiguousarray(rows), interpretation="srgb")
    inks = inked(image, profile_path(profile)).numpy()
    return numpy.asarray(inks, numpy.float32).reshape(*(_TABLE_STEPS,) * 3, 4)


def _looked_up(pixels: Array, table: Array) -> Array:
    """Pixels in sRGB as inks, straight between the table's eight nearest colours."""
    place = pixels[..., :3].astype(numpy.float32) * ((_TABLE_STEPS - 1) / _FULL)
    low = numpy.minimum(place.astype(numpy.intp), _TABLE_STEPS - 2)
    more = (place - low)[..., None]
    red, green, blue = low[..., 0], low[..., 1], low[..., 2]
    found = numpy.zeros((*pixels.shape[:2], 4), numpy.float32)
    for corner in range(8):
        r, g, b = corner & 1, corner >> 1 & 1, corner >> 2
        share = numpy.ones_like(more[..., 0, :])
        for axis, is_high in enumerate((r, g, b)):
            share = share * (more[..., axis, :] if is_high else 1 - more[..., axis, :])
        found += share * table[red + r, green + g, blue + b]
    return numpy.rint(found).astype(numpy.uint8)


def profile_path(profile: Path | None) -> Path | str:
    """The CMYK profile as libvips takes it: the one supplied, or the generic one."""
    return profile or generic_cmyk()


@functools.lru_cache(maxsize=64)
def _growth(dot_gain: float) -> Array:
    """What each amount of ink prints as, by formula 16."""
    grown = [gained(tone / _FULL, dot_gain) * _FULL for tone in range(_FULL + 1)]
    return numpy.rint(grown).astype(numpy.uint8)


@functools.lru_cache(maxsize=1)
def _linear_table() -> Array:
    """Light of each sRGB value, 0 to 1 (IEC 61966-2-1, from memory)."""
    value = numpy.arange(_FULL + 1) / _FULL
    light = numpy.where(value <= 0.04045, value / 12.92, ((value + 0.055) / 1.055) ** 2.4)
    return numpy.asarray(light, numpy.float32)


@functools.lru_cache(maxsize=1)
def _display_table() -> Array:
    """The sRGB value of each of 4 096 steps of light."""
    light = numpy.arange(4096) / 4095
    value = numpy.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)
    steps: Array = numpy.rint(value * _FULL).astype(numpy.uint8)
    return steps


@functools.lru_cache(maxsize=8)
def _overprints(profile: Path | None) -> Array:
    """The light of the sixteen overprints of full inks; cyan is bit 0, black bit 3."""
    inks = [[_FULL * (code >> ink & 1) for ink in range(4)] for code in range(16)]
    row = pyvips.Image.new_from_array(numpy.array([inks], numpy.uint8), interpretation="cmyk")
    seen = row.icc_transform(
        SRGB,
        embedded=False,
        input_profile=str(profile_path(profile)),
        intent="relative",
        black_point_compensation=True,
    )
    return numpy.asarray(_linear_table()[seen.numpy()[0]])


@functools.lru_cache(maxsize=1)
def _threshold_tile() -> Array:
    """A cell of the screen: for each place the tone from which on it is inked.

    Round dots, by the sum of two cosines. Places are ranked, so that every tone covers its own
    share of the cell.
    """
    angle = (numpy.arange(_TILE) + 0.5) / _TILE * 2 * numpy.pi
    height = numpy.cos(angle)[:, None] + numpy.cos(angle)[None, :]
    order = numpy.argsort(-height, axis=None, kind="stable")
    ranks = numpy.empty(_TILE * _TILE, numpy.int64)
    ranks[order] = numpy.arange(_TILE * _TILE)
    return (1 + ranks * _FULL // (_TILE * _TILE)).astype(numpy.uint8)


def _dots(inks: Array, lens: Lens, press: Press, profile: Path | None) -> Array:
    """Light of paper on which each ink prints dots."""
    edge = inks.shape[0]
    code = numpy.zeros((edge, edge), numpy.uint8)
    per_px = lens.edge_px / lens.px_per_inch / edge
    tile = _threshold_tile()
    for ink, angle_deg in enumerate(press.angles.each):
        tones = inks[..., ink]
        if not tones.any():
            continue
        across, down = _cell_places(lens, press.lpi, angle_deg, per_px, edge)
        code |= (tones >= tile[across << _TILE_BITS | down]).astype(numpy.uint8) << ink
    return numpy.asarray(_overprints(profile)[code])


def _cell_places(
    lens: Lens, lpi: float, angle_deg: float, per_px: float, edge: int
) -> tuple[Array, Array]:
    """Where in its cell each pixel lies, in steps of the tile, along both axes of the screen.

    Whole numbers that wrap around do the division by the cell.
    """
    angle = numpy.radians(angle_deg)
    along = (numpy.arange(edge) + 0.5 - edge / 2) * per_px
    right, lower = lens.x_in + along, lens.y_in + along
    turns = 2.0**32 * lpi

    def wrapped(steps: Array) -> Array:
        return numpy.mod(numpy.rint(steps * turns), 2.0**32).astype(numpy.uint32)

    # On paper y points down, so that a turn counter-clockwise has its sine the other way round.
    across = wrapped(right * numpy.cos(angle))[None, :] - wrapped(lower * numpy.sin(angle))[:, None]
    down = wrapped(right * numpy.sin(angle))[None, :] + wrapped(lower * numpy.cos(angle))[:, None]
    shift = 32 - _TILE_BITS
    return across >> shift, down >> shift


def _mean(inks: Array, profile: Path | None) -> Array:
    """Light of paper whose dots are too fine to see: the overprints, each by its share."""
    share = inks.astype(numpy.float32) / _FULL
    weights = numpy.ones((*inks.shape[:2], 1), numpy.float32)
    for ink in range(4):
        amount = share[..., ink, None]
        weights = numpy.concatenate([weights * (1 - amount), weights * amount], axis=2)
    return numpy.asarray(weights @ _overprints(profile))


def _encoded(light: Array, sigma_px: float) -> bytes:
    image = pyvips.Image.new_from_array(numpy.ascontiguousarray(light, numpy.float32))
    if sigma_px > 0:
        image = image.gaussblur(sigma_px, precision="float")
    steps = numpy.clip(image.numpy() * 4095 + 0.5, 0, 4095).astype(numpy.int32)
    shown = pyvips.Image.new_from_array(_display_table()[steps], interpretation="srgb")
    return bytes(shown.jpegsave_buffer(Q=90, subsample_mode="off", keep="none"))
