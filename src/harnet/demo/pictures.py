"""The files of the Tarnholm shelf, made from fixed seeds and kept from then on."""

from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context
from pathlib import Path

import numpy as np
import pyvips
from PIL import Image

from harnet.core.copies.recipe import PixelBox, Recipe
from harnet.core.measure.units import MM_PER_INCH
from harnet.core.pictures.rights import Rights
from harnet.scenery import scenes
from harnet.scenery.field import enlarged, grained

VERSION = "2"
"""Raised when a picture here changes, so that kept ones are made again."""

_CREST = """<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="40mm" viewBox="0 0 80 80">
<circle cx="40" cy="40" r="38" fill="#fbfaf6" stroke="#7a1f3d" stroke-width="3"/>
<path d="M4 52q9-6 18 0t18 0 18 0 18 0v6q-9-6-18 0t-18 0-18 0-18 0z" fill="#0b5f6b"/>
<path d="M10 62q8-5 15 0t15 0 15 0 15 0q-12 14-30 14T10 62z" fill="#0b5f6b"/>
<path d="M34 52l3-30h6l3 30z" fill="#fff" stroke="#1c2833"/>
<path d="M35.2 42h9.6l.8 7H34.4zM36.2 31h7.6l.5 6h-8.6z" fill="#7a1f3d"/>
<path d="M36 22h8v-6h-8z" fill="#f2d36b" stroke="#1c2833"/>
<path d="M35 16l5-5 5 5z" fill="#7a1f3d"/>
<path d="M46 18l22-6v10zM34 18L12 12v10z" fill="#f2d36b" opacity=".6"/>
</svg>
"""


_UNKNOWN = Rights()


@dataclass(frozen=True)
class DemoPicture:
    """A file of the shelf: its name, the density its tag states, and how it is drawn."""

    name: str
    tag_ppi: float | None
    draw: Callable[[], np.ndarray]
    rights: Rights = _UNKNOWN


_ARCHIVE = Rights("CC0-1.0", "", "Tarnholm archive, box 12")
_TRUST = Rights("CC-BY-4.0", "Tarnholm Light Trust", "Trust photographs")
_BOUGHT = Rights("One print run, 5 000 copies", "I. Varga", "Bought for the handbook")


def _coast(
    width: int, height: int, light: scenes.Light, seed: int, **more: object
) -> Callable[[], np.ndarray]:
    return lambda: scenes.coast(width, height, light, seed, **more)  # type: ignore[arg-type]


def _harbour() -> np.ndarray:
    """Drawn at half its size to save time; the grain is of full size."""
    view = scenes.coast(2592, 1728, scenes.MORNING, 2)
    channels = [enlarged(view[..., channel], 3456, 5184) for channel in range(3)]
    return grained(np.stack(channels, axis=-1), 20)


def _map() -> np.ndarray:
    # One row and column short of even: 4724 × 3543.
    return scenes.sea_map(2362, 1772, 15).repeat(2, axis=0).repeat(2, axis=1)[:3543, :4724]


def _engraving() -> np.ndarray:
    view = scenes.coast(945, 1260, scenes.STORM, 31, tower=(0.5, 0.5), horizon=0.7)
    grey = enlarged(np.clip((view.mean(axis=2) - 0.08) * 1.5, 0, 1), 3780, 2835)
    return scenes.engraved(grey, 120)


def _shrunk(view: np.ndarray, by: int) -> np.ndarray:
    """The same shot with fewer pixels, as a mail program would send it."""
    height, width = view.shape[0] // by, view.shape[1] // by
    cut = view[: height * by, : width * by]
    found: np.ndarray = cut.reshape(height, by, width, by, -1).mean(axis=(1, 3))
    return found


def _gulls() -> np.ndarray:
    return scenes.gulls(1872, 1398, 11)


def _gallery() -> np.ndarray:
    return scenes.coast(2024, 1398, scenes.NOON, 6, tower=(0.7, 0.55))


