"""Colour of a copy: conversion through ICC profiles, and a colour in a picture's own terms."""

import struct
from dataclasses import dataclass
from pathlib import Path

import pyvips

from harnet.core.copies.recipe import CopyColour
from harnet.core.pictures.picture import Colour, Facts
from harnet.media.errors import UnreadableFile
from harnet.media.facts.icc import profile_name

GENERIC_CMYK = Path("/usr/share/color/icc/ghostscript/default_cmyk.icc")
"""The generic profile of Debian's package libgs-common."""
FALLBACK_NAME = "generic.icc"
"""The file of libvips' own CMYK profile, where Debian's is not installed."""
MAX_PROFILE_BYTES = 10_000_000
_OUTPUT_CLASS = "prtr"
_CLASSES = {
    "scnr": "of an input device",
    "mntr": "of a display",
    "link": "that links two devices",
    "spac": "of a colour space",
    "abst": "of an abstract effect",
    "nmcl": "of named colours",
}
"""Profile classes (ICC.1:2022, 7.2.5, from memory)."""
_VERSIONS = (2, 4)
SRGB = "srgb"
"""The sRGB profile inside libvips."""


@dataclass(frozen=True, slots=True)
class ProfileFacts:
    """An ICC profile's name, the colour space of its device, its class and version.

    Space and class are the header's own words, such as `CMYK` and `prtr`.
    """

    name: str
    space: str
    device_class: str = ""
    version: str = ""


def read_profile(data: bytes, file_name: str) -> ProfileFacts:
    """What a profile file says of itself (ICC.1:2022, clause 7.2, from memory).

    Raises:
        UnreadableFile: not an ICC profile, or not one of an output in CMYK.
    """
    name = profile_name(data)
    (size,) = struct.unpack(">I", data[:4]) if len(data) >= 4 else (0,)
    if name is None or size != len(data):
        raise UnreadableFile(
            file_name, "it is not an ICC profile", "Choose a file that ends in .icc or .icm"
        )
    space = data[16:20].decode("latin-1").strip()
    if space != "CMYK":
        raise UnreadableFile(
            file_name, f"it is a profile for {space}, not for CMYK", "Ask the print house for one"
        )
    kind = data[12:16].decode("latin-1")
    if kind != _OUTPUT_CLASS:
        named = _CLASSES.get(kind, "of an unknown class")
        raise UnreadableFile(
            file_name,
            f"it is a profile {named}, not of an output device",
            "Ask the print house for the profile of its press",
        )
    version = data[8]
    if version not in _VERSIONS:
        raise UnreadableFile(
            file_name,
            f"it is an ICC profile of version {version}; PDFs take versions 2 and 4",
            "Ask the print house for one of those versions",
        )
    return ProfileFacts(name, space, kind, f"{version}.{data[9] >> 4}")


def checked_profile_file(path: Path, name: str) -> ProfileFacts:
    """What a CMYK profile's file says of itself, once it proved to be one of an output.

    Raises:
        UnreadableFile: it is none, it is too large, or it cannot be read.
    """
    try:
        if path.stat().st_size > MAX_PROFILE_BYTES:
            raise UnreadableFile(name, "it is too large for a profile")
        return read_profile(path.read_bytes(), name)
    except OSError as error:
        reason = (error.strerror or str(error)).lower()
        raise UnreadableFile(name, f"the file cannot be opened ({reason})") from None


def source_profile(facts: Facts) -> str:
    """The profile assumed for a picture that embeds none."""
    return generic_cmyk() if facts.colour is Colour.CMYK else SRGB


def generic_cmyk() -> str:
    """The generic CMYK profile; where Debian's is not installed, the one inside libvips."""
    return str(GENERIC_CMYK) if GENERIC_CMYK.exists() else "cmyk"


