"""What two drawings show of an image: the measure of the comparison, on pages before and after."""

from collections.abc import Mapping
from typing import Any

import cv2
import numpy

from harnet.core.measure.geometry import Matrix
from harnet.media.pixels.registration.comparing import compared

_LEAST_EDGE_PX = 8
_MOST_EDGE_PX = 640
_COARSER = 0.9
"""Drawings are compared with so many pixels for one of the image's own."""


def drawn_beside(
    old: numpy.ndarray, new: numpy.ndarray, matrix: Matrix, px: tuple[int, int]
) -> dict[str, Any] | None:
    """How what is drawn of an image looks before and after; None where it is too small to tell.

    Args:
        old: The page before, (height, width, 3) in sRGB of 8 bits.
        new: The page after, of the same shape.
        matrix: From the unit square to the image's place, in pixels of the drawing.
        px: The pixels of the image before: what is finer than those cannot be compared.
    """
    xs, ys = zip(*matrix.corners, strict=True)
    left, top = max(0, int(min(xs)) + 1), max(0, int(min(ys)) + 1)
    right, bottom = min(old.shape[1], int(max(xs))), min(old.shape[0], int(max(ys)))
    width, height = right - left, bottom - top
    if min(width, height) < _LEAST_EDGE_PX:
        return None
    before, after = (one[top:bottom, left:right] for one in (old, new))
    share = min(
        1.0,
        _COARSER * px[0] / max(matrix.u_length, 1e-6),
        _COARSER * px[1] / max(matrix.v_length, 1e-6),
        _MOST_EDGE_PX / max(width, height),
    )
    size = max(_LEAST_EDGE_PX, round(width * share)), max(_LEAST_EDGE_PX, round(height * share))
    small = [
        cv2.resize(numpy.ascontiguousarray(one), size, interpolation=cv2.INTER_AREA)
        for one in (before, after)
    ]
    found = compared(small[0], small[1].astype(numpy.float32), fits_tones=False)
    return {
        "difference": round(found.difference, 3),
        "floor": round(found.floor, 3),
        "area": round(found.area, 3),
        "spot": round(found.spot, 3),
    }


def poorer(one: Mapping[str, Any] | None, other: Mapping[str, Any]) -> dict[str, Any]:
    """Of the same image drawn twice, what is told of it: the larger differences."""
    if one is None:
        return dict(other)
    return {key: max(one[key], value) for key, value in other.items()}
