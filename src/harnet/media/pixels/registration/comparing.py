"""An image beside the part of an original that it shows, in colour and place by place.

Both are compared in CIELAB (D50) by the CIE76 difference, on the image's own pixels: the part is
reduced to them, as sharply as the image was, and goes through the same compression.
"""

import io
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import cv2
import numpy
from PIL import Image
from scipy import ndimage
from scipy.spatial import KDTree

from harnet.core.documents.comparison import (
    AREA_BOUND,
    CAST_BOUND,
    SPOT_BOUND,
    Comparison,
    Place,
    Tone,
)
from harnet.media.pixels.registration.tone import fitted_tones, toned

_LEVELS = numpy.arange(256) / 255
_LINEAR = numpy.where(
    _LEVELS <= 0.04045, _LEVELS / 12.92, ((_LEVELS + 0.055) / 1.055) ** 2.4
).astype(numpy.float32)
"""Linear light of sRGB's levels (IEC 61966-2-1, from memory)."""
_XYZ_D50 = numpy.array(
    [
        [0.4360747, 0.3850649, 0.1430804],
        [0.2225045, 0.7168786, 0.0606169],
        [0.0139322, 0.0971045, 0.7141733],
    ]
)
"""sRGB's primaries brought to D50 by Bradford's matrix (from memory; ICC.1's sRGB has the same)."""
_TO_WHITE = (_XYZ_D50 / _XYZ_D50.sum(axis=1, keepdims=True)).astype(numpy.float32)
_LINEAR_BELOW, _SLOPE, _OFFSET = (6 / 29) ** 3, 29**2 / (3 * 6**2), 4 / 29
_TO_LAB = numpy.array([[0, 116, 0], [500, -500, 0], [0, 200, -200]], numpy.float32)
_LAB_OFFSET = numpy.array([-16, 0, 0], numpy.float32)
Colour = numpy.ndarray
"""An image of shape (height, width, 3) in sRGB, 8 bits; grey ones have three equal channels."""
Lossy = Callable[[Colour], Colour]
"""What compression makes of an image; the very same array where nothing is lost."""
_SPOT_SHARE, _AREA_SHARE = 0.001, 0.01
_LEAST_SPOT_PX = 9
_STEPS = (2.0, 3.5, 6.0, 10.0, 18.0, 32.0)
"""The differences at which connected areas are looked for."""
_BLUR_PX = 0.7
_LEAST_SHARPNESS, _MOST_SHARPNESS = -1.0, 2.0
_SOFTENED_BELOW = -1.15
_OFF_PX = 0.22
"""What is left of a misplacement after registration."""
_RESAMPLING = 0.5
_MARGIN = 2
_MOST_PLACES = 12
_LOSSLESS_QUALITY = 97
_LUMA = numpy.array([0.299, 0.587, 0.114], numpy.float32)
_FINE_PX, _PLACE_PX = 2.0, 3.0
_LEAST_DETAIL = 0.6
"""Levels by which fine detail varies at least, where softness is to be told."""
_LEAST_ENERGY, _LITTLE_ENERGY, _KEPT_DETAIL = 6.0, 0.3, 0.55
_SHARPNESS_SAMPLES = 40_000


@dataclass(frozen=True, slots=True)
class _Explained:
    """A part as it would look had it been made like the image, and what explains differences.

    `allowed` is by how much each pixel may differ, in CIE76.
    """

    pixels: Colour
    lab: numpy.ndarray
    allowed: numpy.ndarray
    floor: float
    is_soft: bool
    explained: float


def lab_of(image: Colour) -> numpy.ndarray:
    """An image in CIELAB (D50), shape (height, width, 3): CIE 15:2004 on sRGB's XYZ, adapted."""
    shares = _LINEAR[image].reshape(-1, 3) @ _TO_WHITE.T
    curved = numpy.where(shares > _LINEAR_BELOW, numpy.cbrt(shares), shares * _SLOPE + _OFFSET)
    lab: numpy.ndarray = (curved @ _TO_LAB.T + _LAB_OFFSET).reshape(image.shape)
    return lab


