"""How a PDF is wanted: what may happen to pictures, its colours, its standard, its marks."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import Enum
from typing import Any

from harnet.core.errors import ValueOutOfRange

DEFAULT_THRESHOLD = 1.5
"""Common practice, no source: pictures up to half above the target are left alone."""
LIGHT_PPI, LIGHT_QUALITY, TRIM_QUALITY = 150.0, 70, 92
LIGHT_THRESHOLD = 1.1
_LANGUAGE = re.compile(r"[A-Za-z]{2,8}(-[A-Za-z0-9]{1,8})*")
"""The shape of a language tag (RFC 5646, 2.1, from memory)."""


class PictureMode(Enum):
    """What may happen to the pixels."""

    KEEP = "keep"
    """Every pixel is kept: JPEG data passes through, all else is lossless."""
    TRIM = "trim"
    """Only what lies above the threshold is downsampled, to the target."""
    LIGHT = "light"
    """Small enough for a message: downsampled and compressed, not for print."""


class PdfColour(Enum):
    """What happens to colours."""

    KEEP = "keep"
    """Samples and profiles stay as they are."""
    INTENT = "intent"
    """All are converted to the output intent."""


class PdfStandard(Enum):
    """What the PDF promises of its structure."""

    PLAIN = "pdf-1.7"
    """ISO 32000-1, nothing more."""
    X4 = "pdf-x-4"
    """ISO 15930-7: complete for print, with an output intent, without links."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PdfSettings:
    """How a PDF is to be made; `quality` is that of JPEG, None keeps what is downsampled lossless.

    Pictures denser than `threshold` times `to_ppi` are downsampled to `to_ppi`. `profile` names
    the output intent's CMYK profile by its hash, None takes the generic one.
    """

    mode: PictureMode = PictureMode.KEEP
    """How pictures are treated: keep every pixel, trim the excess, light."""
    to_ppi: float = 300.0
    """The density that denser pictures are downsampled to, in pixels per inch."""
    threshold: float = DEFAULT_THRESHOLD
    """Only pictures above this multiple of that density are downsampled."""
    quality: int | None = TRIM_QUALITY
    """JPEG quality, 1 to 100; none stores downsampled pictures without loss."""
    drops_cropped: bool = False
    """Whether cropped-off parts of recompressed pictures are dropped."""
    colour: PdfColour = PdfColour.KEEP
    """Whether colours are kept or converted to the output intent."""
    standard: PdfStandard = PdfStandard.PLAIN
    """The standard that the PDF conforms to."""
    profile: str | None = None
    """The CMYK profile by the SHA-256 of its bytes; none is the generic one."""
    crop_marks: bool = False
    """Whether crop marks are added around the trim."""
    registration_marks: bool = False
    """Whether registration marks are added around the trim."""
    pages: str = "all"
    """all, a page, or ranges such as 2-5."""
    language: str = "en"
    """The language of the PDF as a BCP 47 tag."""

    @property
    def has_intent(self) -> bool:
        """Whether the PDF names an output intent."""
        return self.standard is PdfStandard.X4 or self.colour is PdfColour.INTENT


def settings_for(mode: PictureMode, target_ppi: float, kept: PdfSettings) -> PdfSettings:
    """What a mode means for pictures, on a job with that target; all else as it was kept.

    Trim goes on with its own figures where it was the mode before, and with the usual ones after
    another; light always is the same. Every caller takes its settings from here.
    """
    if mode is PictureMode.LIGHT:
        return replace(
            kept, mode=mode, to_ppi=LIGHT_PPI, threshold=LIGHT_THRESHOLD, quality=LIGHT_QUALITY
        )
    if mode is kept.mode and mode is PictureMode.TRIM:
        return kept
    return replace(
        kept,
        mode=mode,
        to_ppi=target_ppi,
        threshold=DEFAULT_THRESHOLD,
        quality=TRIM_QUALITY,
        drops_cropped=kept.drops_cropped and mode is not PictureMode.KEEP,
    )


def checked_settings(settings: PdfSettings) -> PdfSettings:
    """The settings, once they make sense.

    Raises:
        ValueOutOfRange: a figure outside its range; the text says which.
    """
    if not 10 <= settings.to_ppi <= 10_000:
        raise ValueOutOfRange(
            f"pictures are downsampled to 10 to 10 000 ppi, not to {settings.to_ppi:g}"
        )
    if not 1 <= settings.threshold <= 10:
        raise ValueOutOfRange(
            f"the threshold is between 1 and 10 times the density, not {settings.threshold:g}"
        )
    if settings.quality is not None and not 1 <= settings.quality <= 100:
        raise ValueOutOfRange(f"JPEG quality is between 1 and 100, not {settings.quality}")
    if settings.language and not _LANGUAGE.fullmatch(settings.language):
        raise ValueOutOfRange(
            f"a language is written as a tag such as en or de-AT, not as “{settings.language}”"
        )
    return settings


def settings_as_values(settings: PdfSettings) -> dict[str, Any]:
    """Settings as what JSON can hold."""
    return {
        "mode": settings.mode.value,
        "to_ppi": settings.to_ppi,
        "threshold": settings.threshold,
        "quality": settings.quality,
        "drops_cropped": settings.drops_cropped,
        "colour": settings.colour.value,
        "standard": settings.standard.value,
        "profile": settings.profile,
        "crop_marks": settings.crop_marks,
        "registration_marks": settings.registration_marks,
        "pages": settings.pages,
        "language": settings.language,
    }


def settings_from_values(values: Mapping[str, Any]) -> PdfSettings:
    """The settings that `settings_as_values` wrote; what an older form lacks has its usual value.

    Raises:
        ValueError: a word that is none of those known.
    """
    chosen = {name: values[name] for name in settings_as_values(PdfSettings()) if name in values}
    for name, kind in (("mode", PictureMode), ("colour", PdfColour), ("standard", PdfStandard)):
        if name in chosen:
            chosen[name] = kind(chosen[name])
    return PdfSettings(**chosen)
