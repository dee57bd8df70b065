"""Building blocks of generated pictures: noise, shapes and light, on float arrays 0 to 1."""

from dataclasses import dataclass

import numpy as np
import pyvips

Array = np.ndarray
_PIXELS_A_CELL = 4


def noise(
    height: int, width: int, seed: int, cells: float, octaves: int = 5, stretch: float = 1.0
) -> Array:
    """Smooth noise between 0 and 1; `cells` across, `stretch` times fewer of them downwards."""
    random = np.random.default_rng(seed)
    # The finest octave needs a few pixels a cell, no more; what is coarser is drawn smaller.
    finest = cells * 2.1 ** (octaves - 1) * max(1.0, stretch)
    shrink = min(1.0, finest * _PIXELS_A_CELL / width)
    small_w, small_h = max(8, round(width * shrink)), max(8, round(height * shrink))
    total = np.zeros((small_h, small_w), "float32")
    weight, sum_of_weights = 1.0, 0.0
    for _ in range(octaves):
        columns = int(min(cells, small_w / 2)) + 3
        rows = int(min(cells * stretch * height / width, small_h / 2)) + 3
        grid = random.random((rows, columns), dtype="float32")
        total += weight * enlarged(grid, small_h, small_w)
        sum_of_weights += weight
        weight, cells = weight * 0.52, cells * 2.1
    total /= sum_of_weights
    return total if shrink == 1 else enlarged(total, height, width)


def enlarged(grid: Array, height: int, width: int) -> Array:
    """A grid blown up smoothly."""
    image = pyvips.Image.new_from_array(np.ascontiguousarray(grid))
    large = image.resize(
        (width + 4) / (grid.shape[1] - 1), vscale=(height + 4) / (grid.shape[0] - 1), kernel="cubic"
    )
    found: Array = large.crop(0, 0, width, height).numpy()
    return found


def soft(edge: Array, width: float) -> Array:
    """A soft step: 0 where `edge` is below −width, 1 above +width."""
    step: Array = np.clip(edge / (2 * width) + 0.5, 0, 1)
    return step


def mixed(base: Array, colour: Array | tuple[float, float, float], share: Array) -> Array:
    """`base` with `colour` laid over it by `share`."""
    top = np.asarray(colour, "float32")
    found: Array = base + (top - base) * share[..., None]
    return found


@dataclass(frozen=True)
class Field:
    """A picture's coordinates: x and y from 0 to 1 across its width, y to height over width."""

    height: int
    width: int

    @property
    def x(self) -> Array:
        return np.broadcast_to(
            np.linspace(0, 1, self.width, dtype="float32")[None, :], (self.height, self.width)
        )

    @property
    def y(self) -> Array:
        return np.broadcast_to(
            np.linspace(0, self.height / self.width, self.height, dtype="float32")[:, None],
            (self.height, self.width),
        )

    @property
    def down(self) -> Array:
        """0 at the top, 1 at the bottom."""
        return self.y * (self.width / self.height)

    @property
    def pixel(self) -> float:
        """The size of a pixel in these coordinates."""
        return 1 / self.width


def gradient(down: Array, stops: list[tuple[float, tuple[float, float, float]]]) -> Array:
    """Colours blended along `down`."""
    places = [place for place, _ in stops]
    channels = [np.interp(down, places, [colour[i] for _, colour in stops]) for i in range(3)]
    return np.stack(channels, axis=-1).astype("float32")


def grained(picture: Array, seed: int, amount: float = 0.012) -> Array:
    """The picture with a photograph's grain."""
    random = np.random.default_rng(seed)
    grain = random.standard_normal(picture.shape[:2], dtype="float32") * amount
    found: Array = np.clip(picture + (grain[..., None] if picture.ndim == 3 else grain), 0, 1)
    return found