def _apart(one: numpy.ndarray, other: numpy.ndarray) -> numpy.ndarray:
    """The CIE76 difference of each pixel: how far apart the two lie in CIELAB."""
    lengths: numpy.ndarray = numpy.linalg.norm(one - other, axis=-1)
    return lengths


def _compressed(image: Colour, quality: int) -> Colour:
    out = io.BytesIO()
    Image.fromarray(image).save(out, "JPEG", quality=quality)
    with Image.open(out) as again:
        return numpy.asarray(again.convert("RGB"))


def as_it_is(pixels: numpy.ndarray) -> numpy.ndarray:
    """What becomes of pixels where nothing is lost."""
    return pixels


def jpeg_of(quality: int | None) -> Lossy:
    """What a JPEG of that quality makes of an image; None for one without loss."""
    if quality is None or quality >= _LOSSLESS_QUALITY:
        return as_it_is
    return partial(_compressed, quality=quality)


def palette_of(colours: numpy.ndarray) -> Lossy:
    """What a palette makes of an image: each pixel the nearest of its colours, shape (n, 3)."""
    tree = KDTree(colours.astype(numpy.float32))

    def nearest(image: Colour) -> Colour:
        _, at = tree.query(image.reshape(-1, 3).astype(numpy.float32))
        found: Colour = colours[at].reshape(image.shape)
        return found

    return nearest


def compared(
    image: Colour,
    part: numpy.ndarray,
    lossy: Lossy = as_it_is,
    in_own_colours: Callable[[numpy.ndarray], numpy.ndarray] = as_it_is,
    *,
    fits_tones: bool = True,
) -> Comparison:
    """How an image looks beside a part of an original.

    Args:
        image: The image, as it is seen.
        part: The part on the same pixels, each the mean of those it takes the place of; floats.
        lossy: What the image's compression, or its palette, makes of an image.
        in_own_colours: What is seen of a part once it is brought into the image's colours.
        fits_tones: Whether tones that explain the difference are looked for.
    """
    lab = lab_of(image)
    plain = _explained(image, in_own_colours(part), lossy)
    untoned = float(_apart(lab, plain.lab).mean())
    best = _measured(image, lab, plain, untoned, None)
    if not fits_tones:
        return best
    if best.outcome.is_replaced_unasked and _cast(lab, plain.lab) <= CAST_BOUND:
        return best
    for tone in fitted_tones(part, image):
        again = _explained(image, in_own_colours(toned(part, tone)), lossy)
        found = _measured(image, lab, again, untoned, tone)
        if found.outcome.is_replaced_unasked:
            if best.outcome.is_replaced_unasked and found.difference > 0.9 * best.difference:
                return best
            return found
        if not best.outcome.is_replaced_unasked and _is_better(found, best):
            best = found
    return best


def _is_better(one: Comparison, other: Comparison) -> bool:
    """Of two that are not alike: whether fewer places differ, then less."""
    if abs(one.differing_share - other.differing_share) > 0.01:
        return one.differing_share < other.differing_share
    return one.outside < other.outside - 0.2


