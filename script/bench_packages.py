"""Speed of checking a slide deck, against unpacking it and parsing its XML."""

import io
import time
import zipfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
from lxml import etree
from PIL import Image
from pptx import Presentation
from pptx.util import Inches

from harnet.core.targets.shipped import target_named
from harnet.studio.documents.check import check_document

SLIDES, PICTURES_A_SLIDE = 300, 3
_SIZE = (1000, 750)


def _picture(seed: int) -> io.BytesIO:
    chance = np.random.default_rng(seed)
    coarse = Image.fromarray(chance.integers(0, 255, (30, 40, 3), "uint8"))
    out = io.BytesIO()
    coarse.resize(_SIZE, Image.Resampling.BICUBIC).save(out, "JPEG", quality=88)
    out.seek(0)
    return out


def _write_deck(path: Path) -> None:
    deck = Presentation()
    for number in range(SLIDES):
        slide = deck.slides.add_slide(deck.slide_layouts[1])
        slide.shapes.title.text = f"The harbour in week {number}"
        slide.placeholders[1].text = "Boats in\nBoats out\nWhat the keeper wrote"
        for place in range(PICTURES_A_SLIDE):
            data = _picture(number * PICTURES_A_SLIDE + place)
            shape = slide.shapes.add_picture(data, Inches(place), Inches(2), Inches(3), Inches(2))
            shape.crop_left = 0.1 * place
    deck.save(path)


def _unpacked_and_parsed(path: Path) -> None:
    with zipfile.ZipFile(path) as file:
        for info in file.infolist():
            data = file.read(info)
            if info.filename.endswith((".xml", ".rels")):
                etree.fromstring(data)


def _best(work: Callable[[], object]) -> float:
    times = []
    for _ in range(3):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return min(times)


def deck_check(folder: Path, told: Callable[[str, float, str, float], None]) -> None:
    """A deck of 300 slides with 900 pictures."""
    path = folder / "weeks.pptx"
    _write_deck(path)
    target = target_named("coated")
    ours = _best(lambda: check_document(path, path.name, target))
    what = f"harnet check: {SLIDES} slides, {SLIDES * PICTURES_A_SLIDE} pictures"
    told(what, ours, "zipfile and lxml", _best(lambda: _unpacked_and_parsed(path)))
