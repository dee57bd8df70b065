"""The part of an original that an image shows, on new pixels."""

from pathlib import Path

import pyvips

from harnet.core.measure.geometry import Matrix

_NEAR_AXIS = 0.0015
"""A turn of less than a tenth of a degree from a quarter turn."""
_SAME_SIZE = 0.004
_SAME_PLACE_PX = 0.05
"""What is drawn smaller first is not shifted by what nobody could see."""


def part_of_original(
    path: Path, to_original: Matrix, image_px: tuple[int, int], new_px: tuple[int, int]
) -> pyvips.Image:
    """The part on `new_px` pixels, turned and mirrored as the image is, in the original's colours.

    `to_original` maps the image's own pixels, `image_px` of them, to those of the upright original.
    Where nothing is to be turned or scaled, its very pixels are taken.

    Raises:
        pyvips.Error: the original cannot be decoded.
    """
    original = pyvips.Image.new_from_file(str(path), access="random", fail_on="truncated").autorot()
    if original.hasalpha():
        original = original.flatten(background=[255])
    across, down = image_px[0] / new_px[0], image_px[1] / new_px[1]
    to_original = Matrix.scaling(across, down).then(to_original)
    exact = _very_pixels(original, to_original, new_px)
    if exact is not None:
        return exact
    scale = abs(to_original.determinant) ** 0.5
    if scale > 1:
        smaller = original.resize(1 / scale, kernel="lanczos3")
        shrunk = Matrix.scaling(smaller.width / original.width, smaller.height / original.height)
        original, to_original = smaller, to_original.then(shrunk)
        exact = _very_pixels(original, to_original, new_px, _SAME_PLACE_PX)
        if exact is not None:
            return exact
    return _through(original, to_original.inverse, new_px)


def _through(image: pyvips.Image, matrix: Matrix, size: tuple[int, int]) -> pyvips.Image:
    """The image mapped by a matrix from corner to corner; libvips counts from pixel centres."""
    x, y = matrix.applied(0.5, 0.5)
    was = image.format
    mapped = image.affine(
        [matrix.a, matrix.c, matrix.b, matrix.d],
        interpolate=pyvips.Interpolate.new("bicubic"),
        odx=x - 0.5,
        ody=y - 0.5,
        oarea=[0, 0, *size],
        extend="copy",
    )
    return mapped.cast(was) if mapped.format != was else mapped


def _very_pixels(
    original: pyvips.Image, to_original: Matrix, size: tuple[int, int], within_px: float = 1.0
) -> pyvips.Image | None:
    """The part pixel for pixel; None where it lies askew, between pixels, or has other pixels."""
    m = to_original
    scale = abs(m.determinant) ** 0.5
    if abs(scale - 1) > _SAME_SIZE:
        return None
    is_straight = max(abs(m.b), abs(m.c)) < _NEAR_AXIS * scale
    is_quarter = max(abs(m.a), abs(m.d)) < _NEAR_AXIS * scale
    if not (is_straight or is_quarter):
        return None
    corners = [m.applied(x, y) for x, y in ((0, 0), size)]
    left, top = (min(one[axis] for one in corners) for axis in (0, 1))
    width, height = size if is_straight else size[::-1]
    x = min(max(0, round(left)), original.width - width)
    y = min(max(0, round(top)), original.height - height)
    if x < 0 or y < 0 or abs(x - left) > within_px or abs(y - top) > within_px:
        return None
    part = original.crop(x, y, width, height)
    if is_quarter:
        # Rows become columns.
        part = part.rot90().fliphor()
        across, down = m.b, m.c
    else:
        across, down = m.a, m.d
    part = part.fliphor() if across < 0 else part
    return part.flipver() if down < 0 else part
