"""A part of an original in the colour space of the image that it replaces."""

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from types import MappingProxyType
from typing import Any

import pikepdf
import pyvips

from harnet.core.pictures.picture import Colour
from harnet.media.pdf.samples.space import SampleSpace, UnreadableSamples
from harnet.media.pixels.colour import generic_cmyk
from harnet.media.pixels.conversion import RELATIVE, exported, upon_srgb

_MIDDLE = 127
_IN_WORDS = {Colour.SPOT: "spot colours", Colour.LAB: "CIE Lab"}


@dataclass(frozen=True, slots=True)
class Coloured:
    """New samples; `keeps_space` says that the old colour space explains them as it is."""

    image: pyvips.Image
    keeps_space: bool
    is_bilevel: bool = False


def coloured_as(
    part: pyvips.Image,
    space: SampleSpace,
    bits: int,
    folder: Path,
    profile: Path | None = None,
    item: Mapping[str, Any] = MappingProxyType({}),
) -> Coloured:
    """The part in a colour space, of 8 bits or, where both have them, 16; of 1 bit as it is cut.

    Of the `item`, `threshold` is from which level on, of 255, a part becomes white in 1 bit, and
    `intent` the rendering intent; the middle and relative colorimetric without.

    `profile` is the CMYK profile for images in plain CMYK, None the generic one. Relative
    colorimetric with black point compensation.

    Raises:
        UnreadableSamples: the space is one that a photograph cannot be brought into surely.
    """
    if bits == 1 and space.colour is Colour.GREY:
        grey = upon_srgb(part, 8).colourspace("b-w")[0]
        return Coloured(
            (grey > (item.get("threshold") or _MIDDLE)).copy(interpretation="b-w"),
            True,
            is_bilevel=True,
        )
    intent = item.get("intent", RELATIVE)
    depth = 16 if bits == 16 and part.format == "ushort" else 8
    own = space.base if space.colour is Colour.PALETTE else space
    assert own is not None
    keeps = space.colour is not Colour.PALETTE
    if own.colour in _IN_WORDS:
        words = _IN_WORDS[own.colour]
        raise UnreadableSamples(f"it is in {words}, which an original is not converted to")
    if own.is_calibrated and own.colour is Colour.GREY:
        raise UnreadableSamples("it is in calibrated grey, which an original is not converted to")
    if own.profile is not None:
        path = folder / "space.icc"
        path.write_bytes(own.profile)
        return Coloured(exported(part, str(path), depth, intent), keeps)
    if own.colour is Colour.CMYK:
        return Coloured(exported(part, str(profile or generic_cmyk()), depth, intent), keeps)
    toned = upon_srgb(part, depth)
    if own.colour is Colour.GREY:
        return Coloured(toned.colourspace("grey16" if depth == 16 else "b-w")[0], keeps)
    # CalRGB gives gamma and primaries of its own; sRGB is said in so many words instead.
    return Coloured(toned, keeps and not own.is_calibrated)


def in_inks(part: pyvips.Image, profile: Path | None) -> pyvips.Image:
    """The part in CMYK of a profile, None the generic one."""
    return exported(part, str(profile or generic_cmyk()), 8)


def srgb_space(pdf: pikepdf.Pdf, profile: bytes, channels: int) -> Any:
    """A colour space explained by a profile."""
    stream = pdf.make_stream(profile)
    stream.N = channels
    return pikepdf.Array([pikepdf.Name.ICCBased, stream])
