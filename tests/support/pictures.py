"""Made-up photographs."""

import numpy as np

from harnet.store.tables import (  # noqa: F401 (their tables are emptied, too)
    documents,
    output,
    reviews,
)


def photo(width=300, height=200, channels=3, seed=1) -> np.ndarray:
    """A picture with both smooth and rough parts, as an 8-bit array."""
    y, x = np.mgrid[0:height, 0:width]
    smooth = 120 + 80 * np.sin(x / 17) * np.cos(y / 23)
    rough = np.random.default_rng(seed).integers(-30, 30, (height, width))
    layers = [np.roll(smooth, 9 * layer, axis=1) + rough for layer in range(channels)]
    stacked = np.clip(np.stack(layers, axis=-1), 0, 255).astype("uint8")
    return stacked if channels > 1 else stacked[..., 0]