def cmyk_profile_file(supplied: Path | None, folder: Path) -> Path:
    """A CMYK profile as a file: the supplied one, or the generic one, if need be in `folder`."""
    if supplied is not None or GENERIC_CMYK.exists():
        return supplied or GENERIC_CMYK
    path = folder / FALLBACK_NAME
    path.write_bytes(bytes(pyvips.Image.profile_load("cmyk")))
    return path


def srgb_profile() -> bytes:
    """The sRGB profile that libvips holds."""
    return bytes(pyvips.Image.profile_load(SRGB))


def inked(image: pyvips.Image, profile: Path | str) -> pyvips.Image:
    """An sRGB image in the inks of a profile, which it then carries."""
    return image.icc_transform(
        str(profile),
        embedded=False,
        input_profile=SRGB,
        intent="relative",
        black_point_compensation=True,
    )


def converted(
    image: pyvips.Image, facts: Facts, colour: CopyColour, profile: Path | None
) -> pyvips.Image:
    """The picture in another colour space; relative colorimetric with black point compensation.

    Its depth stays; alpha is carried along. `profile` is the CMYK profile, None the generic one.
    """
    depth = 16 if image.format == "ushort" else 8
    if colour is CopyColour.KEEP:
        return image
    if colour is CopyColour.GREY:
        toned = _through(image, facts, SRGB, depth)
        grey = toned.colourspace("grey16" if depth == 16 else "b-w")
        return _without_profile(grey)
    if colour is CopyColour.CMYK:
        return _through(image, facts, str(profile or generic_cmyk()), depth)
    return _through(image, facts, SRGB, depth)


def _through(image: pyvips.Image, facts: Facts, output: str, depth: int) -> pyvips.Image:
    has_profile = image.get_typeof("icc-profile-data") != 0
    is_plain = not has_profile and facts.colour is not Colour.CMYK
    if is_plain and output == SRGB:
        return image.colourspace("rgb16" if depth == 16 else "srgb")
    if facts.colour is Colour.LAB:
        # Lab names colours outright: no profile stands between.
        return image.icc_export(
            output_profile=output, intent="relative", black_point_compensation=True, depth=depth
        )
    if is_plain:
        image = image.colourspace("rgb16" if depth == 16 else "srgb")
    return image.icc_transform(
        output,
        embedded=has_profile,
        input_profile=source_profile(facts),
        intent="relative",
        black_point_compensation=True,
        depth=depth,
    )


def _without_profile(image: pyvips.Image) -> pyvips.Image:
    image = image.copy()
    image.remove("icc-profile-data")
    return image


def paint_for(image: pyvips.Image, colour: str) -> list[float]:
    """A colour such as `#fbfaf6` as sample values of a picture, opaque where it has alpha."""
    red, green, blue = (int(colour[at : at + 2], 16) for at in (1, 3, 5))
    full = 65535.0 if image.format == "ushort" else 255.0
    dot = pyvips.Image.black(1, 1, bands=3).linear(0, [red, green, blue]).cast("uchar")
    dot = dot.copy(interpretation="srgb")
    if image.interpretation == "lab":
        values = dot.colourspace("lab")(0, 0)
    elif image.interpretation == "cmyk":
        lab = dot.icc_import(input_profile=SRGB, intent="relative").copy()
        if image.get_typeof("icc-profile-data"):
            blob = image.get("icc-profile-data")
            lab.set_type(pyvips.GValue.blob_type, "icc-profile-data", blob)
            inked = lab.icc_export(intent="relative")
        else:
            inked = lab.icc_export(output_profile=generic_cmyk(), intent="relative")
        values = [value * full / 255 for value in inked(0, 0)]
    elif image.bands in (1, 2):
        # Rec. 709 luma (ITU-R BT.709, from memory): good enough for a fill.
        values = [(0.2126 * red + 0.7152 * green + 0.0722 * blue) * full / 255]
    else:
        values = [value * full / 255 for value in (red, green, blue)]
    return [*values, full] if image.hasalpha() else values
