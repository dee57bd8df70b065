"""Transforms between images: from pairs of points, and refined on the pixels themselves.

Matrices of shape (2, 3) map x and y of pixel centres.
"""

import numpy
from scipy import ndimage

from harnet.media.pixels.registration.features import Grey

_TRIALS, _SEED = 1500, 20
_LEAST_SCALE, _MOST_SCALE = 0.2, 60.0
_ROUNDS, _STILL_PX = 14, 0.005
_LEAST_OVERLAP = 100


def similarity_between(
    ours: numpy.ndarray, theirs: numpy.ndarray, within_px: float
) -> tuple[numpy.ndarray, int] | None:
    """The scale, turn and shift by which most pairs agree, and how many do; None for too few pairs.

    `within_px` is how far a point may lie off, in pixels of ours. Random pairs are tried (RANSAC,
    Fischler and Bolles, 1981), always the same ones.
    """
    count = len(ours)
    if count < 4:
        return None
    from_, to = ours[:, 0] + 1j * ours[:, 1], theirs[:, 0] + 1j * theirs[:, 1]
    pairs = numpy.random.default_rng(_SEED).integers(0, count, (_TRIALS, 2))
    first, second = pairs[pairs[:, 0] != pairs[:, 1]].T
    apart = from_[second] - from_[first]
    first, second = first[abs(apart) > 1e-6], second[abs(apart) > 1e-6]
    factor = (to[second] - to[first]) / (from_[second] - from_[first])
    is_sane = (abs(factor) > _LEAST_SCALE) & (abs(factor) < _MOST_SCALE)
    factor, first = factor[is_sane], first[is_sane]
    if not len(factor):
        return None
    shift = to[first] - factor * from_[first]
    off = abs(factor[:, None] * from_ + shift[:, None] - to) / abs(factor)[:, None]
    agree = (off < within_px)[(off < within_px).sum(axis=1).argmax()]
    for _ in range(3):
        columns = numpy.stack([from_[agree], numpy.ones(agree.sum())], axis=1)
        (a, b), *_ = numpy.linalg.lstsq(columns, to[agree], rcond=None)
        again = abs(a * from_ + b - to) < within_px * max(abs(a), 1e-9)
        if again.sum() <= agree.sum():
            break
        agree = again
    matrix = numpy.array([[a.real, -a.imag, b.real], [a.imag, a.real, b.imag]])
    return matrix, int(agree.sum())


def refined(image: Grey, original: Grey, start: numpy.ndarray) -> numpy.ndarray:
    """The affine map from an image to an original of like density, fitted to all pixels.

    Differences in brightness and contrast are fitted along (Gauss and Newton's method on the image
    as Lucas and Kanade, 1981, and Baker and Matthews, 2004, describe it; from memory).
    """
    height, width = image.shape
    y, x = numpy.mgrid[0:height, 0:width].astype(numpy.float32)
    slope_y, slope_x = numpy.gradient(image)
    across, down = (x - width / 2) / width, (y - height / 2) / width
    ones = numpy.ones_like(image)
    columns = numpy.stack(
        [
            *(slope_x * across, slope_x * down, slope_x),
            *(slope_y * across, slope_y * down, slope_y),
            *(ones, image),
        ],
        axis=-1,
    ).reshape(-1, 8)
    corners = numpy.array([[0, width, 0, width], [0, 0, height, height], [1, 1, 1, 1]])
    matrix = start.copy()
    for _ in range(_ROUNDS):
        at_x, at_y = places_on(matrix, x, y)
        seen = ndimage.map_coordinates(original, [at_y, at_x], order=1, mode="nearest")
        inside = (at_x >= 0) & (at_x <= original.shape[1] - 1)
        inside &= (at_y >= 0) & (at_y <= original.shape[0] - 1)
        chosen = inside.reshape(-1)
        if chosen.sum() < _LEAST_OVERLAP:
            break
        left, right = columns[chosen], (seen - image).reshape(-1)[chosen]
        normal = left.T @ left + 1e-6 * numpy.eye(8)
        a, b, shift_x, c, d, shift_y = numpy.linalg.solve(normal, left.T @ right)[:6] / (
            numpy.array([width, width, 1, width, width, 1])
        )
        middle = numpy.array([width / 2, height / 2])
        linear = numpy.array([[a, b], [c, d]])
        step = numpy.hstack([linear, (numpy.array([shift_x, shift_y]) - linear @ middle)[:, None]])
        whole = numpy.vstack([matrix, [0, 0, 1]]) @ (numpy.eye(3) - numpy.vstack([step, [0, 0, 0]]))
        matrix = whole[:2]
        if abs(step @ corners).max() < _STILL_PX:
            break
    return matrix


def places_on(
    matrix: numpy.ndarray, x: numpy.ndarray, y: numpy.ndarray
) -> tuple[numpy.ndarray, numpy.ndarray]:
    """Where a map puts points."""
    return (
        matrix[0, 0] * x + matrix[0, 1] * y + matrix[0, 2],
        matrix[1, 0] * x + matrix[1, 1] * y + matrix[1, 2],
    )


def seen_through(original: Grey, matrix: numpy.ndarray, shape: tuple[int, int]) -> Grey:
    """The part of an original that a map shows, on so many rows and columns."""
    y, x = numpy.mgrid[0 : shape[0], 0 : shape[1]].astype(numpy.float32)
    at_x, at_y = places_on(matrix, x, y)
    part: Grey = ndimage.map_coordinates(original, [at_y, at_x], order=3, mode="nearest")
    return part.astype(numpy.float32)
