"""An inline image made an object of its own, so that it can have more samples.

In the content that holds it, the bytes from `BI` to `EI` become its name and `Do`; all others stay.
"""

import zlib
from collections.abc import Iterator
from typing import Any

import pikepdf

from harnet.media.pdf.reading.visible_page import attributes_of
from harnet.media.pdf.samples.space import UnreadableSamples
from harnet.media.pdf.walking.content import NONSENSE
from harnet.media.pdf.walking.image_facts import ImageFacts

_WHITE = b" \t\r\n\f\0"
_X_OBJECT = "/XObject"
_LONGEST_DICTIONARY = 4000


def put_in_place(pdf: pikepdf.Pdf, facts: ImageFacts, made: Any, name: str) -> None:
    """Has an object drawn by that name where the inline image stood.

    Raises:
        UnreadableSamples: it does not stand in exactly one place that can be told.
    """
    raw = facts.inline[0].read_raw_bytes()
    places = [
        (stream, owners, *place)
        for stream, owners in _contents(pdf)
        for place in _places(stream.read_bytes(), raw)
    ]
    if len(places) != 1:
        raise UnreadableSamples("it stands within content that cannot be changed for sure")
    [(stream, owners, start, stop)] = places
    for owner in owners:
        if _X_OBJECT not in owner:
            owner[_X_OBJECT] = pikepdf.Dictionary()
        owner[_X_OBJECT][f"/{name}"] = made
    data = stream.read_bytes()
    changed = data[:start] + f"/{name} Do".encode() + data[stop:]
    stream.write(zlib.compress(changed), filter=pikepdf.Name.FlateDecode)


def _contents(pdf: pikepdf.Pdf) -> Iterator[tuple[Any, list[Any]]]:
    """Streams of content, with the resources that their names are looked up in."""
    of_pages: dict[tuple[int, int], tuple[Any, list[Any]]] = {}
    for page in pdf.pages:
        contents = page.obj.get("/Contents")
        listed = list(contents) if isinstance(contents, pikepdf.Array) else [contents]
        resources = attributes_of(page).get("/Resources")
        for stream in listed:
            if isinstance(stream, pikepdf.Stream) and isinstance(resources, pikepdf.Dictionary):
                of_pages.setdefault(stream.objgen, (stream, []))[1].append(resources)
    yield from of_pages.values()
    for thing in pdf.objects:
        if not isinstance(thing, pikepdf.Stream):
            continue
        is_content = thing.get("/Subtype") == "/Form" or "/PatternType" in thing
        own = thing.get("/Resources")
        if is_content and isinstance(own, pikepdf.Dictionary):
            try:
                thing.read_bytes()
            except NONSENSE:
                continue
            yield thing, [own]


def _places(data: bytes, raw: bytes) -> Iterator[tuple[int, int]]:
    """From where to where an inline image with these samples stands in content."""
    at = data.find(raw) if raw else -1
    while at >= 0:
        before, after = data[:at], data[at + len(raw) :]
        start = before.rfind(b"BI", max(0, at - _LONGEST_DICTIONARY))
        ending = after[: after.find(b"EI")] if b"EI" in after[:8] else None
        is_begun = before[-3:-1] == b"ID" and before[-1:] in _single(_WHITE)
        if start >= 0 and is_begun and ending is not None and not ending.strip(_WHITE):
            yield start, at + len(raw) + len(ending) + 2
        at = data.find(raw, at + 1)


def _single(letters: bytes) -> tuple[bytes, ...]:
    return tuple(bytes([one]) for one in letters)
