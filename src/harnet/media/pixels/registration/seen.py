"""Images and originals as they are seen: in sRGB of 8 bits, whatever their own colours are."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path

import cv2
import numpy
import pyvips

from harnet.core.documents.comparison import Comparison, Outcome
from harnet.core.measure.geometry import Matrix
from harnet.media.pixels.conversion import RELATIVE, upon_srgb
from harnet.media.pixels.registration.comparing import (
    Colour,
    Lossy,
    as_it_is,
    compared,
    jpeg_of,
    palette_of,
)
from harnet.media.pixels.registration.features import Grey

ORIGINAL_PX = 1600
"""The longest edge that an original is looked at with; more where an image is denser than that."""
MOST_ORIGINAL_PX = 6400
_COMPARED_PX = 640
"""The longest edge at which images are compared."""
_SUPERSAMPLED = 2
_LUMA = numpy.array([0.299, 0.587, 0.114], numpy.float32)
_BLACK, _WHITE = 0, 255
_NEAR_THRESHOLD = 24
_SHIFTS, _STILL_PX, _MOST_SHIFT_PX, _LEAST_GAIN = 2, 0.03, 0.7, 0.2
_THRESHOLDS = range(16, 241, 8)
InOwnColours = Callable[[numpy.ndarray], numpy.ndarray]
_ANY_COLOURS: Mapping[str, InOwnColours] = {RELATIVE: as_it_is}


@dataclass(frozen=True, slots=True)
class SeenImage:
    """An image as it is seen.

    `quality` is that of its JPEG, None for one without loss; `palette` its colours, shape (n, 3),
    where it has but few. `in_own_colours` says by rendering intent what is seen of a part of an
    original, floats to 255, once it is brought into the image's colours.
    """

    pixels: Colour
    quality: int | None = None
    in_own_colours: Mapping[str, InOwnColours] = field(default_factory=lambda: _ANY_COLOURS)
    palette: Colour | None = None
    is_bilevel: bool = False

    @property
    def grey(self) -> Grey:
        """The image in grey, from 0 to 1."""
        return grey_of(self.pixels)


def grey_of(image: Colour) -> Grey:
    """An image in grey, from 0 to 1, by the luma of ITU-R BT.601 (from memory)."""
    grey: Grey = (image.astype(numpy.float32) @ _LUMA) / 255
    return grey


def seen(image: pyvips.Image) -> Colour:
    """A decoded picture as it is seen, on white where it is transparent.

    Raises:
        pyvips.Error: it cannot be decoded.
    """
    if image.hasalpha():
        image = image.flatten(background=[65535 if image.format == "ushort" else 255])
    shown = upon_srgb(image, 8)
    if shown.format != "uchar":
        shown = shown.cast("uchar")
    pixels = numpy.asarray(shown.numpy()).reshape(shown.height, shown.width, shown.bands)
    if shown.bands < 3:
        pixels = numpy.repeat(pixels[:, :, :1], 3, axis=2)
    return numpy.ascontiguousarray(pixels[:, :, :3])


def seen_original(path: Path, longest_px: int = ORIGINAL_PX) -> tuple[Colour, tuple[int, int]]:
    """A picture file as it is seen, upright and small enough to look at, and its pixels in full.

    Raises:
        pyvips.Error: it cannot be decoded.
    """
    full = pyvips.Image.new_from_file(str(path)).autorot()
    small = pyvips.Image.thumbnail(str(path), longest_px, height=longest_px, size="down")
    return seen(small), (full.width, full.height)


def part_on(original: Colour, to_original: Matrix, shape: tuple[int, int]) -> numpy.ndarray:
    """The part of an original that an image shows, on its rows and columns.

    `to_original` maps the image's pixels to those of the original as it is given here, from corner
    to corner. Each pixel is the mean of those it takes the place of; floats to 255.
    """
    height, width = shape
    times = _SUPERSAMPLED
    corners = [to_original.applied(x, y) for x in (0, width) for y in (0, height)]
    scale = abs(to_original.determinant) ** 0.5
    margin = 4 * scale + 2
    left = max(0, int(min(x for x, _ in corners) - margin))
    top = max(0, int(min(y for _, y in corners) - margin))
    right = min(original.shape[1], int(max(x for x, _ in corners) + margin) + 1)
    bottom = min(original.shape[0], int(max(y for _, y in corners) + margin) + 1)
    region: numpy.ndarray = original[top:bottom, left:right].astype(numpy.float32)
    to_region = to_original.then(Matrix(1, 0, 0, 1, -left, -top))
    if scale > times:
        size = [max(1, round(edge * times / scale)) for edge in region.shape[1::-1]]
        share = size[0] / region.shape[1], size[1] / region.shape[0]
        region = cv2.resize(region, size, interpolation=cv2.INTER_AREA)
        to_region = to_region.then(Matrix.scaling(*share))
    a, b, c, d, e, f = Matrix.scaling(1 / times, 1 / times).then(to_region).as_tuple()
    # Between the middles of pixels.
    mapped = numpy.array([[a, c, e + (a + c) / 2 - 0.5], [b, d, f + (b + d) / 2 - 0.5]])
    dense = cv2.warpAffine(
        region,
        mapped,
        (width * times, height * times),
        flags=cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REPLICATE,
    )
    part = cv2.resize(dense, (width, height), interpolation=cv2.INTER_AREA)
    return numpy.asarray(numpy.clip(part, 0, 255))


def beside_original(image: SeenImage, original: Colour, to_original: Matrix) -> Comparison:
    """How an image looks beside the part of an original; the matrix is that of `part_on`."""
    pixels, quality = image.pixels, image.quality
    height, width = pixels.shape[:2]
    share = min(1.0, _COMPARED_PX / max(height, width))
    if share < 1:
        size = max(1, round(width * share)), max(1, round(height * share))
        pixels = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
        to_original = Matrix.scaling(width / size[0], height / size[1]).then(to_original)
        # Reduced, it shows little of its compression.
        quality = quality if share > 2 / 3 else None
    part = part_on(original, to_original, pixels.shape[:2])
    for _ in range(_SHIFTS):
        x, y = _shift(pixels, part)
        if max(abs(x), abs(y)) < _STILL_PX:
            break
        to_original = Matrix(1, 0, 0, 1, x, y).then(to_original)
        part = part_on(original, to_original, pixels.shape[:2])
    if image.is_bilevel:
        return _bilevel(pixels, part)
    lossy: Lossy = jpeg_of(quality) if image.palette is None else palette_of(image.palette)
    found = []
    for intent, in_own_colours in image.in_own_colours.items():
        one = compared(pixels, part, lossy, in_own_colours)
        found.append(replace(one, intent=intent))
        if one.outcome is Outcome.SAME:
            return found[-1]
    return min(found, key=lambda one: (list(Outcome).index(one.outcome), one.difference))


def _shift(image: Colour, part: numpy.ndarray) -> tuple[float, float]:
    """How far an image lies off a part, in pixels, as far as fine structure tells."""
    ours, theirs = (
        cv2.GaussianBlur(grey, (0, 0), 0.7) - cv2.GaussianBlur(grey, (0, 0), 3.0)
        for grey in (image.astype(numpy.float32) @ _LUMA, part.astype(numpy.float32) @ _LUMA)
    )
    down, across = numpy.gradient(theirs)
    columns = numpy.stack([across.ravel(), down.ravel(), theirs.ravel()], axis=1)
    normal = columns.T @ columns + 1e-3 * len(columns) * numpy.eye(3)
    x, y, gain = numpy.linalg.solve(normal, columns.T @ ours.ravel())
    if gain < _LEAST_GAIN:
        return 0.0, 0.0
    x, y = numpy.clip([x / gain, y / gain], -_MOST_SHIFT_PX, _MOST_SHIFT_PX)
    return float(x), float(y)


def _bilevel(image: Colour, part: numpy.ndarray) -> Comparison:
    """An image of 1 bit beside a part: what of it is not that part at one threshold.

    A pixel that is black instead of white differs by 100 in CIELAB.
    """
    grey, is_white = part @ _LUMA, image[:, :, 0] > 127
    off = [((grey > at) != is_white) & (abs(grey - at) > _NEAR_THRESHOLD) for at in _THRESHOLDS]
    least = min(range(len(off)), key=lambda number: int(off[number].sum()))
    # Of all that fit, the one in the middle.
    fitting = [at for at, one in enumerate(off) if one.sum() <= off[least].sum()]
    wrong = off[fitting[len(fitting) // 2]]
    share = float(wrong.mean())
    return Comparison(
        difference=100 * share,
        floor=0.0,
        area=0.0,
        spot=0.0,
        untoned=100 * share,
        differing_share=share,
        outside=0.0 if share < 1 / 10 else 100 * share,
        threshold=_THRESHOLDS[fitting[len(fitting) // 2]],
    )


def in_colours(convert: Callable[[pyvips.Image], pyvips.Image]) -> InOwnColours:
    """What is seen of colours once `convert` brought them into an image's own."""

    def there_and_back(part: numpy.ndarray) -> numpy.ndarray:
        levels = numpy.ascontiguousarray(numpy.clip(part + 0.5, 0, 255).astype(numpy.uint8))
        height, width = levels.shape[:2]
        image = pyvips.Image.new_from_memory(levels.data, width, height, 3, "uchar")
        return seen(convert(image.copy(interpretation="srgb"))).astype(numpy.float32)

    return there_and_back
