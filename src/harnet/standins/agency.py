"""A simulated picture agency: an invented catalogue, drawn on demand, with an agency's moods."""

import time
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from enum import Enum
from multiprocessing import get_context
from pathlib import Path

import numpy as np
import pyvips

from harnet.scenery import scenes
from harnet.studio.outside.agency import (
    AgencyError,
    AgencyRefusal,
    AgencySearch,
    Delivery,
    DeliveryBroke,
    Offer,
)

_PREVIEW_PX = 360
_BLOCK_BYTES = 64 * 1024
_SLOW_SECONDS = 0.35
"""A slow delivery's pause after each block."""


class DeliveryBehaviour(Enum):
    """How the agency delivers an offer."""

    PROMPT = "prompt"
    SLOW = "slow"
    REFUSES = "refuses"
    """The picture is promised to someone else."""
    BREAKS_OFF = "breaks off"
    """The first delivery ends halfway, the next one comes through."""


@dataclass(frozen=True)
class _Listed:
    offer: Offer
    draw: Callable[[int, int], np.ndarray]
    manner: DeliveryBehaviour = DeliveryBehaviour.PROMPT


def _coast(
    light: scenes.Light, seed: int, tower: tuple[float, float], horizon: float = 0.62
) -> Callable[[int, int], np.ndarray]:
    return lambda width, height: scenes.coast(width, height, light, seed, tower, horizon)


def _seeded(scene: Callable[[int, int, int], np.ndarray], seed: int):  # type: ignore[no-untyped-def]
    return lambda width, height: scene(width, height, seed)


_BY, _BY_SA, _ZERO = "CC-BY-4.0", "CC-BY-SA-4.0", "CC0-1.0"
_ONCE, _PRESS = "one printed use, 10 000 copies", "editorial use only"


def _offer(
    key: str, title: str, words: str, px: tuple[int, int], licence: str, author: str
) -> Offer:
    px_w, px_h = px
    credit = f"{author} / Tarnholm Agency"
    return Offer(
        key=key,
        title=title,
        words=tuple(words.split()),
        px_w=px_w,
        px_h=px_h,
        licence=licence,
        credit=credit,
    )


