"""Picture files that images may be parts of: hashes of points tell which few to look at.

Registration proves one of them, or none.
"""

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict, dataclass, replace
from functools import lru_cache
from os import sched_getaffinity
from pathlib import Path
from typing import Any

import numpy
import pyvips

from harnet.core.documents.comparison import Comparison, Outcome, comparison_as_values
from harnet.core.documents.same_shot import Registration, Sureness, sureness_of
from harnet.core.measure.geometry import Matrix
from harnet.media.pixels.registration.alike import AlikePoints
from harnet.media.pixels.registration.comparing import Colour
from harnet.media.pixels.registration.features import (
    HASHED_POINTS,
    HASHED_PX,
    features_of,
    hashes_of,
)
from harnet.media.pixels.registration.register import (
    Sought,
    original_features,
    registered,
    sought,
)
from harnet.media.pixels.registration.seen import (
    MOST_ORIGINAL_PX,
    ORIGINAL_PX,
    SeenImage,
    beside_original,
    grey_of,
    seen_original,
)

_LOOKED_AT = 6
"""The most files that are looked at closely for one image."""
_CLEAR_LEAD = 3
"""What fewer than a third of the points speak for that speak for another file is not looked at."""
_KEPT_ORIGINALS = 8
_KEPT_POINTS = 2 * HASHED_POINTS
"""Of an original more points are kept: an image may show but a part of it."""


@dataclass(frozen=True, slots=True)
class OriginalsShelf:
    """Picture files, with the hashes of their points."""

    paths: tuple[str, ...]
    hashes: tuple[numpy.ndarray, ...]
    alike: AlikePoints

    @classmethod
    def of(cls, originals: list[dict[str, Any]], tell: Any) -> "OriginalsShelf":
        """The files with their hashes; those that cannot be decoded have none."""
        hashes = []
        with hands() as pool:
            for done, one in enumerate(pool.map(_hashes_of, originals)):
                tell(done)
                hashes.append(one)
        paths = tuple(one["path"] for one in originals)
        return cls(paths, tuple(hashes), AlikePoints(hashes))

    def as_text(self, number: int) -> str:
        """The hashes of a file as hexadecimal text."""
        return self.hashes[number].tobytes().hex()

    def ranked(self, wanted: Sought) -> list[int]:
        """The files that most points of an image may lie on, those with most first."""
        both = [hashes_of(one, HASHED_POINTS) for one in (wanted.plain, wanted.in_mirror)]
        counts = self.alike.counts(numpy.concatenate(both))
        order = numpy.argsort(-counts, kind="stable")[:_LOOKED_AT]
        worth = max(1, int(counts.max(initial=0)) // _CLEAR_LEAD)
        return [int(one) for one in order if counts[one] >= worth]


def _from_text(text: str) -> numpy.ndarray:
    return numpy.frombuffer(bytes.fromhex(text), numpy.uint64).reshape(-1, 2)


def _hashes_of(original: dict[str, Any]) -> numpy.ndarray:
    known = original.get("hashes")
    return _from_text(known) if known is not None else _hashes_of_file(original["path"])


def hands() -> ThreadPoolExecutor:
    """Decoding and looking for points leave other threads to their work."""
    return ThreadPoolExecutor(len(sched_getaffinity(0)))


def _hashes_of_file(path: str) -> numpy.ndarray:
    try:
        original, _ = _original(path)
    except pyvips.Error:
        return numpy.zeros((0, 2), numpy.uint64)
    return hashes_of(features_of(grey_of(original), HASHED_PX, _KEPT_POINTS), _KEPT_POINTS)


@lru_cache(_KEPT_ORIGINALS)
def _original(path: str, longest_px: int = ORIGINAL_PX) -> tuple[Colour, tuple[int, int]]:
    return seen_original(Path(path), longest_px)


@lru_cache(64)
def _points(path: str) -> Any:
    return original_features(grey_of(_original(path)[0]))


@dataclass(frozen=True, slots=True)
class _Found:
    """An original that an image may be part of."""

    path: str
    registration: Registration
    comparison: Comparison
    sureness: Sureness

    @property
    def has_more_pixels(self) -> bool:
        return self.registration.scale >= _MORE_PIXELS

    @property
    def rank(self) -> tuple[bool, int, bool]:
        """What goes first: more pixels than the image has, the outcome, then what is sure."""
        is_sure = self.sureness is Sureness.SURE
        return not self.has_more_pixels, _OUTCOMES.index(self.comparison.outcome), not is_sure


_OUTCOMES = list(Outcome)
_MORE_PIXELS = 1.02


def best_candidate(image: SeenImage, shelf: OriginalsShelf) -> dict[str, Any]:
    """The candidate that is most like an image, as values; of equally like ones the largest."""
    found = list(_candidates(image, shelf))
    if not found:
        return {}
    first = min(one.rank for one in found)
    alike = [one for one in found if one.rank == first]
    likest = min(alike, key=lambda one: one.comparison.difference + one.comparison.spot / 4)
    equally = [one for one in alike if one.comparison.is_as_like_as(likest.comparison)]
    best = max(equally or [likest], key=lambda one: one.registration.scale)
    registration = best.registration
    return {
        "candidate": {
            "path": best.path,
            "sureness": best.sureness.value,
            "registration": asdict(registration)
            | {"to_original": list(registration.to_original.as_tuple())},
            "comparison": comparison_as_values(best.comparison),
        }
    }


def _candidates(image: SeenImage, shelf: OriginalsShelf) -> Iterator[_Found]:
    wanted = sought(image.grey)
    for number in shelf.ranked(wanted):
        path = shelf.paths[number]
        try:
            original, full = _original(path)
            found = registered(wanted, grey_of(original), _points(path))
            if found is None:
                continue
            wide = _scaling(original, full)
            found = replace(found, to_original=found.to_original.then(wide))
            sureness = sureness_of(found, image.quality)
            if sureness is Sureness.NONE:
                continue
            original, full = _dense_enough(path, found, full)
        except pyvips.Error:
            continue
        to_view = found.to_original.then(_scaling(original, full).inverse)
        comparison = beside_original(image, original, to_view)
        if comparison.outcome is not Outcome.ANOTHER:
            yield _Found(path, found, comparison, sureness)


def _scaling(original: Colour, full: tuple[int, int]) -> Matrix:
    """From the pixels that are looked at to those of the whole file."""
    return Matrix.scaling(full[0] / original.shape[1], full[1] / original.shape[0])


def _dense_enough(
    path: str, found: Registration, full: tuple[int, int]
) -> tuple[Colour, tuple[int, int]]:
    """The original with about as many pixels as the image has, as far as there are as many."""
    wanted = round(1.5 * max(full) / max(found.scale, 1e-6))
    if min(wanted, max(full)) <= ORIGINAL_PX:
        return _original(path)
    return _original(path, min(wanted, MOST_ORIGINAL_PX))
