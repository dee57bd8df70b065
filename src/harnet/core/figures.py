"""Everything a designer is told about one placement against one target."""

from dataclasses import dataclass

from harnet.core.density import EffectiveDensity, headroom, pixels_needed, reach_pt
from harnet.core.placing import Placement
from harnet.core.target import Target
from harnet.core.verdict import Verdict, verdict_of


@dataclass(frozen=True, slots=True)
class Figures:
    """Density, verdict, headroom and reach of a placement; lengths in points.

    `reach_…` is the whole picture's, `crop_reach_…` that of the part its frame shows. These, the
    density and the headroom are None for vector art, which is sharp at any size. `needed_…` are
    the pixels that fill the frame at the target.
    """

    target: Target
    verdict: Verdict
    density: EffectiveDensity | None
    headroom: float | None
    reach_w_pt: float | None
    reach_h_pt: float | None
    crop_reach_w_pt: float | None
    crop_reach_h_pt: float | None
    needed_px_w: int
    needed_px_h: int
    evenness: float
    is_uneven: bool

    @property
    def is_vector(self) -> bool:
        """Whether there are no pixels to judge."""
        return self.density is None

    @property
    def judged_ppi(self) -> float | None:
        """The density that decides, in ppi."""
        return self.density.judged if self.density else None


@dataclass(frozen=True, slots=True)
class ReachZone:
    """A stretch of widths on the page with one verdict, in points."""

    verdict: Verdict
    from_pt: float
    to_pt: float


def figures_of(placement: Placement, target: Target) -> Figures:
    """The figures of a placement; `target` as the job states it, 1-bit limits are taken here."""
    source = placement.source
    limits = target.for_bits(source.is_bilevel)
    density = placement.density
    needed_w = pixels_needed(placement.frame.width, limits.density_ppi)
    needed_h = pixels_needed(placement.frame.height, limits.density_ppi)
    if density is None:
        return Figures(
            limits,
            Verdict.FULL,
            None,
            None,
            None,
            None,
            None,
            None,
            needed_w,
            needed_h,
            placement.evenness,
            placement.is_uneven,
        )
    return Figures(
        limits,
        verdict_of(density, target, source.is_bilevel),
        density,
        headroom(density.judged, limits.density_ppi),
        reach_pt(int(source.px_w), limits.density_ppi),
        reach_pt(int(source.px_h), limits.density_ppi),
        placement.frame.width * density.x / limits.density_ppi,
        placement.frame.height * density.y / limits.density_ppi,
        needed_w,
        needed_h,
        placement.evenness,
        placement.is_uneven,
    )


def reach_zones(px_w: int, limits: Target) -> list[ReachZone]:
    """The widths of each verdict, narrowest first; the last zone ends a fifth beyond the floor."""
    ends = [
        (Verdict.SURPLUS, reach_pt(px_w, limits.ceiling_ppi)),
        (Verdict.FULL, reach_pt(px_w, limits.density_ppi)),
        (Verdict.NEAR, reach_pt(px_w, limits.passes_from_ppi)),
        (Verdict.THIN, reach_pt(px_w, limits.floor_ppi)),
        (Verdict.COARSE, 1.2 * reach_pt(px_w, limits.floor_ppi)),
    ]
    zones, start = [], 0.0
    for verdict, end in ends:
        zones.append(ReachZone(verdict, start, end))
        start = end
    return zones
