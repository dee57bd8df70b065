"""How an image's colours come about from its original's: curves per channel, or a matrix.

Fitted to what both look like without fine detail, robustly, so that edits do not count.
"""

from collections.abc import Iterator

import cv2
import numpy
import pyvips
from scipy.optimize import isotonic_regression

from harnet.core.documents.comparison import Tone

KNOTS = 33
_BLUR_PX = 1.5
_MOST_SAMPLES = 8_000
_BINS = 64
_LEAST_IN_BIN = 6
_ROUNDS = 12
_FIRST_WIDTH, _NARROWER = 0.5, 0.6
_LEAST_WIDTH = 0.004
_STRAIGHT = tuple(numpy.linspace(0, 1, KNOTS).tolist())
_PLAIN = ((1.0, 0.0, 0.0, 0.0), (0.0, 1.0, 0.0, 0.0), (0.0, 0.0, 1.0, 0.0))
_LUMA = numpy.array([0.299, 0.587, 0.114])


def fitted_tones(part: numpy.ndarray, image: numpy.ndarray) -> Iterator[Tone]:
    """Tones that may explain an image, the simplest first; both of (height, width, 3), to 255."""
    ours, theirs = (_coarse(one) for one in (image, part))
    curves = tuple(_curve(theirs[:, at], ours[:, at]) for at in range(3))
    yield Tone(matrix=_PLAIN, curves=curves, words=_words(theirs, ours))
    matrix = _affine(theirs, ours)
    yield Tone(matrix=_as_rows(matrix), curves=(_STRAIGHT,) * 3, words=_words(theirs, ours))
    mixed = numpy.clip(_mixed(theirs, matrix), 0, 1)
    both = tuple(_curve(mixed[:, at], ours[:, at]) for at in range(3))
    yield Tone(matrix=_as_rows(matrix), curves=both, words=_words(theirs, ours))


def toned(part: numpy.ndarray, tone: Tone) -> numpy.ndarray:
    """A part in another tone; floats of shape (height, width, 3), to 255."""
    shape = part.shape
    values = part.reshape(-1, 3).astype(numpy.float32) / 255
    if tone.matrix != _PLAIN:
        values = numpy.clip(_mixed(values, numpy.array(tone.matrix)), 0, 1)
    knots = numpy.linspace(0, 1, KNOTS)
    made = [numpy.interp(values[:, at], knots, tone.curves[at]) for at in range(3)]
    return (numpy.stack(made, axis=1) * 255).astype(numpy.float32).reshape(shape)


def toned_picture(image: pyvips.Image, tone: Tone) -> pyvips.Image:
    """A decoded picture in sRGB of 8 or 16 bits per channel in another tone, in three channels."""
    most = 65535 if image.format == "ushort" else 255
    if image.bands == 1:
        image = image.bandjoin([image, image])
    if tone.matrix != _PLAIN:
        rows = [list(row[:3]) for row in tone.matrix]
        offsets = [row[3] * most for row in tone.matrix]
        mixed = image.recomb(pyvips.Image.new_from_array(rows)) + offsets
        image = (mixed > most).ifthenelse(most, (mixed < 0).ifthenelse(0, mixed))
        image = image.rint().cast("ushort" if most > 255 else "uchar")
    knots, places = numpy.linspace(0, most, KNOTS), numpy.arange(most + 1)
    curves = [numpy.interp(places, knots, numpy.array(one) * most) for one in tone.curves]
    form = numpy.uint16 if most > 255 else numpy.uint8
    table = (numpy.stack(curves, axis=1) + 0.5).astype(form)[None]
    lookup = pyvips.Image.new_from_array(table).copy(
        interpretation="rgb16" if most > 255 else "srgb"
    )
    return image.maplut(lookup).copy(interpretation="rgb16" if most > 255 else "srgb")


