"""Printer's marks around a page: crop marks at the trim's corners, registration marks."""

import math

import pikepdf

from harnet.media.pdf.writing.operators import number, segment

MARK_PT = 18.0
"""Length of a crop mark, about 6 mm: common practice, no source."""
_AWAY_PT = 6.0
"""Marks keep this far from the trim, or the bleed where that is wider."""
_HAIRLINE_PT = 0.25
_RADIUS_PT = 4.5
_ARC = 4 / 3 * (math.sqrt(2) - 1)

Box = tuple[float, float, float, float]


def room_for_marks(bleed_pt: float) -> float:
    """What the media box adds on each side of the trim so that marks have room, in points."""
    return max(bleed_pt, _AWAY_PT) + MARK_PT + 3


def crop_marks(trim: Box, bleed_pt: float) -> list[str]:
    """Two lines at each corner, outside of the bleed; `trim` is left, bottom, right, top."""
    left, bottom, right, top = trim
    near = max(bleed_pt, _AWAY_PT)
    far = near + MARK_PT
    lines = []
    for x, outwards in ((left, -1), (right, 1)):
        lines += [segment((x + outwards * near, y), (x + outwards * far, y)) for y in (bottom, top)]
    for y, outwards in ((bottom, -1), (top, 1)):
        lines += [segment((x, y + outwards * near), (x, y + outwards * far)) for x in (left, right)]
    return [f"/All CS 1 SCN {number(_HAIRLINE_PT)} w", *(f"{line} S" for line in lines)]


def registration_marks(trim: Box, bleed_pt: float) -> list[str]:
    """A circle with a cross in the middle of each side, to see whether the inks meet."""
    left, bottom, right, top = trim
    away = max(bleed_pt, _AWAY_PT) + MARK_PT / 2 + 1
    middle_x, middle_y = (left + right) / 2, (bottom + top) / 2
    spots = (
        (left - away, middle_y),
        (right + away, middle_y),
        (middle_x, bottom - away),
        (middle_x, top + away),
    )
    operators = [f"/All CS 1 SCN {number(_HAIRLINE_PT)} w"]
    for x, y in spots:
        arm = 2 * _RADIUS_PT
        operators.append(f"{segment((x - arm, y), (x + arm, y))} S")
        operators.append(f"{segment((x, y - arm), (x, y + arm))} S")
        operators.append(f"{_circle(x, y, _RADIUS_PT)} S")
    return operators


def _circle(x: float, y: float, radius: float) -> str:
    handle = radius * _ARC
    steps = (
        ((x + radius, y + handle), (x + handle, y + radius), (x, y + radius)),
        ((x - handle, y + radius), (x - radius, y + handle), (x - radius, y)),
        ((x - radius, y - handle), (x - handle, y - radius), (x, y - radius)),
        ((x + handle, y - radius), (x + radius, y - handle), (x + radius, y)),
    )
    curves = [" ".join(f"{number(px)} {number(py)}" for px, py in step) + " c" for step in steps]
    return " ".join([f"{number(x + radius)} {number(y)} m", *curves, "h"])


def all_inks(pdf: pikepdf.Pdf) -> pikepdf.Array:
    """The colour space that prints on every plate (ISO 32000-2, 8.6.6.4: Separation All)."""
    tint = pikepdf.Dictionary(
        FunctionType=2,
        Domain=pikepdf.Array([0, 1]),
        C0=pikepdf.Array([0, 0, 0, 0]),
        C1=pikepdf.Array([1, 1, 1, 1]),
        N=1,
    )
    return pikepdf.Array(
        [
            pikepdf.Name.Separation,
            pikepdf.Name.All,
            pikepdf.Name.DeviceCMYK,
            pdf.make_indirect(tint),
        ]
    )
