"""How an image looks beside the part of an original that it shows: the end of formula 17."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from enum import Enum
from typing import Any

DIFFERENCE_BOUND, AREA_BOUND, SPOT_BOUND = 2.0, 3.5, 5.0
"""By how much CIE76 differences may exceed what resampling and compression explain: the mean over
the whole image, that of a connected area of a hundredth of it, and of a thousandth. A difference of
about 1 is just noticeable, 2 to 3 is seen side by side (common practice, no source)."""
CAST_BOUND = 0.8
"""A difference in tone, the mean over an image of very few pixels, that is carried over."""
EDITED_SHARE = 1 / 3
"""Of an image; where more than that differs, it is another shot."""
_EQUALLY, _EQUALLY_SPOT = 0.35, 1.5
"""Two originals whose differences lie no further apart are equally like an image."""


class Outcome(Enum):
    """How an image looks beside the same part of an original, the best first."""

    SAME = "same"
    """The same: nothing differs but what resampling and compression explain."""
    ANOTHER_TONE = "another-tone"
    """The same in another tone: curves or a matrix explain the difference everywhere."""
    EDITED = "edited"
    """The same shot, edited: it differs in places, or it was made softer."""
    ANOTHER = "another"
    """Another shot."""

    @property
    def is_replaced_unasked(self) -> bool:
        """Whether the page looks as before, only sharper, with the original in its place."""
        return self in (Outcome.SAME, Outcome.ANOTHER_TONE)


@dataclass(frozen=True, slots=True, kw_only=True)
class Tone:
    """How an image's colours come about from its original's, in sRGB from 0 to 1.

    `matrix` has three rows of red, green, blue and an offset; `curves` are for red, green and blue
    what evenly spaced values from 0 to 1 become afterwards. `words` say what was done.
    """

    matrix: tuple[tuple[float, float, float, float], ...]
    curves: tuple[tuple[float, ...], ...]
    words: str = "another tone"


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """A place in which an image differs from its original, as shares of the image's edges."""

    left: float
    top: float
    right: float
    bottom: float
    difference: float
    """The mean CIE76 difference there."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison:
    """An image beside the part of an original that it shows, both on the image's own pixels.

    Differences are CIE76 in CIELAB (D50): `difference` the mean over the whole, `floor` what
    resampling and compression alone bring about; `area` and `spot` are the largest mean over a
    connected area of a hundredth and a thousandth of the image, beyond what they explain there.
    With a `tone` they are what is left once it is carried over, and `untoned` is the mean without.
    """

    difference: float
    floor: float
    area: float
    spot: float
    untoned: float
    is_softened: bool = False
    """Whether the image is softer than any usual reduction of its original."""
    differing_share: float = 0.0
    outside: float = 0.0
    """The mean difference outside of the places that differ."""
    tone: Tone | None = None
    places: Sequence[Place] = ()
    explained: float = 0.0
    """What compression, or a palette of few colours, brings about in a place at most."""
    intent: str = "relative"
    """The rendering intent by which the image came into inks, as far as can be told."""
    threshold: int | None = None
    """Of an image of 1 bit: from which level of the original on, of 255, it is white."""

    @property
    def outcome(self) -> Outcome:
        """Which of the four it is.

        >>> Comparison(difference=1.2, floor=0.9, area=0.4, spot=2, untoned=1.2).outcome
        <Outcome.SAME: 'same'>
        """
        bound = self.floor + DIFFERENCE_BOUND
        is_alike = self.difference <= bound and self.area <= AREA_BOUND and self.spot <= SPOT_BOUND
        if is_alike and not self.is_softened:
            return Outcome.SAME if self.tone is None else Outcome.ANOTHER_TONE
        if self.differing_share <= EDITED_SHARE and self.outside <= bound:
            return Outcome.EDITED
        return Outcome.ANOTHER

    def is_as_like_as(self, other: "Comparison") -> bool:
        """Whether it is as like its original as another one is, or more so."""
        return (
            self.difference <= other.difference + _EQUALLY
            and self.spot <= other.spot + _EQUALLY_SPOT
        )


def comparison_as_values(comparison: Comparison) -> dict[str, Any]:
    """A comparison as JSON keeps it."""
    return asdict(comparison)


def comparison_from_values(values: Mapping[str, Any]) -> Comparison:
    """A comparison from what `comparison_as_values` gave."""
    return Comparison(
        **{
            **values,
            "tone": tone_from_values(values["tone"]),
            "places": tuple(Place(**one) for one in values["places"]),
        }
    )


def tone_from_values(values: Mapping[str, Any] | None) -> Tone | None:
    """A tone from JSON; None where there is none."""
    if values is None:
        return None
    rows = ((float(a), float(b), float(c), float(d)) for a, b, c, d in values["matrix"])
    curves = tuple(tuple(map(float, one)) for one in values["curves"])
    return Tone(matrix=tuple(rows), curves=curves, words=values["words"])
