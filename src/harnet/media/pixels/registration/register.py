"""Registration: which part of an original an image shows, and how alike the two are there."""

from dataclasses import dataclass

import numpy
from scipy import ndimage
from skimage.exposure import match_histograms

from harnet.core.documents.same_shot import Registration
from harnet.core.measure.geometry import Matrix
from harnet.media.pixels.registration.features import (
    Features,
    Grey,
    features_of,
    mirrored,
    resized,
    shrunk,
)
from harnet.media.pixels.registration.transforms import (
    places_on,
    refined,
    seen_through,
    similarity_between,
)
from harnet.media.pixels.similarity import similarity_of

ORIGINAL_PX, ORIGINAL_POINTS = 480, 1200
"""The longest edge that an original is looked at with first, and the points taken of it."""
_IMAGE_PX, _IMAGE_POINTS = 320, 300
_REFINED_PX = 640
_RATIO = 0.9
_WITHIN_PX = 2.0
_LEAST_POINTS = 4
_BILEVEL_BLUR_PX = 1.5
_LEAST_EDGE_PX = 11
"""The window of structural similarity (Wang and others, 2004)."""


def original_features(original: Grey) -> Features:
    """The points of an original, for `registered`."""
    return features_of(original, ORIGINAL_PX, ORIGINAL_POINTS)


@dataclass(frozen=True)
class Sought:
    """An image that is looked for, with its points as it is and mirrored."""

    image: Grey
    plain: Features
    in_mirror: Features


def sought(image: Grey) -> Sought:
    """An image ready to be looked for on many originals."""
    plain = features_of(image, _IMAGE_PX, _IMAGE_POINTS)
    return Sought(image, plain, mirrored(plain, image.shape[1]))


def registered(
    wanted: Sought, original: Grey, features: Features | None = None
) -> Registration | None:
    """Where an image lies on an original, turned, mirrored and cut as it may be; None for nowhere.

    `features` are those of the original, where they are known.
    """
    image = wanted.image
    if min(image.shape) < _LEAST_EDGE_PX:
        return None
    theirs = features or original_features(original)
    found: tuple[numpy.ndarray, int, bool] | None = None
    for is_mirrored, ours in ((False, wanted.plain), (True, wanted.in_mirror)):
        pairs = _pairs(ours, theirs)
        share = max(1.0, max(image.shape) / _IMAGE_PX)
        matched = similarity_between(
            ours.places[pairs[:, 0]], theirs.places[pairs[:, 1]], _WITHIN_PX * share
        )
        if matched is not None and (found is None or matched[1] > found[1]):
            found = *matched, is_mirrored
    if found is None or found[1] < _LEAST_POINTS:
        return None
    matrix, points, is_mirrored = found
    return _on_pixels(_maybe_mirrored(image, is_mirrored), original, matrix, points, is_mirrored)


def _maybe_mirrored(image: Grey, is_mirrored: bool) -> Grey:
    return image[:, ::-1] if is_mirrored else image


def _pairs(ours: Features, theirs: Features) -> numpy.ndarray:
    """Points that describe each other best, and clearly better than any other (Lowe, 2004)."""
    if len(ours.places) < 2 or len(theirs.places) < 2:
        return numpy.zeros((0, 2), int)
    distance = _apart(ours.descriptions, theirs.descriptions)
    nearest = numpy.argpartition(distance, 1, axis=1)[:, :2]
    of_nearest = numpy.take_along_axis(distance, nearest, axis=1)
    order = numpy.argsort(of_nearest, axis=1)
    nearest = numpy.take_along_axis(nearest, order, axis=1)
    of_nearest = numpy.take_along_axis(of_nearest, order, axis=1)
    own = numpy.arange(len(distance))
    is_clear = of_nearest[:, 0] < _RATIO**2 * of_nearest[:, 1]
    is_mutual = distance.argmin(axis=0)[nearest[:, 0]] == own
    chosen = is_clear & is_mutual
    return numpy.stack([own[chosen], nearest[chosen, 0]], axis=1)