def _blown_up() -> np.ndarray:
    """Four times as many pixels along an edge as there is detail for."""
    view = scenes.coast(420, 280, scenes.MORNING, 41, tower=(0.3, 0.5))
    return np.stack([enlarged(view[..., one], 1120, 1680) for one in range(3)], axis=-1)


def _cut_out() -> np.ndarray:
    """A round view on nothing: its fourth channel says what is seen."""
    view = scenes.coast(900, 900, scenes.NOON, 43, tower=(0.5, 0.5))
    y, x = np.mgrid[-1:1:900j, -1:1:900j]
    return np.concatenate([view, (np.hypot(x, y) < 0.96)[..., None]], axis=-1)


def _portrait_of_a_tower() -> np.ndarray:
    view = scenes.coast(709, 906, scenes.FOG, 37, tower=(0.45, 0.55), horizon=0.74)
    found: np.ndarray = np.clip(view.mean(axis=2) * 1.15 - 0.06, 0, 1)
    return found


SHELF: tuple[DemoPicture, ...] = (
    DemoPicture(
        "cover-dusk.jpg", 300, _coast(2088, 2916, scenes.DUSK, 1, tower=(0.60, 0.52)), _BOUGHT
    ),
    DemoPicture("harbour-morning.jpg", 72, _harbour, _TRUST),
    DemoPicture(
        "fog-signal.jpg", 300, _coast(2126, 1417, scenes.FOG, 3, tower=(0.35, 0.50)), _TRUST
    ),
    DemoPicture("slipway.jpg", 72, lambda: scenes.stonework(2600, 1733, 4), _TRUST),
    DemoPicture(
        "rope-store.jpg", 72, lambda: grained(scenes.rope_store(1450, 1054, 5), 45), _TRUST
    ),
    DemoPicture("north-gallery.jpg", 72, lambda: _shrunk(_gallery(), 2)),
    DemoPicture("gallery-2417.jpg", 300, _gallery, _TRUST),
    DemoPicture("lamp-room.jpg", 72, lambda: scenes.lamp_room(1476, 984, 7), _TRUST),
    DemoPicture(
        "storm-watch.jpg", 240, _coast(1890, 1260, scenes.STORM, 8, tower=(0.28, 0.44)), _BOUGHT
    ),
    DemoPicture("tower-stair.jpg", 300, lambda: scenes.stair(1300, 1600, 9), _TRUST),
    DemoPicture("tide-steps.jpg", 72, lambda: scenes.stonework(1500, 1000, 10), _TRUST),
    DemoPicture("gull-close.png", None, lambda: _shrunk(_gulls(), 6)),
    DemoPicture("gull-2093.jpg", 300, _gulls, _TRUST),
    DemoPicture("harbour-scan.jpg", 300, _blown_up, _TRUST),
    DemoPicture("ferry-fax.jpg", 200, _coast(900, 600, scenes.FOG, 42), _TRUST),
    DemoPicture("porthole.png", 300, _cut_out, _TRUST),
    DemoPicture("quay-inks.tif", 300, _coast(900, 600, scenes.DUSK, 44), _TRUST),
    DemoPicture("tower-postcard.gif", None, _coast(480, 640, scenes.DUSK, 12, tower=(0.5, 0.5))),
    DemoPicture("keeper-1931.tif", 300, _portrait_of_a_tower, _ARCHIVE),
    DemoPicture("chart-1888.tif", 1200, _engraving, _ARCHIVE),
    DemoPicture("signal-flags.tif", 300, lambda: scenes.flags(1850, 1230, 13), _TRUST),
    DemoPicture("letter-1931.tif", 300, lambda: scenes.letter(1240, 1754, 14), _ARCHIVE),
    DemoPicture("map-inset.png", 300, _map, _ARCHIVE),
    DemoPicture("tide-table.png", 150, lambda: scenes.sea_map(900, 600, 16)),
)
COPIES: tuple[tuple[str, Recipe], ...] = (
    # Exactly the pixels of a 60 × 40 mm frame at 300 ppi.
    (
        "harbour-morning.jpg",
        Recipe(crop=PixelBox(0, 0, 5184, 3456), px_w=709, px_h=473, density_x=300, density_y=300),
    ),
    # What must not go unnoticed: a picture blown up to four times its edge.
    (
        "gull-close.png",
        Recipe(
            crop=PixelBox(0, 0, 312, 233),
            px_w=1248,
            px_h=932,
            density_x=300,
            density_y=300,
            may_interpolate=True,
        ),
    ),
)
MISSING_NAME = "tide-table.png"
"""Taken off its shelf once the job is laid out."""


