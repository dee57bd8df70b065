"""Rules on density: floor, tolerance, 1-bit art, ceiling, uneven scale, detail."""

from harnet.core.measure.density import UNEVEN_ABOVE
from harnet.core.measure.verdict import Verdict
from harnet.core.measure.wording import (
    counted,
    grouped,
    limit_text,
    ppi_text,
    px_text,
    reach_text,
    share_text,
    size_text,
)
from harnet.core.preflight.finding import Fix, RuleResult
from harnet.core.preflight.rules import picture_rule
from harnet.core.preflight.subject import Checked
from harnet.core.targets.severity import Severity

TOO_FEW_PIXELS = "Too few pixels"
_DENSITY_FIXES = (Fix.DENSER, Fix.REACH)


def _shortfall(checked: Checked) -> RuleResult | None:
    figures = checked.figures
    if figures.judged_ppi is None:
        return None
    assert figures.reach_w_pt is not None and figures.reach_h_pt is not None
    target = figures.target
    now = ppi_text(figures.judged_ppi)
    frame, source = checked.placement.frame, checked.placement.source
    short_ppi = ppi_text(target.density_ppi - figures.judged_ppi)
    if source.is_vector:
        return _inner_shortfall(checked, now, short_ppi)
    kind = "1-bit art" if source.is_bilevel else f"The {checked.noun}"
    return RuleResult(
        f"{now} ppi, {short_ppi} short of {ppi_text(target.density_ppi)}",
        f"{now} ppi at {size_text(frame.width, frame.height, checked.unit)}. The target wants"
        f" {ppi_text(target.density_ppi)} ppi, accepts {limit_text(target.passes_from_ppi)} or"
        f" more and has its floor at {limit_text(target.floor_ppi)}."
        f" {kind[0].upper()}{kind[1:]} has"
        f" {px_text(int(source.px_w), int(source.px_h))} pixels, enough for"
        f" {reach_text(figures.reach_w_pt, figures.reach_h_pt, checked.unit)}"
        f"{_crop_clause(checked)}.",
        _DENSITY_FIXES,
        -(figures.headroom or 0.0),
    )


def _inner_shortfall(checked: Checked, now: str, short_ppi: str) -> RuleResult:
    """What is wrong with a drawing because of the images inside it."""
    figures, target = checked.figures, checked.figures.target
    judged = [
        image for image, density in checked.placement.inner_densities if density == figures.density
    ]
    pixels = px_text(judged[0].px_w, judged[0].px_h) if judged else ""
    frame = checked.placement.frame
    assert figures.reach_w_pt is not None and figures.reach_h_pt is not None
    reach = reach_text(figures.reach_w_pt, figures.reach_h_pt, checked.unit)
    return RuleResult(
        f"image inside at {now} ppi, {short_ppi} short of {ppi_text(target.density_ppi)}",
        f"The drawing holds {counted(checked.facts.image_count, 'image')}; the least dense, of"
        f" {pixels} pixels, has {now} ppi at"
        f" {size_text(frame.width, frame.height, checked.unit)}. The target"
        f" wants {ppi_text(target.density_ppi)} ppi, accepts"
        f" {limit_text(target.passes_from_ppi)} or more and has its floor at"
        f" {limit_text(target.floor_ppi)}."
        f" The whole drawing can be {reach}. Ask for the drawing with a denser image in it.",
        _DENSITY_FIXES,
        -(figures.headroom or 0.0),
    )


def _crop_clause(checked: Checked) -> str:
    """What the part inside the frame is enough for, where that is less than the whole."""
    figures = checked.figures
    crop_w, crop_h = figures.crop_reach_w_pt, figures.crop_reach_h_pt
    if crop_w is None or crop_h is None or figures.reach_w_pt is None:
        return ""
    width, height = checked.placement.drawn_size_pt
    frame = checked.placement.frame
    if frame.width > 0.98 * width and frame.height > 0.98 * height:
        return ""
    return f"; the part its frame shows, for {reach_text(crop_w, crop_h, checked.unit)}"


@picture_rule(
    "density-below-floor",
    TOO_FEW_PIXELS,
    Severity.BLOCKING,
    "pictures below the floor, whose pixels will be visible",
)
def below_floor(checked: Checked) -> RuleResult | None:
    """The picture is unusable at this size."""
    return _shortfall(checked) if checked.figures.verdict is Verdict.COARSE else None