def _apart(ours: numpy.ndarray, theirs: numpy.ndarray) -> numpy.ndarray:
    """The squared distance of each description to each; whole numbers, so that nothing is lost."""
    of_ours, of_theirs = ((one**2).sum(axis=1) for one in (ours, theirs))
    distance: numpy.ndarray = of_ours[:, None] + of_theirs[None, :] - 2 * (ours @ theirs.T)
    return distance


def _on_pixels(
    image: Grey, original: Grey, matrix: numpy.ndarray, points: int, is_mirrored: bool
) -> Registration | None:
    """The registration fitted to all pixels, both brought to the image's density."""
    small = shrunk(image, _REFINED_PX)
    to_small = small.shape[1] / image.shape[1], small.shape[0] / image.shape[0]
    scale = numpy.hypot(matrix[0, 0], matrix[1, 0])
    share = min(1.0, max(to_small) / scale)
    size = tuple(max(2, round(edge * share)) for edge in original.shape)
    if min(small.shape) < _LEAST_EDGE_PX or min(size) < _LEAST_EDGE_PX:
        return None
    lookup: Grey = original
    if size != original.shape:
        lookup = resized(original, size)
    to_lookup = lookup.shape[1] / original.shape[1], lookup.shape[0] / original.shape[0]
    start = _on_centres(matrix, to_small, to_lookup)
    fitted = refined(small, lookup, start)
    part = seen_through(lookup, fitted, small.shape)
    if _is_bilevel(image):
        # What was cut to ink and paper is compared by how dark it is around each pixel.
        small, part = (ndimage.gaussian_filter(one, _BILEVEL_BLUR_PX) for one in (small, part))
    alike = match_histograms(part, small)
    singular = numpy.linalg.svd(fitted[:, :2])[1]
    if singular[1] < 1e-6:
        return None
    return Registration(
        edge_px=min(image.shape),
        to_original=_in_pixels(fitted, to_small, to_lookup, image.shape[1], is_mirrored),
        similarity=similarity_of(small, alike, 1.0),
        points=points,
        unevenness=float(singular[0] / singular[1] - 1),
        beyond_px=_beyond(fitted, small.shape, lookup.shape),
    )


def _is_bilevel(image: Grey) -> bool:
    return bool(((image == 0) | (image == 1)).all())


def _on_centres(
    matrix: numpy.ndarray, to_small: tuple[float, float], to_lookup: tuple[float, float]
) -> numpy.ndarray:
    """A map between the whole images as one between pixel centres of the small ones."""
    linear = numpy.diag(to_lookup) @ matrix[:, :2] @ numpy.diag([1 / one for one in to_small])
    shift = numpy.array(to_lookup) * matrix[:, 2] + linear @ [0.5, 0.5] - 0.5
    return numpy.hstack([linear, shift[:, None]])


def _in_pixels(
    fitted: numpy.ndarray,
    to_small: tuple[float, float],
    to_lookup: tuple[float, float],
    width: int,
    is_mirrored: bool,
) -> Matrix:
    """The map back between whole images, from corner to corner."""
    back = numpy.diag([1 / one for one in to_lookup])
    linear = back @ fitted[:, :2] @ numpy.diag(to_small)
    shift = back @ (fitted[:, 2] + 0.5 - fitted[:, :2] @ [0.5, 0.5])
    (a, c), (b, d) = linear.tolist()
    found = Matrix(a, b, c, d, float(shift[0]), float(shift[1]))
    if is_mirrored:
        found = Matrix(-1.0, 0.0, 0.0, 1.0, float(width), 0.0).then(found)
    return found


def _beyond(fitted: numpy.ndarray, shape: tuple[int, int], lookup: tuple[int, int]) -> float:
    """How far an image's corners lie beyond the original, in pixels of the small image."""
    height, width = shape
    x = numpy.array([-0.5, width - 0.5, -0.5, width - 0.5])
    y = numpy.array([-0.5, -0.5, height - 0.5, height - 0.5])
    at_x, at_y = places_on(fitted, x, y)
    farthest = max(
        *(-0.5 - at_x.min(), -0.5 - at_y.min()),
        *(at_x.max() - lookup[1] + 0.5, at_y.max() - lookup[0] + 0.5, 0.0),
    )
    return float(farthest / numpy.sqrt(abs(numpy.linalg.det(fitted[:, :2]))))
