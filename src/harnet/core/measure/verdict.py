"""The five verdicts on a density: formula 6."""

from enum import Enum
from typing import NamedTuple, Protocol

from harnet.core.measure.density import EffectiveDensity, judged_ppi


class Limits(Protocol):
    """The densities in ppi that a verdict goes by."""

    @property
    def density_ppi(self) -> float:
        """The density that is met from here on."""

    @property
    def passes_from_ppi(self) -> float:
        """The lowest density within the tolerance."""

    @property
    def floor_ppi(self) -> float:
        """The lowest density that is not coarse."""

    @property
    def ceiling_ppi(self) -> float:
        """The highest density that is not surplus."""


class HasLimits(Protocol):
    """What has limits for continuous tone and for 1-bit pixels."""

    def for_bits(self, is_bilevel: bool) -> Limits:
        """The limits that apply."""


class Verdict(Enum):
    """How a picture's density stands to its target, worst first."""

    COARSE = "coarse"
    """Below the floor: pixels will show."""
    THIN = "thin"
    """Below the tolerance: softer than the target asks."""
    NEAR = "near"
    """Short of the target, within the tolerance."""
    FULL = "full"
    """At the target or above; vector art at any size."""
    SURPLUS = "surplus"
    """Above the ceiling: more pixels than the output can show."""

    @property
    def falls_short(self) -> bool:
        """Whether the picture is too poor for the target."""
        return self in (Verdict.COARSE, Verdict.THIN)


def verdict_of(density: EffectiveDensity, target: HasLimits, is_bilevel: bool = False) -> Verdict:
    """The verdict on a raster picture.

    >>> from harnet.core.targets.shipped import target_named
    >>> verdict_of(EffectiveDensity(270, 280, 270), target_named("coated"))
    <Verdict.NEAR: 'near'>
    """
    return verdict_of_judged(density.judged, target.for_bits(is_bilevel))


class Edges(NamedTuple):
    """The densities in ppi between the verdicts, as rounded densities are compared with them."""

    floor: float
    """Below it: coarse."""
    passes: float
    """From the floor and below this: thin."""
    meets: float
    """From where it passes and below this: near."""
    ceiling: float
    """From where it meets the target up to this, included: full; above it: surplus."""


def edges_of(limits: Limits) -> Edges:
    """Where one verdict ends and the next begins."""
    return Edges(
        limits.floor_ppi,
        # The product of two floats may lie a hair above the figure meant: 150 · (1 − 0.1).
        round(limits.passes_from_ppi, 6),
        # A target between two steps of 0.05 is met by a picture scaled to exactly that.
        judged_ppi(limits.density_ppi),
        limits.ceiling_ppi,
    )


def verdict_of_judged(judged_density_ppi: float, limits: Limits) -> Verdict:
    """The verdict on a density that was rounded to be judged, against the limits that apply."""
    e, edges = judged_density_ppi, edges_of(limits)
    if e < edges.floor:
        return Verdict.COARSE
    if e < edges.passes:
        return Verdict.THIN
    if e < edges.meets:
        return Verdict.NEAR
    return Verdict.FULL if e <= edges.ceiling else Verdict.SURPLUS
