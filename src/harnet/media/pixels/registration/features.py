"""Points of an image that are found again in another size, turn and light, and hashes of them.

A point is described by scale-invariant features (Lowe, 2004; OpenCV's implementation). The
hash of a point says of each of its figures whether it lies above the usual: the same detail differs
in few bits, and thousands of pictures are gone through in a moment.
"""

from dataclasses import dataclass

import cv2
import numpy

cv2.setNumThreads(1)  # whoever works on many images has a process for each

Grey = numpy.ndarray
"""An image of shape (height, width), from 0 to 1, in 32-bit floats."""
_CONTRAST = 0.04 * 0.3
"""A third of the usual: small images have few strong points, and similarity decides in the end."""
HASHED_PX, HASHED_POINTS = 256, 64
"""What is hashed: the largest details of a picture of this longest edge."""
_WORDS = 2
_TURNED_DIRECTIONS = [0, 7, 6, 5, 4, 3, 2, 1]


@dataclass(frozen=True)
class Features:
    """Points of an image: `places` (n, 2) x and y in pixels of the whole image from its upper left
    corner, and `descriptions` (n, 128).
    """

    places: numpy.ndarray
    descriptions: numpy.ndarray


def shrunk(image: Grey, longest_px: int) -> Grey:
    """An image whose longest edge is at most so long; the same where it is already."""
    share = longest_px / max(image.shape)
    if share >= 1:
        return image
    return resized(image, tuple(max(1, round(edge * share)) for edge in image.shape))


def resized(image: Grey, shape: tuple[int, ...]) -> Grey:
    """An image on fewer pixels, each the mean of those that it takes the place of."""
    small: Grey = cv2.resize(
        numpy.ascontiguousarray(image), shape[::-1], interpolation=cv2.INTER_AREA
    )
    return small


def features_of(image: Grey, longest_px: int, most: int) -> Features:
    """The largest details of an image looked at with this longest edge, `most` of them."""
    small = shrunk(image, longest_px)
    levels = numpy.clip(small * 255 + 0.5, 0, 255).astype(numpy.uint8)
    finder = cv2.SIFT.create(contrastThreshold=_CONTRAST)
    points, descriptions = finder.detectAndCompute(levels, None)
    if descriptions is None:
        return Features(numpy.zeros((0, 2)), numpy.zeros((0, 128), numpy.float32))
    places = numpy.array([one.pt for one in points])
    order = numpy.argsort([-one.size for one in points], kind="stable")[:most]
    share = numpy.array([image.shape[1] / small.shape[1], image.shape[0] / small.shape[0]])
    seen = (places[order] + 0.5) * share
    return Features(seen, descriptions[order].astype(numpy.float32))


def mirrored(features: Features, width: int) -> Features:
    """The points of the same image seen in a mirror, without looking for them again.

    A description has a histogram of eight directions for each of four by four fields.
    """
    fields = features.descriptions.reshape(-1, 4, 4, 8)[:, ::-1, :, _TURNED_DIRECTIONS]
    places = features.places * [-1, 1] + [width, 0]
    return Features(places, fields.reshape(-1, 128))


def hashes_of(features: Features, most: int) -> numpy.ndarray:
    """A hash of 128 bits for each of the largest points, shape (n, 2) in 64-bit words."""
    descriptions = features.descriptions[:most]
    if not len(descriptions):
        return numpy.zeros((0, _WORDS), numpy.uint64)
    usual = numpy.median(descriptions, axis=1, keepdims=True)
    bits = numpy.packbits(descriptions > usual, axis=1)
    return numpy.ascontiguousarray(bits).view(numpy.uint64)
