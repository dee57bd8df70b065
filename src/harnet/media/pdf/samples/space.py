"""What the samples of an image mean: its colour space (ISO 32000-2, 8.6)."""

from dataclasses import dataclass
from typing import Any

import numpy
import pikepdf

from harnet.core.pictures.picture import Colour
from harnet.media.pdf.walking.content import NONSENSE, dictionary_in, name_text
from harnet.media.pdf.walking.image_facts import FAMILIES

_PLAIN = (Colour.GREY, Colour.RGB, Colour.CMYK)
_DEVICE = {name: colour for name, colour in FAMILIES.items() if colour in _PLAIN}
"""The colour spaces that have no parameters, or whose parameters are left aside."""
_CHANNELS = {Colour.GREY: 1, Colour.RGB: 3, Colour.CMYK: 4, Colour.LAB: 3}
_BY_CHANNELS = {1: Colour.GREY, 3: Colour.RGB, 4: Colour.CMYK}
_PROFILE_SPACES = {b"GRAY": 1, b"RGB ": 3, b"CMYK": 4, b"Lab ": 3}
"""The colour space of a profile's device and its channels (ICC.1:2022, 7.2.6, from memory)."""
_MOST_DEPTH = 4
_MOST_INKS = 32


class UnreadableSamples(Exception):
    """An image's samples cannot be read; the text says why, as a part of a sentence."""


@dataclass(frozen=True, kw_only=True)
class SampleSpace:
    """A colour space: its colour model, its channels, and what explains them.

    `colour` is `PALETTE` with a `base` and a `palette` of shape (colours, channels of the base), in
    8 bits; `SPOT` with the names of its `inks`; `LAB` with the `lab_range` of a and b.
    """

    colour: Colour
    channels: int
    profile: bytes | None = None
    is_calibrated: bool = False
    """Whether it is CalGray or CalRGB, which give gamma and white point without a profile."""
    base: "SampleSpace | None" = None
    palette: numpy.ndarray | None = None
    inks: tuple[str, ...] = ()
    lab_range: tuple[float, float, float, float] = (-100.0, 100.0, -100.0, 100.0)

    def default_decode(self, bits: int) -> list[float]:
        """What `Decode` is where an image states none (table 88)."""
        if self.colour is Colour.PALETTE:
            return [0.0, float(2**bits - 1)]
        if self.colour is Colour.LAB:
            return [0.0, 100.0, *self.lab_range]
        return [0.0, 1.0] * self.channels


GREY = SampleSpace(colour=Colour.GREY, channels=1)


def space_of(space: Any, resources: Any, depth: int = 0) -> SampleSpace:
    """A colour space as values; `resources` are where its name is looked up.

    Raises:
        UnreadableSamples: it cannot be understood.
    """
    if depth > _MOST_DEPTH:
        raise UnreadableSamples("its colour space is nested too deep")
    try:
        return _space_of(space, resources, depth)
    except NONSENSE:
        raise UnreadableSamples("its colour space cannot be understood") from None


def _space_of(space: Any, resources: Any, depth: int) -> SampleSpace:
    if isinstance(space, pikepdf.Name):
        colour = _DEVICE.get(name_text(space))
        if colour is not None:
            return SampleSpace(colour=colour, channels=_CHANNELS[colour])
        named = dictionary_in(resources, "/ColorSpace").get(space)
        if named is None:
            raise UnreadableSamples(f"its colour space {name_text(space)} is missing")
        return space_of(named, resources, depth + 1)
    family = name_text(space[0])
    if family in _DEVICE:
        colour = _DEVICE[family]
        is_calibrated = family in ("/CalGray", "/CalRGB")
        return SampleSpace(colour=colour, channels=_CHANNELS[colour], is_calibrated=is_calibrated)
    if family == "/ICCBased":
        return _profiled(space[1], resources, depth)
    if family == "/Lab":
        stated = space[1].get("/Range")
        low_a, high_a, low_b, high_b = map(float, stated or (-100, 100, -100, 100))
        lab_range = (low_a, high_a, low_b, high_b)
        return SampleSpace(colour=Colour.LAB, channels=3, lab_range=lab_range)
    if family in ("/Indexed", "/I"):
        return _indexed(space, resources, depth)
    if family in ("/Separation", "/DeviceN"):
        names = [space[1]] if family == "/Separation" else list(space[1])[:_MOST_INKS]
        inks = tuple(name_text(name).lstrip("/") for name in names)
        return SampleSpace(colour=Colour.SPOT, channels=len(inks), inks=inks)
    raise UnreadableSamples(f"its colour space {family.lstrip('/')} is unknown")


def _profiled(stream: Any, resources: Any, depth: int) -> SampleSpace:
    """A space explained by a profile; one that does not fit its channels is left aside (8.6.5.5).

    Raises:
        UnreadableSamples: nothing else says what the samples mean.
    """
    channels = int(stream.get("/N", 0))
    data = stream.read_bytes()
    if channels not in _BY_CHANNELS:
        raise UnreadableSamples(f"its profile has {channels} channels")
    fits = data[36:40] == b"acsp" and _PROFILE_SPACES.get(data[16:20]) == channels
    is_lab = data[16:20] == b"Lab "
    if not fits or is_lab:
        alternate = stream.get("/Alternate")
        if alternate is not None:
            return space_of(alternate, resources, depth + 1)
        if is_lab:
            raise UnreadableSamples("its profile is one for Lab")
        data = b""
    return SampleSpace(colour=_BY_CHANNELS[channels], channels=channels, profile=data or None)


def _indexed(space: Any, resources: Any, depth: int) -> SampleSpace:
    base = space_of(space[1], resources, depth + 1)
    if base.colour is Colour.PALETTE:
        raise UnreadableSamples("its palette is one of palettes")
    highest, table = int(space[2]), space[3]
    data = table.read_bytes() if isinstance(table, pikepdf.Stream) else bytes(table)
    count = min(max(highest, 0), 255) + 1
    data = data[: count * base.channels].ljust(count * base.channels, b"\0")
    palette = numpy.frombuffer(data, numpy.uint8).reshape(count, base.channels)
    return SampleSpace(colour=Colour.PALETTE, channels=1, base=base, palette=palette)
