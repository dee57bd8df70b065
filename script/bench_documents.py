"""Speed of what is made of somebody else's PDF: improved copies, originals found."""

import io
import os
import subprocess
import threading
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFilter
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from harnet.core.documents.comparison import Comparison, comparison_as_values
from harnet.core.documents.improving import ImproveSettings
from harnet.core.targets.shipped import target_named
from harnet.studio.documents.making.improving import (
    Original,
    look_for_originals,
    make_copy,
    plan_from,
)

Told = Callable[[str, float, str, float], None]
PAGES = 200
LARGE, SMALL = (2592, 1944), (648, 486)
SHELF, POOR = 5000, 100
_COATED = target_named("coated")


def scene(seed: int, size: tuple[int, int]) -> Image.Image:
    """Shards of all sizes and greys: no two scenes are alike, and each has points to know it by."""
    chance = np.random.default_rng(seed)
    image = Image.new("RGB", size, (128, 128, 128))
    pen = ImageDraw.Draw(image)
    for number in range(400):
        spread = max(size) / (4 + number / 8)
        middle = chance.uniform((0, 0), size)
        corners = middle + chance.uniform(-spread, spread, (3, 2))
        grey = int(chance.integers(0, 256))
        pen.polygon([tuple(one) for one in corners], fill=(grey, grey, int(grey * 0.8)))
    return image.filter(ImageFilter.GaussianBlur(1.5))


class Peak:
    """The most memory that all processes below this one held at a time, in megabytes."""

    def __init__(self) -> None:
        self.mb = 0.0
        self._is_over = threading.Event()
        self._watch = threading.Thread(target=self._look)

    def __enter__(self) -> "Peak":
        self._watch.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._is_over.set()
        self._watch.join()

    def _look(self) -> None:
        while not self._is_over.wait(0.1):
            self.mb = max(self.mb, sum(map(_resident_mb, _below(os.getpid()))))


def _below(process: int) -> list[int]:
    found = []
    for path in Path("/proc").glob("[0-9]*/stat"):
        try:
            parent = int(path.read_text().rpartition(")")[2].split()[1])
        except OSError:
            continue
        if parent == process:
            child = int(path.parent.name)
            found += [child, *_below(child)]
    return found


def _resident_mb(process: int) -> float:
    """What it holds in memory; what several share counts for each in part."""
    try:
        lines = Path(f"/proc/{process}/smaps_rollup").read_text().splitlines()
    except OSError:
        return 0.0
    [kilobytes] = [int(one.split()[1]) for one in lines if one.startswith("Pss:")] or [0]
    return kilobytes * 1024 / 1e6


def improved_copy(folder: Path, told: Told) -> None:
    """A copy of 200 pages, each image replaced by 5 megapixels, against qpdf and Pillow."""
    poor, originals = folder / "poor.pdf", []
    canvas = Canvas(str(poor), pagesize=(500, 400))
    scenes = [np.asarray(scene(seed, LARGE)) for seed in range(6)]
    for number in range(PAGES):
        large = Image.fromarray(np.roll(scenes[number % 6], 12 * number, axis=1))
        path = folder / f"original {number}.jpg"
        large.save(path, quality=92)
        originals.append(path)
        data = io.BytesIO()
        large.resize(SMALL, Image.Resampling.LANCZOS).save(data, "JPEG", quality=90)
        canvas.drawImage(ImageReader(data), 20, 20, 420, 315)
        canvas.showPage()
    canvas.save()
    settings = ImproveSettings(target=_COATED)
    found = look_for_originals(poor, "poor.pdf", [], _COATED).images
    scale = LARGE[0] / SMALL[0]
    known = {
        "sureness": "sure",
        "comparison": comparison_as_values(
            Comparison(difference=0.5, floor=0.5, area=0.0, spot=0.0, untoned=0.5)
        ),
        "registration": {
            "edge_px": SMALL[1],
            "to_original": [scale, 0, 0, scale, 0, 0],
            "similarity": 0.99,
            "points": 100,
            "unevenness": 0.0,
            "beyond_px": 0.0,
        },
    }
    images = [
        one | {"candidate": known | {"path": str(path)}}
        for one, path in zip(found, originals, strict=True)
    ]
    plan = plan_from(images, poor, "poor.pdf", settings)
    start = time.perf_counter()
    with Peak() as peak:
        receipt = make_copy(plan, folder / "copy.pdf", folder)
    mine = time.perf_counter() - start
    assert receipt.is_proven, receipt.faults
    start = time.perf_counter()
    subprocess.run(["qpdf", "--linearize", poor, folder / "linear.pdf"], check=True)
    for path in originals:
        with Image.open(path) as image:
            new = image.convert("RGB").resize((plan.images[0].px_w, plan.images[0].px_h))
        new.save(io.BytesIO(), "JPEG", quality=settings.quality)
    told(
        f"improved copy, {PAGES} pages, {peak.mb:.0f} MB",
        mine,
        "qpdf, Pillow",
        time.perf_counter() - start,
    )


def matching(folder: Path, told: Told) -> None:
    """The originals of 100 poor images among 5 000 pictures, against decoding those images once.

    The points of the pictures are known from a look before; most of them are made up here.
    """
    poor, originals = folder / "many.pdf", []
    canvas = Canvas(str(poor), pagesize=(500, 400))
    chance = np.random.default_rng(5)
    for number in range(POOR):
        size = (1600, 1200)
        large = scene(1000 + number, size)
        path = folder / f"shelf {number}.jpg"
        large.save(path, quality=90)
        originals.append(path)
        left, top = (int(one) for one in chance.integers(0, 300, 2))
        part = large.crop((left, top, left + 1200, top + 900))
        data = io.BytesIO()
        part.resize((300, 225), Image.Resampling.LANCZOS).save(data, "JPEG", quality=90)
        canvas.drawImage(ImageReader(data), 20, 20, 420, 315)
        canvas.showPage()
    canvas.save()
    files = [Original(one) for one in originals]
    known = look_for_originals(poor, "many.pdf", files, _COATED).hashes
    others = [chance.bytes(128 * 16).hex() for _ in range(SHELF - POOR)]
    files = [Original(one, hashes) for one, hashes in zip(originals, known, strict=True)]
    files += [Original(folder / f"other {n}.jpg", hashes) for n, hashes in enumerate(others)]
    start = time.perf_counter()
    found = look_for_originals(poor, "many.pdf", files, _COATED).images
    mine = time.perf_counter() - start
    right = sum(
        Path(one["candidate"]["path"]) == path
        for one, path in zip(found, originals, strict=True)
        if one.get("candidate")
    )
    start = time.perf_counter()
    subprocess.run(["pdfimages", "-png", poor, folder / "out"], check=True)
    told(
        f"{right} of {POOR} originals found among {SHELF}",
        mine,
        "pdfimages -png",
        time.perf_counter() - start,
    )
