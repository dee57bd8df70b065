"""The trial that the thresholds of registration come from: `python -m tests.trials.registration`.

Open photographs (scikit-image's and scikit-learn's) are cut, shrunk, turned, mirrored, greyed,
toned and compressed by known amounts, and looked for again on their originals and on all others.
"""

import io
import sys
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import cache

import numpy
from PIL import Image
from skimage import data
from sklearn.datasets import load_sample_images

from harnet.core.documents.same_shot import Sureness, sureness_of
from harnet.media.pixels.registration.register import original_features, registered, sought

_NAMES = (
    *("astronaut", "brick", "camera", "cell", "chelsea", "coffee", "coins", "grass", "gravel"),
    *("hubble_deep_field", "immunohistochemistry", "moon", "page", "retina", "rocket", "text"),
)


@cache
def photographs():
    """Open photographs by name, as arrays in 8 bits; two of them are the eyes of a stereo pair."""
    found = {name: getattr(data, name)() for name in _NAMES}
    left, right, _ = data.stereo_motorcycle()
    found |= {"motorcycle left": left, "motorcycle right": right}
    found |= dict(zip(("china", "flower"), load_sample_images().images, strict=True))
    return {name: one[..., :3] if one.ndim == 3 else one for name, one in found.items()}


@dataclass(frozen=True)
class Change:
    """What was done to a photograph: where its corners lie now, and how."""

    corners: numpy.ndarray
    """Upper left, upper right, lower right and lower left of the image, on the original."""
    quality: int | None
    area: float


def changed(photograph, chance, area=None, scale=0.25):
    """A part of a photograph as somebody may have used it, in grey from 0 to 1; and what it is."""
    image = Image.fromarray(photograph).convert("RGB")
    width, height = image.size
    area = area or float(chance.choice([0.4, 0.5, 0.7, 1.0]))
    angle = float(chance.uniform(-3, 3)) if chance.random() < 0.25 else 0.0
    aspect = chance.uniform(0.8, 1.25)
    part_w = min(width, width * area**0.5 * aspect)
    part_h = min(height, width * height * area / part_w)
    left, top = chance.uniform(0, width - part_w), chance.uniform(0, height - part_h)
    box = (left, top, left + part_w, top + part_h)
    middle = numpy.array([left + part_w / 2, top + part_h / 2])
    corners = numpy.array([[box[0], box[1]], [box[2], box[1]], [box[2], box[3]], [box[0], box[3]]])
    if angle:
        # What would show the corners outside of the photograph is left away.
        corners = middle + (corners - middle) * 0.9
        box = (*corners[0], *corners[2])
        image = image.rotate(angle, Image.Resampling.BICUBIC, center=tuple(middle))
        cos, sin = numpy.cos(numpy.radians(angle)), numpy.sin(numpy.radians(angle))
        corners = middle + (corners - middle) @ numpy.array([[cos, sin], [-sin, cos]])
    size = [max(12, round((box[2] - box[0]) * scale)), max(12, round((box[3] - box[1]) * scale))]
    image = image.resize(size, Image.Resampling.LANCZOS, box=box)
    for _ in range(int(chance.integers(1, 4)) if chance.random() < 0.3 else 0):
        image, corners = image.transpose(Image.Transpose.ROTATE_90), numpy.roll(corners, -1, axis=0)
    if chance.random() < 0.15:
        image = image.transpose(Image.Transpose.FLIP_LEFT_RIGHT)
        corners = corners[[1, 0, 3, 2]]
    if chance.random() < 0.3:
        image = image.convert("L").convert("RGB")
    if chance.random() < 0.2:
        image = image.convert("CMYK").convert("RGB")
    if chance.random() < 0.3:
        gamma = chance.uniform(0.75, 1.3)
        image = image.point([round(255 * (value / 255) ** gamma) for value in range(256)] * 3)
    quality = int(chance.choice([0, 50, 75, 90])) or None
    if quality:
        out = io.BytesIO()
        image.save(out, "JPEG", quality=quality)
        image = Image.open(out)
    grey = numpy.asarray(image.convert("L"), dtype=numpy.float32) / 255
    return grey, Change(corners, quality, area)


def grey_of(photograph):
    """A photograph in grey, from 0 to 1."""
    return numpy.asarray(Image.fromarray(photograph).convert("L"), dtype=numpy.float32) / 255


def off_by_px(registration, shape, change):
    """How far the corners of an image were put from where they are, in pixels of the original."""
    height, width = shape
    corners = [(0, 0), (width, 0), (width, height), (0, height)]
    found = numpy.array([registration.to_original.applied(*corner) for corner in corners])
    return float(numpy.hypot(*(found - change.corners).T).max())


def _one(name, seed, false_per_image, times):
    """The rows of one photograph: how each of its images fared."""
    photograph, chance = photographs()[name], numpy.random.default_rng(seed)
    original = grey_of(photograph)
    known = original_features(original)
    others = {other: grey_of(one) for other, one in photographs().items() if other != name}
    other_features = {other: original_features(one) for other, one in others.items()}
    rows = []
    for time in range(times):
        image, change = changed(photograph, chance)
        found = registered(sought(image), original, known)
        sure = sureness_of(found, change.quality)
        off = off_by_px(found, image.shape, change) if found else None
        rows.append((name, name, sure, found.similarity if found else 0.0, off, change.area))
        if time >= false_per_image:
            continue
        wanted = sought(image)
        for other, one in others.items():
            found = registered(wanted, one, other_features[other])
            sure = sureness_of(found, change.quality)
            rows.append((name, other, sure, found.similarity if found else 0.0, None, change.area))
    return rows


def main(times=24, false_per_image=6):
    """Prints the table of hits, misses and false alarms."""
    names = sorted(photographs())
    with ProcessPoolExecutor(2) as pool:
        alike = [[one] * len(names) for one in (false_per_image, times)]
        rows = [row for found in pool.map(_one, names, range(len(names)), *alike) for row in found]
    true = [row for row in rows if row[0] == row[1]]
    false = [row for row in rows if row[0] != row[1]]
    print(f"{len(true)} true pairs, {len(false)} pairs of different pictures")
    for area in (1.0, 0.7, 0.5, 0.4):
        counts = Counter(row[2] for row in true if row[5] == area)
        print(f"| {area:.0%} |", " | ".join(str(counts[one]) for one in Sureness), "|")
    print("different:", dict(Counter(row[2] for row in false)))
    for name in names:
        counts = Counter(row[2] for row in true if row[0] == name)
        print(f"| {name} |", " | ".join(str(counts[one]) for one in Sureness), "|")
    off = sorted(row[4] for row in true if row[2] is Sureness.SURE)
    print(
        "corners off by, median, 95 %, most:",
        off[len(off) // 2],
        off[len(off) * 95 // 100],
        off[-1],
    )
    highest = sorted(false, key=lambda row: -row[3])[:12]
    for row in highest:
        print("most alike of different ones:", *row[:4])


if __name__ == "__main__":
    main(*map(int, sys.argv[1:]))