@picture_rule(
    "density-below-tolerance",
    TOO_FEW_PIXELS,
    Severity.WARNING,
    "pictures that miss the target by more than the tolerance",
)
def below_tolerance(checked: Checked) -> RuleResult | None:
    """The picture is softer than the target asks; 1-bit art has a rule of its own."""
    is_thin = checked.figures.verdict is Verdict.THIN
    return _shortfall(checked) if is_thin and not checked.placement.source.is_bilevel else None


@picture_rule(
    "bilevel-below-tolerance",
    TOO_FEW_PIXELS,
    Severity.WARNING,
    "1-bit art that misses the target's own density for it",
)
def bilevel_below_tolerance(checked: Checked) -> RuleResult | None:
    """1-bit art whose edges will show as steps."""
    is_thin = checked.figures.verdict is Verdict.THIN
    return _shortfall(checked) if is_thin and checked.placement.source.is_bilevel else None


@picture_rule(
    "density-above-ceiling",
    "More pixels than needed",
    Severity.NOTE,
    "pictures above the ceiling, whose extra pixels only add file size",
)
def above_ceiling(checked: Checked) -> RuleResult | None:
    """More pixels than the output can show."""
    figures = checked.figures
    if figures.verdict is not Verdict.SURPLUS or figures.judged_ppi is None:
        return None
    target, now = figures.target, ppi_text(figures.judged_ppi)
    if checked.placement.source.is_vector:
        return RuleResult(
            f"image inside at {now} ppi, above the ceiling of {limit_text(target.ceiling_ppi)}",
            f"Every image inside the drawing has {now} ppi or more where"
            f" {ppi_text(target.density_ppi)} ppi are needed; the extra pixels only add file"
            " size.",
            (),
            figures.judged_ppi / target.ceiling_ppi,
        )
    return RuleResult(
        f"{now} ppi, above the ceiling of {limit_text(target.ceiling_ppi)}",
        f"{now} ppi where {ppi_text(target.density_ppi)} ppi are needed. The frame needs"
        f" {px_text(figures.needed_px_w, figures.needed_px_h)} pixels at the target; a print"
        " copy of that size prints the same and is smaller.",
        (Fix.COPY,),
        figures.judged_ppi / target.ceiling_ppi,
    )


@picture_rule("uneven-scale", "Stretched", Severity.WARNING, "pictures stretched in one direction")
def uneven_scale(checked: Checked) -> RuleResult | None:
    """The picture is stretched in one direction."""
    figures, content = checked.figures, checked.placement.content
    if not figures.is_uneven:
        return None
    if figures.density is not None and not checked.placement.source.is_vector:
        headline = f"{ppi_text(figures.density.x)} by {ppi_text(figures.density.y)} ppi"
        is_taller = figures.density.y < figures.density.x
    else:
        headline = "stretched drawing"
        is_taller = content.scale_y > content.scale_x
    stretch = share_text(figures.evenness)
    direction = "taller" if is_taller else "wider"
    return RuleResult(
        f"{headline}: {stretch} {direction} than it should be",
        f"The {checked.noun} is scaled unevenly, {stretch} {direction} than its own"
        " proportion; more"
        f" than {share_text(UNEVEN_ABOVE)} is visible. Even it out by its width, its height or"
        " the mean.",
        (Fix.EVEN,),
        figures.evenness,
    )


@picture_rule(
    "detail-below-pixels",
    "Less detail than pixels",
    Severity.WARNING,
    "pictures that seem to have been enlarged, or are out of focus",
)
def detail_below_pixels(checked: Checked) -> RuleResult | None:
    """The pixel count promises more than the picture holds."""
    detail, source = checked.detail, checked.placement.source
    if detail is None or source.is_vector or not detail.is_much_lower:
        return None
    across = int(source.px_w)
    judged = checked.figures.judged_ppi or 0.0
    return RuleResult(
        f"{grouped(across)} px wide, detail of about {grouped(detail.pixels(across))}",
        f"The {checked.noun} has {grouped(across)} pixels across, but detail for about"
        f" {grouped(detail.pixels(across))}: it seems to have been enlarged, or is out of focus."
        f" At {ppi_text(judged)} ppi it prints like one of about"
        f" {ppi_text(round(judged * detail.share))}. This is an estimate,"
        f" {detail.confidence_text}; check it at full size.",
        (Fix.DENSER,),
        1 - detail.share,
    )
