"""Everything a designer is told about one placement against one target."""

from dataclasses import dataclass

from harnet.core.errors import ValueOutOfRange
from harnet.core.layout.placing import Placement, placed_at_native_size, source_from
from harnet.core.measure.density import EffectiveDensity, headroom, pixels_needed, reach_pt
from harnet.core.measure.geometry import Box
from harnet.core.measure.units import POINTS_PER_INCH
from harnet.core.measure.verdict import Verdict, verdict_of_judged
from harnet.core.pictures.picture import Facts
from harnet.core.targets.target import Target


@dataclass(frozen=True, slots=True, kw_only=True)
class Figures:
    """Density, verdict, headroom and reach of a placement; lengths in points.

    `reach_…` is the whole picture's, `crop_reach_…` that of the part its frame shows. These, the
    density and the headroom are None for vector art, which is sharp at any size, unless it holds
    images. `needed_…` are
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
    is_bilevel: bool = False
    """Whether it is judged by the limits for 1-bit pixels."""

    @property
    def is_vector(self) -> bool:
        """Whether there are no pixels to judge."""
        return self.density is None

    @property
    def px_across(self) -> float:
        """Pixels across the whole picture at the density that decides; 0 without any."""
        return (self.reach_w_pt or 0.0) * self.target.density_ppi / POINTS_PER_INCH

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
    source, frame = placement.source, placement.frame
    decides = placement.deciding_density(target)
    is_bilevel = source.is_bilevel if decides is None else decides[1]
    limits = target.for_bits(is_bilevel)
    ppi = limits.density_ppi
    density, verdict, room = None, Verdict.FULL, None
    reach: tuple[float | None, float | None] = (None, None)
    crop: tuple[float | None, float | None] = (None, None)
    if decides is not None:
        density = decides[0]
        verdict = verdict_of_judged(density.judged, limits)
        room = headroom(density.judged, ppi)
        if source.is_vector:
            # The whole drawing is scaled until the image that decides meets the target.
            by = density.worst / ppi
            width, height = placement.drawn_size_pt
            reach, crop = (width * by, height * by), (frame.width * by, frame.height * by)
        else:
            reach = reach_pt(int(source.px_w), ppi), reach_pt(int(source.px_h), ppi)
            crop = frame.width * density.x / ppi, frame.height * density.y / ppi
    needed_w, needed_h = frame_pixels(frame, ppi)
    if density is not None and not source.is_vector and verdict in (Verdict.FULL, Verdict.SURPLUS):
        # What is judged to be enough is enough: a tag of 299.9994 ppi asks for no further pixel.
        needed_w = min(needed_w, pixels_needed(frame.width, density.x))
        needed_h = min(needed_h, pixels_needed(frame.height, density.y))
    return Figures(
        target=limits,
        verdict=verdict,
        density=density,
        headroom=room,
        reach_w_pt=reach[0],
        reach_h_pt=reach[1],
        crop_reach_w_pt=crop[0],
        crop_reach_h_pt=crop[1],
        needed_px_w=needed_w,
        needed_px_h=needed_h,
        evenness=placement.evenness,
        is_uneven=placement.is_uneven,
        is_bilevel=is_bilevel,
    )


def frame_pixels(frame: Box, density_ppi: float) -> tuple[int, int]:
    """The pixels that a frame needs at a density, across and down."""
    return pixels_needed(frame.width, density_ppi), pixels_needed(frame.height, density_ppi)


def natural_reach_pt(facts: Facts, target: Target) -> tuple[float, float] | None:
    """Width and height that a whole picture reaches at a target; None where it has no end."""
    source = source_from(facts)
    figures = figures_of(placed_at_native_size(source, 0, 0), target)
    if figures.reach_w_pt is None or figures.reach_h_pt is None:
        return None
    return figures.reach_w_pt, figures.reach_h_pt


def reach_at_pt(facts: Facts, ppi: float) -> tuple[float, float] | None:
    """Width and height at which a whole picture has a density; None where it has none.

    Of a drawing the image inside it that is least dense decides.

    Raises:
        ValueOutOfRange: a density that is not above 0.
    """
    if facts.px_w is not None and facts.px_h is not None:
        return reach_pt(facts.px_w, ppi), reach_pt(facts.px_h, ppi)
    natural = placed_at_native_size(source_from(facts), 0, 0)
    if natural.density is None:
        return None
    if not ppi > 0:
        raise ValueOutOfRange(f"a density must be above 0 ppi, not {ppi:g}")
    by = natural.density.worst / ppi
    return natural.frame.width * by, natural.frame.height * by


def reach_zones(px_w: float, limits: Target) -> list[ReachZone]:
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
