"""Finding the originals of a PDF's images among picture files, in a process with limits.

Hashes of points tell which few files to look at; registration proves one of them, or none.
"""

from collections import deque
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import asdict, dataclass, replace
from functools import lru_cache
from os import sched_getaffinity
from pathlib import Path
from typing import Any

import numpy
import pikepdf
import pyvips

from harnet.core.documents.improving import DocumentImageObject
from harnet.core.documents.same_shot import Registration, Sureness, sureness_of
from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.geometry import Matrix
from harnet.core.output.page_images import page_numbers
from harnet.media.bounded import Order, Tell
from harnet.media.errors import UnreadableFile
from harnet.media.pdf.improving.grey import grey_of_file, grey_of_samples
from harnet.media.pdf.improving.held import HeldImage, held_images
from harnet.media.pdf.opening.opened import opened_pdf
from harnet.media.pdf.reading.images import PageReader
from harnet.media.pdf.samples.samples import samples_of
from harnet.media.pdf.samples.space import UnreadableSamples
from harnet.media.pixels.registration.alike import AlikePoints
from harnet.media.pixels.registration.features import (
    HASHED_POINTS,
    HASHED_PX,
    Grey,
    features_of,
    hashes_of,
)
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
_GOING_ON = 6
_KEPT_POINTS = 2 * HASHED_POINTS
"""Of an original more points are kept: an image may show but a part of it."""


def work(order: Order, tell: Tell) -> Order:
    """What happens in the process: see `harnet.media.bounded`.

    `passes_ppi` and `bilevel_passes_ppi` are what images are to reach; `originals` are paths of
    pictures, with their `hashes` as hexadecimal text where they are known. The answer has `images`
    as values, the best candidate of each that falls short, and the hashes that were not known.

    Raises:
        UnreadableFile: the PDF cannot be read.
    """
    name = order["name"]
    with opened_pdf(Path(order["path"]), name) as pdf:
        reader = PageReader(pdf, name)
        try:
            numbers = page_numbers(order["pages"], len(reader.pages))
        except ValueOutOfRange as error:
            raise UnreadableFile(name, str(error)) from None
        held = held_images(reader, numbers)
        values = [(one, one.values(pdf)) for one in held]
        poor = [(one, image) for one, image in values if _falls_short(image, order)]
        total = len(order["originals"]) + len(poor)
        shelf = _Shelf.of(order["originals"] if poor else [], lambda done: tell([done, total]))
        found: dict[int, dict[str, Any]] = {one.key: {} for one in held}
        done = len(order["originals"])
        for image, candidate in _looked_for(pdf, poor, shelf):
            tell([done, total])
            found[image.key], done = candidate, done + 1
        return {
            "images": [_as_values(image) | found[image.key] for _, image in values],
            "hashes": [
                shelf.as_text(number) if one.get("hashes") is None else None
                for number, one in enumerate(order["originals"] if poor else [])
            ],
        }


def _falls_short(image: DocumentImageObject, order: Order) -> bool:
    passes = order["bilevel_passes_ppi" if image.is_bilevel else "passes_ppi"]
    return image.is_seen and image.ppi < passes


def _as_values(image: DocumentImageObject) -> dict[str, Any]:
    values = asdict(image)
    values["uses"] = [
        [use.page_number, use.place, list(use.matrix.as_tuple())] for use in image.uses
    ]
    return values


@dataclass(frozen=True, slots=True)
class _Shelf:
    """Picture files, with the hashes of their points."""

    paths: tuple[str, ...]
    hashes: tuple[numpy.ndarray, ...]
    alike: AlikePoints

    @classmethod
    def of(cls, originals: list[dict[str, Any]], tell: Any) -> "_Shelf":
        """The files with their hashes; those that cannot be decoded have none."""
        hashes = []
        with _hands() as pool:
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


def _hands() -> ThreadPoolExecutor:
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


def _looked_for(
    pdf: pikepdf.Pdf, poor: list[tuple[HeldImage, DocumentImageObject]], shelf: _Shelf
) -> Iterator[tuple[DocumentImageObject, dict[str, Any]]]:
    """Each image with the candidate that fits it best, as values, or why it is not looked for.

    Samples are taken out one after the other: only one may read the PDF at a time. Those of a few
    images are held while their originals are looked for.
    """
    with _hands() as pool:
        going_on: deque[tuple[DocumentImageObject, Future[dict[str, Any]]]] = deque()
        for held, image in poor:
            stream, resources = held.stream(pdf)
            try:
                look = pool.submit(
                    _best, grey_of_samples(samples_of(stream, resources)), image, shelf
                )
            except UnreadableSamples as error:
                look = pool.submit(dict, failure=str(error))
            going_on.append((image, look))
            if len(going_on) > _GOING_ON:
                first, look = going_on.popleft()
                yield first, look.result()
        for image, look in going_on:
            yield image, look.result()


def _best(grey: Grey, image: DocumentImageObject, shelf: _Shelf) -> dict[str, Any]:
    """The candidate that fits an image best, as values."""
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
        sureness = sureness_of(found, image.quality)
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