# Titles, authors and licences are invented, as is the agency.
CATALOGUE: tuple[_Listed, ...] = tuple(
    _Listed(_offer(key, title, words, px, licence, author), draw, manner)
    for key, title, words, px, licence, author, draw, manner in (
        ("ta-101", "First light on the quay", "sea dawn lighthouse coast", (2400, 1600), _BY,
         "M. Oster", _coast(scenes.MORNING, 201, (0.30, 0.44)), DeliveryBehaviour.PROMPT),
        ("ta-102", "The lamp is lit", "lighthouse dusk evening beam", (2000, 2800), _BY,
         "M. Oster", _coast(scenes.DUSK, 202, (0.55, 0.40)), DeliveryBehaviour.PROMPT),
        ("ta-103", "Fog over the sound", "fog sea grey lighthouse", (2400, 1350), _ZERO,
         "H. Lind", _coast(scenes.FOG, 203, (0.72, 0.46)), DeliveryBehaviour.PROMPT),
        ("ta-104", "Gale from the north", "storm sea waves lighthouse", (2700, 1800), _ONCE,
         "R. Aske", _coast(scenes.STORM, 204, (0.40, 0.42)), DeliveryBehaviour.SLOW),
        ("ta-105", "Noon at the point", "summer sea lighthouse coast", (2600, 1733), _BY_SA,
         "R. Aske", _coast(scenes.NOON, 205, (0.64, 0.40)), DeliveryBehaviour.PROMPT),
        ("ta-106", "Promised to another", "lighthouse dusk sea sunset", (3000, 2000), _ONCE,
         "S. Harke", _coast(scenes.DUSK, 206, (0.34, 0.40)), DeliveryBehaviour.REFUSES),
        ("ta-107", "Harbour stones", "stone wall moss texture", (2000, 2000), _ZERO,
         "H. Lind", _seeded(scenes.stonework, 207), DeliveryBehaviour.PROMPT),
        ("ta-108", "Sea wall, portrait", "stone wall harbour texture", (1500, 2250), _BY,
         "H. Lind", _seeded(scenes.stonework, 208), DeliveryBehaviour.BREAKS_OFF),
        ("ta-109", "Coiled ropes", "rope harbour store wood", (2400, 1745), _BY,
         "J. Tamm", _seeded(scenes.rope_store, 209), DeliveryBehaviour.PROMPT),
        ("ta-110", "Three coils", "rope wood still", (1200, 900), _ZERO,
         "J. Tamm", _seeded(scenes.rope_store, 210), DeliveryBehaviour.PROMPT),
        ("ta-111", "Glass and brass", "lamp lens lighthouse glass", (2250, 1500), _BY_SA,
         "J. Tamm", _seeded(scenes.lamp_room, 211), DeliveryBehaviour.PROMPT),
        ("ta-112", "Lens, small print", "lamp lens glass", (640, 427), _ZERO,
         "J. Tamm", _seeded(scenes.lamp_room, 212), DeliveryBehaviour.PROMPT),
        ("ta-113", "Gulls at noon", "birds gull sky", (2400, 1792), _BY,
         "E. Moor", _seeded(scenes.gulls, 213), DeliveryBehaviour.PROMPT),
        ("ta-114", "One gull", "birds gull sky", (1600, 1600), _PRESS,
         "E. Moor", _seeded(scenes.gulls, 214), DeliveryBehaviour.PROMPT),
        ("ta-115", "Chart of the skerries", "map chart sea islands", (2400, 1800), _BY_SA,
         "Chart room", _seeded(scenes.sea_map, 215), DeliveryBehaviour.PROMPT),
        ("ta-116", "Chart, western sheet", "map chart sea islands", (1800, 2400), _BY_SA,
         "Chart room", _seeded(scenes.sea_map, 216), DeliveryBehaviour.PROMPT),
        ("ta-117", "Flags out", "flags signal harbour colour", (2400, 1596), _BY,
         "E. Moor", _seeded(scenes.flags, 217), DeliveryBehaviour.PROMPT),
        ("ta-118", "Dressed overall", "flags signal festival", (1400, 931), _ZERO,
         "E. Moor", _seeded(scenes.flags, 218), DeliveryBehaviour.PROMPT),
        ("ta-119", "Two hundred steps", "stair tower spiral stone", (1800, 2215), _BY,
         "S. Harke", _seeded(scenes.stair, 219), DeliveryBehaviour.PROMPT),
        ("ta-120", "Stair from above", "stair tower spiral", (2000, 2000), _ONCE,
         "S. Harke", _seeded(scenes.stair, 220), DeliveryBehaviour.PROMPT),
        ("ta-121", "Morning, tall sky", "sea dawn sky lighthouse", (1600, 2400), _BY,
         "M. Oster", _coast(scenes.MORNING, 221, (0.5, 0.36), 0.74), DeliveryBehaviour.PROMPT),
        ("ta-122", "Storm, wide", "storm sea banner lighthouse", (3000, 1000), _BY,
         "R. Aske", _coast(scenes.STORM, 222, (0.80, 0.52)), DeliveryBehaviour.PROMPT),
        ("ta-123", "Fog signal", "fog lighthouse grey", (1024, 768), _PRESS,
         "H. Lind", _coast(scenes.FOG, 223, (0.45, 0.44)), DeliveryBehaviour.PROMPT),
        ("ta-124", "Dusk, wide", "dusk sea banner lighthouse evening", (3000, 1200), _BY_SA,
         "M. Oster", _coast(scenes.DUSK, 224, (0.22, 0.50)), DeliveryBehaviour.SLOW),
        ("ta-125", "High summer", "summer sea lighthouse", (1500, 1000), _ZERO,
         "R. Aske", _coast(scenes.NOON, 225, (0.28, 0.42)), DeliveryBehaviour.PROMPT),
    )
)  # fmt: skip
_BY_KEY = {listed.offer.key: listed for listed in CATALOGUE}


