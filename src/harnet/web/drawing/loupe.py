"""The press loupe's settings as they are asked for, and its answer for the page."""

import base64
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from flask import request

from harnet.core.errors import ValueOutOfRange
from harnet.core.measure.units import CSS_PX_PER_INCH, POINTS_PER_INCH, Unit
from harnet.core.measure.wording import ppi_text
from harnet.core.pictures.halftone import DOT_GAIN, Angles
from harnet.core.targets.target import Target
from harnet.store.database import Session
from harnet.store.tables.pictures import ColourProfile
from harnet.studio.pictures.loupe import LoupeSettings, LoupeView, Sample
from harnet.studio.pictures.profiles import all_profiles
from harnet.web.common.shared import studio
from harnet.web.common.values import choice, figure, length, row_number

USUAL_DISTANCE = "200 cm"
"""Customary for a banner on a quay or in a hall (common practice, no source)."""
_INKS = ("cyan", "magenta", "yellow", "black")


def loupe_fields() -> dict[str, str]:
    """What the panel's fields hold before anything is changed."""
    angles = {f"angle_{ink}": f"{angle:g}" for ink, angle in zip(_INKS, Angles().each, strict=True)}
    return angles | {"dot_gain": f"{100 * DOT_GAIN:g}", "distance": USUAL_DISTANCE}


@dataclass(frozen=True, slots=True, kw_only=True)
class LoupePanel:
    """What the panel is made of: where it asks, what it moves over, its first settings.

    `over` is `page` for the pages of a job and `share` for one picture. With `targets` one chooses
    the density and the target; without, the placement says both.
    """

    address: str
    over: str
    hint: str
    fields: Mapping[str, str]
    profiles: Sequence[ColourProfile]
    targets: Sequence[Target] = ()
    ppi: str = ""


def loupe_panel(session: Session, address: str, over: str, **more: Any) -> LoupePanel:
    """The panel of a view; `more` are its targets and its density."""
    hint = "Move over a picture. A click holds the loupe there."
    return LoupePanel(
        address=address,
        over=over,
        hint=hint,
        fields=loupe_fields(),
        profiles=all_profiles(session),
        **more,
    )


def loupe_settings() -> LoupeSettings:
    """The settings in the address.

    Raises:
        ValueOutOfRange: a figure that is none; the text says which.
    """
    fields = loupe_fields() | {name: text for name, text in request.args.items() if text.strip()}
    lpi, profile = fields.get("lpi", ""), fields.get("profile", "")
    file = None
    if profile.isalnum():
        file = studio().blobs.file(profile, studio().settings.scratch_folder)
        if file is None:
            raise ValueOutOfRange("this CMYK profile is not here any longer; choose another")
    angles = (figure(fields[f"angle_{ink}"], f"angle of {ink}") for ink in _INKS)
    return LoupeSettings(
        view=choice(LoupeView, fields.get("view", ""), LoupeView.GLASS),
        screen_ppi=figure(fields.get("screen", f"{CSS_PX_PER_INCH:g}"), "screen’s density"),
        distance_in=length(fields["distance"], Unit.CM) / POINTS_PER_INCH,
        lpi=figure(lpi, "line screen") if lpi else None,
        angles=Angles(*angles),
        dot_gain=figure(fields["dot_gain"], "dot gain") / 100,
        profile=file,
    )


def place_asked() -> tuple[float, float]:
    """The place in the address: `x` and `y`.

    Raises:
        ValueOutOfRange: there is none.
    """
    x, y = (figure(request.args.get(name, ""), name) for name in ("x", "y"))
    return x, y


def page_asked() -> int:
    """The page number in the address, 1 where there is none."""
    return row_number(request.args.get("page", "")) or 1


def sample_answer(name: str, target: Target, sample: Sample) -> Mapping[str, object]:
    """A sample for the page: both drawings as addresses that hold them, and what they show."""
    shown = ppi_text(sample.target_ppi)
    if sample.target_share < 1:
        words = f"at {shown} ppi: printed at {100 * sample.target_share:.0f} % of this size"
    elif sample.now_ppi > sample.target_ppi:
        words = f"at the target’s {shown} ppi: no more is needed"
    else:
        words = f"at {shown} ppi: the same, it meets the target"
    screen = f"{sample.lpi:g} lpi" if sample.lpi else "no line screen"
    return {
        "name": f"{name} · {target.name}, {screen}",
        "now": _inline(sample.now),
        "at_target": _inline(sample.at_target),
        "now_text": f"as it prints: {ppi_text(sample.now_ppi)} ppi",
        "target_text": words,
        "share": sample.target_share,
        "edge_pt": sample.edge_pt,
    }


def _inline(jpeg: bytes) -> str:
    return f"data:image/jpeg;base64,{base64.b64encode(jpeg).decode()}"
