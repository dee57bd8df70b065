"""What looks rough on screen: the preview, the picture, or neither."""

from dataclasses import dataclass
from enum import Enum

from harnet.core.measure.wording import grouped, ppi_text

_SHOWS_ABOVE = 1.05
"""A preview a twentieth short of the screen's pixels is not seen. Common practice, no source."""


class Cause(Enum):
    """Who is to blame."""

    PREVIEW = "preview"
    PICTURE = "picture"
    BOTH = "both"
    NEITHER = "neither"


@dataclass(frozen=True, slots=True)
class Roughness:
    """The cause and the sentence that says so, with the figures across."""

    cause: Cause
    sentence: str


def roughness_of_placeholder(density_ppi: float, wanted_ppi: float) -> Roughness:
    """What a grey box hides: `wanted_ppi` is the least that passes on paper."""
    shown = "The placeholder shows a grey box and no pixels; the light or exact preview shows them"
    density = f"{ppi_text(density_ppi)} ppi"
    if density_ppi < wanted_ppi:
        return Roughness(
            Cause.BOTH, f"{shown}. At {density} the picture itself falls short in print."
        )
    return Roughness(Cause.PREVIEW, f"{shown}. The picture prints at {density}, which is enough.")


def roughness_of(
    screen_px: int, shown_px: int, file_px: int, density_ppi: float, wanted_ppi: float
) -> Roughness:
    """Why a picture looks rough: `screen_px` are those it covers, `shown_px` those it is shown by.

    All are counted across the whole picture; `wanted_ppi` is the least that passes on paper.
    """
    is_preview = screen_px > shown_px * _SHOWS_ABOVE and shown_px < file_px
    is_picture = density_ppi < wanted_ppi
    on_screen = f"It is {grouped(screen_px)} screen pixels wide"
    shown = f"and is shown by {grouped(shown_px)} of the file’s {grouped(file_px)}"
    density = f"{ppi_text(density_ppi)} ppi"
    if is_preview and is_picture:
        return Roughness(
            Cause.BOTH,
            f"{on_screen} {shown}, so the preview is coarse; at {density} the picture itself"
            " falls short in print too.",
        )
    if is_preview:
        return Roughness(
            Cause.PREVIEW,
            f"{on_screen} {shown}: the roughness comes from the preview. The picture prints at"
            f" {density}; the exact preview shows its real pixels.",
        )
    if is_picture:
        return Roughness(
            Cause.PICTURE,
            f"{on_screen} {shown}: the preview hides nothing. At {density} the picture itself"
            " has too few pixels for its size here.",
        )
    if screen_px > file_px * _SHOWS_ABOVE:
        return Roughness(
            Cause.NEITHER,
            f"{on_screen} {shown}, so single pixels show at this zoom. In print its {density}"
            " are enough.",
        )
    return Roughness(Cause.NEITHER, f"{on_screen} {shown}. Both are fine: it prints at {density}.")
