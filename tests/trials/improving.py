"""The trial of what is replaced: `python -m tests.trials.improving`, about eight minutes.

Every scene goes through every change in three strengths and is laid over its original; the table
says of each change what became of its images. A change that nobody could see counts for nothing.
"""

import sys
from collections import Counter

import numpy
from PIL import Image

from harnet.core.measure.geometry import Matrix
from harnet.media.pixels.registration.seen import SeenImage, beside_original
from tests.trials.changes import KINDS, REPLACE, changed, looks_like, scenes, used

_VISIBLE = 4.0
"""The CIE76 difference of a hundredth of an image from which on an edit is seen at all."""
_HEADS = ("replaced rightly", "left rightly", "replaced wrongly", "missed")


def result(original, kind, strength, chance):
    """What became of an image: one of the heads of the table, or None where nothing was changed."""
    image, box = used(original, chance)
    made, quality = changed(image, kind, strength, chance)
    if kind.right != REPLACE and looks_like(image, made)[1] < _VISIBLE:
        return None
    across, down = (box[2] - box[0]) / image.width, (box[3] - box[1]) / image.height
    matrix = Matrix(across, 0, 0, down, box[0], box[1])
    seen = SeenImage(numpy.asarray(made), quality)
    found = beside_original(seen, numpy.asarray(original), matrix)
    is_replaced = found.outcome.is_replaced_unasked
    if kind.right == REPLACE:
        return _HEADS[0] if is_replaced else _HEADS[3]
    return _HEADS[2] if is_replaced else _HEADS[1]


def main(least=0, most=1000):
    """Prints the table, of the scenes from one number up to another."""
    counts = {kind.name: Counter() for kind in KINDS}
    for number, (name, original) in enumerate(scenes().items()):
        if not least <= number < most:
            continue
        chance = numpy.random.default_rng(number)
        assert isinstance(original, Image.Image), name
        for kind in KINDS:
            for strength in range(3):
                counts[kind.name][result(original, kind, strength, chance)] += 1
    print("| change |", " | ".join(_HEADS), "|")
    for name, found in counts.items():
        print(f"| {name} |", " | ".join(str(found[head]) for head in _HEADS), "|")
    totals = [sum(found[head] for found in counts.values()) for head in _HEADS]
    print("| **all** |", " | ".join(map(str, totals)), "|")


if __name__ == "__main__":
    main(*map(int, sys.argv[1:]))
