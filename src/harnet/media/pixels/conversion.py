"""Pictures brought into the colours of a profile."""

import pyvips

from harnet.media.pixels.colour import SRGB, generic_cmyk

RELATIVE, PERCEPTUAL = "relative", "perceptual"
"""Rendering intents by which pictures come into few inks (ICC.1:2022, 6.1.4, from memory)."""


def exported(part: pyvips.Image, output: str, depth: int, intent: str = RELATIVE) -> pyvips.Image:
    """A picture in the colours of a profile, by its path, in so many bits.

    Without a profile of its own it is sRGB, or CMYK of the generic profile. Relative colorimetric
    with black point compensation, or by another intent as it is.
    """
    has_profile = part.get_typeof("icc-profile-data") != 0
    if not has_profile and part.interpretation == "cmyk":
        source = generic_cmyk()
    else:
        source = SRGB
        if not has_profile:
            part = part.colourspace("rgb16" if part.format == "ushort" else "srgb")
    return part.icc_transform(
        output,
        embedded=has_profile,
        input_profile=source,
        intent=intent,
        black_point_compensation=intent == RELATIVE,
        depth=depth,
    )


def upon_srgb(part: pyvips.Image, depth: int) -> pyvips.Image:
    """A picture in sRGB, or grey where it is grey, in so many bits."""
    has_profile = part.get_typeof("icc-profile-data") != 0
    if has_profile or part.interpretation == "cmyk":
        return exported(part, SRGB, depth)
    return part.colourspace("rgb16" if depth == 16 else "srgb")