def _cast(one: numpy.ndarray, other: numpy.ndarray) -> float:
    """The mean difference of two images of very few pixels."""
    height, width = one.shape[:2]
    size = max(2, min(24, width // 6)), max(2, min(24, height // 6))
    small = [cv2.resize(image, size, interpolation=cv2.INTER_AREA) for image in (one, other)]
    return float(_apart(*small).mean())


def _explained(image: Colour, part: numpy.ndarray, lossy: Lossy) -> _Explained:
    """The part as sharp as the image and compressed like it, and what explains differences."""
    detail = part - cv2.GaussianBlur(part, (0, 0), _BLUR_PX)
    plain = _levels(part)
    expected = lossy(plain)
    sharpness = _sharpness(image, part, detail)
    # Compression takes detail away as well, which is no softness of the image's own.
    lost = _sharpness(expected, part, detail) if expected is not plain else 0.0
    is_soft = sharpness - min(0.0, lost) < _SOFTENED_BELOW and _is_detailed(detail)
    sharpness = min(_MOST_SHARPNESS, max(_LEAST_SHARPNESS, sharpness))
    sharp = _levels(part + sharpness * detail)
    made = lossy(sharp)
    lab = lab_of(made)
    before = lab if made is sharp else lab_of(sharp)
    softer = lossy(_levels(part + (sharpness - _RESAMPLING) * detail))
    again = _apart(lab, lab_of(softer))
    allowed = 0.7 * again
    explained = 0.0
    if made is not sharp:
        lost_there = cv2.GaussianBlur(_apart(lab, before), (0, 0), 2)
        allowed = numpy.maximum(allowed, lost_there)
        explained = float(numpy.percentile(lost_there, 99.9))
    across = numpy.gradient(before, axis=1)
    down = numpy.gradient(before, axis=0)
    steep = numpy.sqrt((across**2 + down**2).sum(axis=2))
    allowed = ndimage.maximum_filter(allowed + _OFF_PX * steep, 3).astype(numpy.float32)
    return _Explained(made, lab, allowed, float(again.mean()), is_soft, explained)


def _is_detailed(detail: numpy.ndarray) -> bool:
    return float(detail.std()) > _LEAST_DETAIL


def _fine(image: numpy.ndarray) -> numpy.ndarray:
    """What of an image in grey is finer than a few pixels, (height, width)."""
    grey = image.astype(numpy.float32) @ _LUMA
    fine: numpy.ndarray = numpy.asarray(grey - cv2.GaussianBlur(grey, (0, 0), _FINE_PX))
    return fine


def _sharpness(image: Colour, part: numpy.ndarray, detail: numpy.ndarray) -> float:
    """How much of the part's finest detail the image has more (or less) than the part.

    By least squares on what is finer than a few pixels, so that another tone does not count.
    """
    ours, theirs, fine = (_fine(one).ravel() for one in (image, part, detail))
    step = max(1, len(ours) // _SHARPNESS_SAMPLES)
    ours, theirs, fine = ours[::step], theirs[::step], fine[::step]
    # Most differ nowhere else; what does is left out.
    chosen = numpy.ones(len(ours), bool)
    scale, sharp = 1.0, 0.0
    for _ in range(4):
        columns = numpy.stack([theirs[chosen], fine[chosen]], axis=1)
        normal = columns.T @ columns + 1e-3 * numpy.eye(2)
        scale, sharp = numpy.linalg.solve(normal, columns.T @ ours[chosen])
        rest = abs(ours - scale * theirs - sharp * fine)
        chosen = rest <= 2.5 * float(numpy.median(rest)) + 1.0
        if chosen.sum() < 20:
            return 0.0
    return float(sharp / scale) if scale > 0.05 else 0.0


def _softened(image: Colour, part: Colour) -> numpy.ndarray:
    """Where an image has lost detail that the part has, compressed as it is."""
    ours, theirs = _fine(image), _fine(part)
    both, own = (
        cv2.GaussianBlur(one, (0, 0), _PLACE_PX) for one in (ours * theirs, theirs * theirs)
    )
    usual = float((both.sum() + 1e-3) / (own.sum() + 1e-3))
    if usual < _KEPT_DETAIL and own.mean() > _LITTLE_ENERGY:
        return numpy.ones(own.shape, bool)
    lost = (own > _LEAST_ENERGY) & (both < _KEPT_DETAIL * usual * own)
    return numpy.asarray(lost)


def _levels(values: numpy.ndarray) -> Colour:
    levels: Colour = numpy.clip(values + 0.5, 0, 255).astype(numpy.uint8)
    return levels


def _measured(
    image: Colour, lab: numpy.ndarray, part: _Explained, untoned: float, tone: Tone | None
) -> Comparison:
    difference = _apart(lab, part.lab)
    apart = lab - part.lab
    inside = numpy.ones(lab.shape[:2], bool)
    # The image's edge shows what lies beyond it, too.
    inside[[0, -1]] = inside[:, [0, -1]] = False
    spot_map = _beyond(apart, part.allowed, 0.8) * inside
    area_map = _beyond(apart, part.allowed * 0.6, 2.0) * inside
    pixels = difference.size
    least = max(_LEAST_SPOT_PX, round(_SPOT_SHARE * pixels))
    wide = max(4 * _LEAST_SPOT_PX, round(_AREA_SHARE * pixels))
    spot, spots = _largest(spot_map, least, SPOT_BOUND)
    area, areas = _largest(area_map, wide, AREA_BOUND)
    soft = _connected(_softened(image, part.pixels) & inside, wide)
    differs = ndimage.binary_dilation(spots | areas | soft, iterations=_MARGIN)
    outside = difference[~differs]
    return Comparison(
        difference=float(difference.mean()),
        floor=part.floor,
        area=area,
        spot=spot,
        untoned=untoned,
        is_softened=part.is_soft or bool(soft.any()),
        differing_share=float(differs.mean()),
        outside=float(outside.mean()) if outside.size else float(difference.mean()),
        explained=part.explained,
        tone=tone,
        places=_places(differs, difference),
    )


def _beyond(apart: numpy.ndarray, allowed: numpy.ndarray, blur_px: float) -> numpy.ndarray:
    """By how much neighbourhoods differ beyond what is explained there; noise has no direction."""
    together = cv2.GaussianBlur(apart, (0, 0), blur_px)
    explained = cv2.GaussianBlur(allowed, (0, 0), blur_px)
    beyond = numpy.sqrt((together**2).sum(axis=2)) - explained
    return numpy.asarray(numpy.maximum(beyond, 0))


def _largest(beyond: numpy.ndarray, least_px: int, bound: float) -> tuple[float, numpy.ndarray]:
    """The largest mean difference over a connected area, and all areas beyond a bound."""
    largest, places = 0.0, numpy.zeros(beyond.shape, bool)
    for step in _STEPS:
        labels, count = ndimage.label(beyond >= step, numpy.ones((3, 3)))
        if not count:
            break
        sizes = numpy.bincount(labels.ravel())
        sizes[0] = 0
        found = numpy.nonzero(sizes >= least_px)[0]
        if not len(found):
            break
        means = numpy.bincount(labels.ravel(), beyond.ravel())[found] / sizes[found]
        largest = max(largest, float(means.max()))
        is_worse = numpy.zeros(count + 1, bool)
        is_worse[found[means > bound]] = True
        places |= is_worse[labels]
    return largest, places


def _connected(mask: numpy.ndarray, least_px: int) -> numpy.ndarray:
    """The connected areas of a mask that have so many pixels."""
    labels, _ = ndimage.label(mask, numpy.ones((3, 3)))
    is_large = numpy.bincount(labels.ravel()) >= least_px
    is_large[0] = False
    found: numpy.ndarray = is_large[labels]
    return found


def _places(differs: numpy.ndarray, difference: numpy.ndarray) -> tuple[Place, ...]:
    """The connected places that differ, the largest first."""
    height, width = differs.shape
    labels, count = ndimage.label(differs, numpy.ones((3, 3)))
    if not count:
        return ()
    found = []
    means = ndimage.mean(difference, labels, range(1, count + 1))
    for box, mean in zip(ndimage.find_objects(labels), numpy.atleast_1d(means), strict=True):
        rows, columns = box
        found.append(
            Place(
                left=columns.start / width,
                top=rows.start / height,
                right=columns.stop / width,
                bottom=rows.stop / height,
                difference=float(mean),
            )
        )
    found.sort(key=lambda one: (one.left - one.right) * (one.bottom - one.top))
    return tuple(found[:_MOST_PLACES])
