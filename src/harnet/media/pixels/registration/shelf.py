"""Picture files that images may be parts of: hashes of points tell which few to look at.

Registration proves one of them, or none.
"""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict, dataclass, replace
from functools import lru_cache
from os import sched_getaffinity
from pathlib import Path
from typing import Any

import numpy
import pyvips

from harnet.core.documents.same_shot import Registration, Sureness, sureness_of
from harnet.core.measure.geometry import Matrix
from harnet.media.pixels.registration.alike import AlikePoints
from harnet.media.pixels.registration.features import (
    HASHED_POINTS,
    HASHED_PX,
    Grey,
    features_of,
    hashes_of,
)
from harnet.media.pixels.registration.grey import grey_of_file
from harnet.media.pixels.registration.register import (
    Sought,
    original_features,
    registered,
    sought,
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
        grey, _ = _original(path)
    except pyvips.Error:
        return numpy.zeros((0, 2), numpy.uint64)
    return hashes_of(features_of(grey, HASHED_PX, _KEPT_POINTS), _KEPT_POINTS)


@lru_cache(_KEPT_ORIGINALS)
def _original(path: str) -> tuple[Grey, tuple[int, int]]:
    return grey_of_file(Path(path))


@lru_cache(64)
def _points(path: str) -> Any:
    return original_features(_original(path)[0])


def best_candidate(grey: Grey, quality: int | None, shelf: OriginalsShelf) -> dict[str, Any]:
    """The candidate that fits an image best, as values; `quality` is that of its JPEG."""
    best: tuple[Registration, Sureness, str] | None = None
    wanted = sought(grey)
    for number in shelf.ranked(wanted):
        path = shelf.paths[number]
        try:
            original, full = _original(path)
        except pyvips.Error:
            continue
        found = registered(wanted, original, _points(path))
        if found is None:
            continue
        wide = Matrix.scaling(full[0] / original.shape[1], full[1] / original.shape[0])
        found = replace(found, to_original=found.to_original.then(wide))
        sureness = sureness_of(found, quality)
        if sureness is Sureness.NONE:
            continue
        if best is None or _goodness(found, sureness) > _goodness(best[0], best[1]):
            best = found, sureness, path
    if best is None:
        return {}
    registration, sureness, path = best
    return {
        "candidate": {
            "path": path,
            "sureness": sureness.value,
            "registration": asdict(registration)
            | {"to_original": list(registration.to_original.as_tuple())},
        }
    }


def _goodness(registration: Registration, sureness: Sureness) -> tuple[bool, float]:
    """What is sure goes first; then what has the most pixels, of a shot that is there twice."""
    is_sure = sureness is Sureness.SURE
    return is_sure, registration.scale if is_sure else registration.similarity
