"""An estimate of how many of a picture's pixels carry detail, from the spectrum of its tiles.

Pictures of the world have power that falls steadily with frequency, about as its square. Where an
enlarged picture, or one out of focus, has no detail, its power falls off a cliff instead. The place
of the cliff against the highest frequency that pixels can hold is the share that carries detail.
"""

import math

import numpy as np
import pyvips
from numpy.fft import fft2, fftfreq

from harnet.core.pictures.detail import Detail

TILE_PX = 256
_TILES_ACROSS = 3
_LOW_FROM, _LOW_TO = 4, round(TILE_PX * 0.07)
"""Where the steady fall is read off, in periods a tile: below, there is little to average."""
_CLIFF_DB = 11.0
_RUN = 10
_STEEPEST, _FLATTEST = -3.2, -2.0
_UNSURE_DB, _SURE_DB = 8.0, 32.0
"""How far the fall lies above rounding to whole grey levels where the cliff is: less than eight
decibels say nothing, thirty-two say all. Tried out on photographs enlarged by known factors."""


def detail_of(image: pyvips.Image) -> Detail | None:
    """The estimate for an upright image that may be read in any order; None for small ones."""
    if min(image.width, image.height) < TILE_PX:
        return None
    window = np.outer(np.hanning(TILE_PX), np.hanning(TILE_PX))
    tiles = [_power(tile, window) for tile in _tiles(image)]
    power = np.sum(tiles, axis=0)
    if not power[_LOW_FROM : _LOW_TO + 1].all():
        return None
    frequency = np.arange(len(power)) / TILE_PX
    low = np.arange(_LOW_FROM, _LOW_TO + 1)
    fall = np.polyfit(np.log(frequency[low]), np.log(power[low]), 1)[0]
    fall = min(max(fall, _STEEPEST), _FLATTEST)
    start = np.mean(np.log(power[low]) - fall * np.log(frequency[low]))
    steady = np.exp(start + fall * np.log(np.maximum(frequency, 1 / TILE_PX)))
    below_db = 10 * np.log10(np.maximum(power, 1e-12) / steady)
    last = len(power) - 1
    cliff = next(
        (at for at in range(_LOW_TO, last - 7) if np.median(below_db[at : at + _RUN]) < -_CLIFF_DB),
        last,
    )
    rounding = (window**2).sum() / 12 * len(tiles)
    room_db = 10 * math.log10(steady[min(cliff + 8, last)] / rounding)
    confidence = min(1.0, max(0.0, (room_db - _UNSURE_DB) / (_SURE_DB - _UNSURE_DB)))
    return Detail(round(cliff / (TILE_PX / 2), 3), round(confidence, 3))


def _tiles(image: pyvips.Image) -> list[np.ndarray]:
    """Squares from all over the picture, as grey levels."""
    places = [
        sorted({round(step * (edge - TILE_PX) / (_TILES_ACROSS - 1)) for step in range(3)})
        for edge in (image.width, image.height)
    ]
    return [
        image.crop(left, top, TILE_PX, TILE_PX).colourspace("b-w")[0].cast("uchar").numpy()
        for top in places[1]
        for left in places[0]
    ]


def _power(tile: np.ndarray, window: np.ndarray) -> np.ndarray:
    """Mean power of a tile at 0, 1, 2 … periods across, in any direction."""
    grey = tile.astype(float)
    power = np.abs(fft2((grey - grey.mean()) * window)) ** 2
    periods = np.hypot(*np.meshgrid(*[fftfreq(TILE_PX, 1 / TILE_PX)] * 2))
    ring = np.rint(periods).astype(int).ravel()
    sums, counts = np.bincount(ring, power.ravel()), np.bincount(ring)
    return (sums / counts)[: TILE_PX // 2 + 1]