class TarnholmAgency:
    """The stand-in; `folder` keeps what was drawn, and what broke off once."""

    name = "Tarnholm Agency"

    def __init__(self, folder: Path, pause_seconds: float = _SLOW_SECONDS) -> None:
        self._folder = folder
        self._pause_seconds = pause_seconds

    def search(self, wish: AgencySearch) -> list[Offer]:
        """The offers that fit, in the catalogue's order."""
        return [listed.offer for listed in CATALOGUE if wish.fits(listed.offer)]

    def licences(self) -> list[str]:
        """The licences that occur."""
        return sorted({listed.offer.licence for listed in CATALOGUE})

    def offer(self, key: str) -> Offer:
        """One offer.

        Raises:
            AgencyTrouble: no such offer.
        """
        return self._listed(key).offer

    def preview(self, key: str) -> bytes:
        """A small JPEG of an offer."""
        self._listed(key)
        path = self._folder / f"{key}-preview.jpg"
        if not path.exists():
            _draw(key, self._folder)
        return path.read_bytes()

    def deliver(self, key: str) -> Delivery:
        """The picture, in the manner that its offer has.

        Raises:
            AgencyRefusal: the picture is promised to someone else.
        """
        listed = self._listed(key)
        if listed.manner is DeliveryBehaviour.REFUSES:
            raise AgencyRefusal(
                f"{self.name} does not supply “{listed.offer.title}”: it is reserved for"
                " another client until spring. Choose another picture."
            )
        path = self._folder / f"{key}.jpg"
        if not path.exists():
            _draw(key, self._folder)
        data = path.read_bytes()
        name = f"{listed.offer.title.lower().replace(',', '').replace(' ', '-')}.jpg"
        return Delivery(name, len(data), self._blocks(listed, data))

    def _blocks(self, listed: _Listed, data: bytes) -> Iterator[bytes]:
        broke = self._folder / f"{listed.offer.key}-broke-off"
        breaks_now = listed.manner is DeliveryBehaviour.BREAKS_OFF and not broke.exists()
        for start in range(0, len(data), _BLOCK_BYTES):
            if breaks_now and start > len(data) // 2:
                broke.touch()
                raise DeliveryBroke(
                    f"The delivery of “{listed.offer.title}” broke off halfway. None of it was"
                    " saved; fetch it again."
                )
            if listed.manner is DeliveryBehaviour.SLOW:
                time.sleep(self._pause_seconds)
            yield data[start : start + _BLOCK_BYTES]

    def draw_all(self) -> None:
        """Draws the whole catalogue now, so that nobody waits for it later."""
        missing = [key for key in _BY_KEY if not (self._folder / f"{key}-preview.jpg").exists()]
        if missing:
            with ProcessPoolExecutor(mp_context=get_context("spawn")) as pool:
                list(pool.map(_draw, missing, [self._folder] * len(missing)))

    def _listed(self, key: str) -> _Listed:
        if key not in _BY_KEY:
            raise AgencyError(f"{self.name} has no picture numbered {key}.")
        return _BY_KEY[key]


def _draw(key: str, folder: Path) -> None:
    """Writes an offer's picture and its preview; each appears whole, the preview last."""
    folder.mkdir(parents=True, exist_ok=True)
    listed = _BY_KEY[key]
    pixels = listed.draw(listed.offer.px_w, listed.offer.px_h)
    rows = np.ascontiguousarray((np.clip(pixels, 0, 1) * 255).astype("uint8"))
    image = pyvips.Image.new_from_array(rows, interpretation="srgb")
    small = image.thumbnail_image(_PREVIEW_PX, height=_PREVIEW_PX)
    for name, made, quality in ((f"{key}.jpg", image, 90), (f"{key}-preview.jpg", small, 82)):
        part = folder / f".{name}.part.jpg"
        made.copy(xres=72 / 25.4, yres=72 / 25.4).jpegsave(str(part), Q=quality, keep="none")
        part.replace(folder / name)