def make_shelf(folder: Path) -> None:
    """Writes the shelf's files into `folder` unless they are there in this version."""
    mark = folder / ".version"
    if mark.exists() and mark.read_text() == VERSION:
        return
    folder.mkdir(parents=True, exist_ok=True)
    with ProcessPoolExecutor(mp_context=get_context("spawn")) as pool:
        list(pool.map(_write_named, [(picture.name, folder) for picture in SHELF]))
    (folder / "crest.svg").write_text(_CREST)
    mark.write_text(VERSION)


def _write_named(name_and_folder: tuple[str, Path]) -> None:
    name, folder = name_and_folder
    _write(next(picture for picture in SHELF if picture.name == name), folder / name)


def _write(picture: DemoPicture, path: Path) -> None:
    pixels = picture.draw()
    per_mm = (picture.tag_ppi or 0) / MM_PER_INCH
    tag = {"xres": per_mm, "yres": per_mm} if picture.tag_ppi else {}
    if picture.name == "chart-1888.tif":
        image = _image((pixels * 255).astype("uint8"), "b-w").copy(**tag)
        image.tiffsave(str(path), bitdepth=1, compression="ccittfax4", resunit="inch")
    elif picture.name == "keeper-1931.tif":
        image = _image((pixels * 65535).astype("uint16"), "grey16").copy(**tag)
        image.tiffsave(str(path), compression="deflate", predictor="horizontal")
    elif picture.name == "letter-1931.tif":
        image = _image((pixels * 255).astype("uint8"), "b-w").copy(**tag)
        image.tiffsave(str(path), compression="lzw", predictor="horizontal")
    elif picture.name == "signal-flags.tif":
        image = _image((pixels * 255).astype("uint8"), "srgb")
        # libvips' own CMYK profile: a stand-in for a press profile, good enough for a demo.
        image = image.icc_transform("cmyk", input_profile="srgb").copy(**tag)
        image.tiffsave(str(path), compression="lzw", predictor="horizontal")
    elif picture.name == "quay-inks.tif":
        image = _image((pixels * 255).astype("uint8"), "srgb")
        image = image.icc_transform("cmyk", input_profile="srgb").copy(**tag)
        image.tiffsave(str(path), compression="lzw", predictor="horizontal", keep="none")
    elif path.suffix == ".gif":
        _image((pixels * 255).astype("uint8"), "srgb").gifsave(str(path))
    else:
        image = _image((pixels * 255).astype("uint8"), "srgb").copy(**tag)
        if picture.tag_ppi is None:
            # libvips always writes a density; Pillow leaves it out.
            Image.fromarray(image.numpy()).save(path)
        else:
            image.write_to_file(str(path), **_options(picture.name))


def _options(name: str) -> dict[str, int]:
    if name == "ferry-fax.jpg":
        return {"Q": 28}
    return {"Q": 88} if name.endswith(".jpg") else {}


def _image(pixels: np.ndarray, interpretation: str) -> pyvips.Image:
    return pyvips.Image.new_from_array(np.ascontiguousarray(pixels), interpretation=interpretation)