def _coarse(image: numpy.ndarray) -> numpy.ndarray:
    """Samples of an image without its fine detail, (n, 3) from 0 to 1."""
    soft = cv2.GaussianBlur(image.astype(numpy.float32), (0, 0), _BLUR_PX)
    step = max(1, int((soft.shape[0] * soft.shape[1] / _MOST_SAMPLES) ** 0.5))
    edge = min(2, (min(soft.shape[:2]) - 1) // 2)
    inner = soft[edge : soft.shape[0] - edge, edge : soft.shape[1] - edge]
    return inner[::step, ::step].reshape(-1, 3) / 255


def _curve(theirs: numpy.ndarray, ours: numpy.ndarray) -> tuple[float, ...]:
    """A rising curve from an original's values to an image's, by the medians of many bins."""
    order = numpy.argsort(theirs, kind="stable")
    sorted_theirs = theirs[order]
    edges = numpy.searchsorted(sorted_theirs, numpy.linspace(0, 1, _BINS + 1)[1:-1])
    xs, ys, weights = [], [], []
    for members in numpy.split(order, edges):
        count = len(members)
        if count < _LEAST_IN_BIN:
            continue
        xs.append(float(theirs[members[count // 2]]))
        ys.append(float(numpy.partition(ours[members], count // 2)[count // 2]))
        weights.append(float(count) ** 0.5)
    if len(xs) < 2:
        shift = float(numpy.median(ours - theirs)) if len(theirs) else 0.0
        moved = numpy.clip(numpy.linspace(0, 1, KNOTS) + shift, 0, 1)
        return tuple(moved.tolist())
    rising = isotonic_regression(ys, weights=weights).x
    # Beyond what is seen, the curve goes on as steeply as it ended.
    knots = numpy.interp(numpy.linspace(0, 1, KNOTS), *_extended(numpy.array(xs), rising))
    return tuple(numpy.clip(knots, 0, 1).tolist())


def _extended(xs: numpy.ndarray, ys: numpy.ndarray) -> tuple[numpy.ndarray, numpy.ndarray]:
    reach = max(1, len(xs) // 6)

    def slope(first: int, last: int) -> float:
        run = float(xs[last] - xs[first])
        return min(3.0, max(0.0, float(ys[last] - ys[first]) / run)) if run > 1e-6 else 1.0

    low = ys[0] - slope(0, reach) * xs[0]
    high = ys[-1] + slope(len(xs) - 1 - reach, len(xs) - 1) * (1 - xs[-1])
    return numpy.concatenate([[0], xs, [1]]), numpy.concatenate([[low], ys, [high]])


def _affine(theirs: numpy.ndarray, ours: numpy.ndarray) -> numpy.ndarray:
    """A matrix with an offset, (3, 4), by least squares that leave out what lies far off.

    Held near the original's own colours where these say nothing, as in a picture without colour.
    """
    columns = numpy.hstack([theirs, numpy.ones((len(theirs), 1))])
    wanted = ours - theirs
    weights = numpy.ones(len(theirs))
    held = numpy.diag([1.0, 1.0, 1.0, 1e-3]) * 1e-6 * len(theirs)
    matrix = numpy.zeros((4, 3))
    is_free = ~((ours > 0.985) | (ours < 0.015)).any(axis=1)
    # Ever narrower, so that it does not end at a fit that many agree with by chance.
    width = _FIRST_WIDTH
    for _ in range(_ROUNDS):
        used = weights * is_free if is_free.mean() > 0.2 else weights
        normal = columns.T @ (columns * used[:, None]) + held
        matrix = numpy.linalg.solve(normal, columns.T @ (wanted * used[:, None]))
        rest = numpy.abs(columns @ matrix - wanted).max(axis=1)
        usual = max(_LEAST_WIDTH, 1.5 * float(numpy.median(rest)))
        width = max(width * _NARROWER, min(width, usual)) if width > usual else usual
        weights = 1 / (1 + (rest / width) ** 2)
    found = matrix.T.copy()
    found[:, :3] += numpy.eye(3)
    return found


def _mixed(values: numpy.ndarray, matrix: numpy.ndarray) -> numpy.ndarray:
    mixed: numpy.ndarray = values @ matrix[:, :3].T + matrix[:, 3]
    return mixed


def _as_rows(matrix: numpy.ndarray) -> tuple[tuple[float, float, float, float], ...]:
    return tuple(tuple(float(one) for one in row) for row in matrix)  # type: ignore[misc]


def _words(theirs: numpy.ndarray, ours: numpy.ndarray) -> str:
    """What was done to an original's colours, in words; the strongest of it."""
    said = []
    light = float(numpy.median(ours @ _LUMA - theirs @ _LUMA))
    if abs(light) > 0.02:
        said.append("lighter" if light > 0 else "darker")
    spread = [one @ _LUMA for one in (ours, theirs)]
    contrast = [float(numpy.subtract(*numpy.percentile(one, [90, 10]))) for one in spread]
    if contrast[1] > 0.05 and not 0.9 < contrast[0] / contrast[1] < 1.1:
        said.append("more contrast" if contrast[0] > contrast[1] else "less contrast")
    colourful = [
        float(numpy.median(numpy.abs(one - (one @ _LUMA)[:, None]).max(axis=1)))
        for one in (ours, theirs)
    ]
    if colourful[0] < 0.004 < colourful[1]:
        said.append("in grey")
    elif colourful[1] > 0.01 and not 0.85 < colourful[0] / colourful[1] < 1.18:
        said.append("more saturated" if colourful[0] > colourful[1] else "less saturated")
    warm = float(numpy.median((ours[:, 0] - ours[:, 2]) - (theirs[:, 0] - theirs[:, 2])))
    if abs(warm) > 0.03 and "in grey" not in said:
        said.append("warmer" if warm > 0 else "cooler")
    return ", ".join(said) if said else "other colours"
