"""Places of shapes in ISO/IEC 26300: lengths with units, and `draw:transform` (19.228)."""

import math
import re

from harnet.core.documents.images import Crop
from harnet.core.measure.geometry import Matrix
from harnet.core.measure.units import CSS_PX_PER_INCH, POINTS_PER_INCH
from harnet.media.packages.gathering import NO_CROP
from harnet.media.packages.xml import Element, attribute, length_pt, number

_STEP = re.compile(r"([a-zA-Z]+)\s*\(([^)]*)\)")
_CLIP = re.compile(r"rect\s*\(([^)]*)\)", re.IGNORECASE)
_ASSUMED_PPI = (72.0, CSS_PX_PER_INCH)
"""Of pictures without a density tag: by formula 2, or what programs take for a screen's."""
_MOST_STEPS = 60


def shape_matrix(shape: Element) -> tuple[Matrix, float, float]:
    """The map from the unit square to the page, y downwards, with width and height in points."""
    width = length_pt(attribute(shape, "width")) or 0.0
    height = length_pt(attribute(shape, "height")) or 0.0
    x = length_pt(attribute(shape, "x")) or 0.0
    y = length_pt(attribute(shape, "y")) or 0.0
    placed = Matrix(max(0.0, width), 0, 0, max(0.0, height), x, y)
    return placed.then(transform(attribute(shape, "transform"))), width, height


def transform(text: str) -> Matrix:
    """A list of steps, the first one first; angles in radians, counterclockwise."""
    matrix = Matrix()
    for name, inside in _STEP.findall(text)[:_MOST_STEPS]:
        words = inside.replace(",", " ").split()
        if name == "translate":
            lengths = [length_pt(one, POINTS_PER_INCH / CSS_PX_PER_INCH) or 0.0 for one in words]
            x, y = (*lengths, 0.0, 0.0)[:2]
            step = Matrix.translation(x, y)
        elif name == "rotate":
            step = Matrix.rotation(-math.degrees(number(words[0]) if words else 0.0))
        elif name == "scale":
            across = number(words[0], 1.0) if words else 1.0
            step = Matrix.scaling(across, number(words[1], across) if len(words) > 1 else across)
        elif name in ("skewX", "skewY"):
            slope = math.tan(number(words[0]) if words else 0.0)
            step = Matrix(c=slope) if name == "skewX" else Matrix(b=slope)
        elif name == "matrix" and len(words) == 6:
            a, b, c, d = (number(one) for one in words[:4])
            e, f = (length_pt(one, 1.0) or 0.0 for one in words[4:])
            step = Matrix(a, b, c, d, e, f)
        else:
            continue
        matrix = matrix.then(step)
    return matrix


def clip_of(
    text: str,
    px: tuple[int, int],
    tag_ppi: tuple[float, float] | None,
    size_pt: tuple[float, float],
) -> tuple[Crop, bool]:
    """What `fo:clip` cuts off, as shares, and whether the native size had to be assumed.

    Its lengths are those of the picture at its native size (formula 13). Without a density tag,
    the usual density is taken that leaves the picture the least stretched.
    """
    found = _CLIP.search(text)
    if found is None or min(px) <= 0:
        return NO_CROP, False
    words = found.group(1).replace(",", " ").split()
    if len(words) != 4:
        return NO_CROP, False
    top, right, bottom, left = (length_pt(one) or 0.0 for one in words)
    if not any((top, right, bottom, left)):
        return NO_CROP, False

    def shares(ppi: tuple[float, float]) -> Crop:
        across, down = ppi[0] / POINTS_PER_INCH / px[0], ppi[1] / POINTS_PER_INCH / px[1]
        return left * across, top * down, right * across, bottom * down

    if tag_ppi is not None:
        return shares(tag_ppi), False

    def stretch(ppi: float) -> float:
        x1, y1, x2, y2 = shares((ppi, ppi))
        across, down = px[0] * (1 - x1 - x2), px[1] * (1 - y1 - y2)
        if min(across, down, *size_pt) <= 0:
            return math.inf
        return round(abs(math.log(across / size_pt[0] * size_pt[1] / down)), 3)

    best = min(_ASSUMED_PPI, key=stretch)
    return shares((best, best)), True
