"""Rules on density: below the floor, below the tolerance, uneven scale."""

from harnet.core.density import UNEVEN_ABOVE
from harnet.core.preflight.finding import Checked, Finding, Fix, Severity
from harnet.core.preflight.rules import rule
from harnet.core.verdict import Verdict
from harnet.core.wording import ppi_text, px_text, share_text, size_text

TOO_FEW_PIXELS = "Too few pixels"


def _shortfall(
    checked: Checked, rule_id: str, verdict: Verdict, severity: Severity
) -> Finding | None:
    figures = checked.figures
    if figures.verdict is not verdict or figures.judged_ppi is None:
        return None
    assert figures.reach_w_pt is not None and figures.reach_h_pt is not None
    target = figures.target
    now = ppi_text(figures.judged_ppi)
    frame = checked.placement.frame
    short_ppi = ppi_text(target.density_ppi - figures.judged_ppi)
    source = checked.placement.source
    return Finding(
        rule_id,
        TOO_FEW_PIXELS,
        severity,
        checked.item_id,
        checked.page_number,
        checked.name,
        f"{now} ppi, {short_ppi} short of {ppi_text(target.density_ppi)}",
        f"{now} ppi at {size_text(frame.width, frame.height, checked.unit)}. The target wants"
        f" {ppi_text(target.density_ppi)} ppi, passes from {ppi_text(target.passes_from_ppi)} and"
        f" its floor is {ppi_text(target.floor_ppi)}. The picture has"
        f" {px_text(int(source.px_w), int(source.px_h))} pixels, enough for"
        f" {size_text(figures.reach_w_pt, figures.reach_h_pt, checked.unit)}"
        f"{_crop_clause(checked)}.",
        (Fix.REACH,),
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
    return f"; the part its frame shows, for {size_text(crop_w, crop_h, checked.unit)}"


@rule("density-below-floor")
def below_floor(checked: Checked) -> Finding | None:
    """The picture is unusable at this size."""
    return _shortfall(checked, "density-below-floor", Verdict.COARSE, Severity.BLOCKING)


@rule("density-below-tolerance")
def below_tolerance(checked: Checked) -> Finding | None:
    """The picture is softer than the target asks."""
    return _shortfall(checked, "density-below-tolerance", Verdict.THIN, Severity.WARNING)


@rule("uneven-scale")
def uneven_scale(checked: Checked) -> Finding | None:
    """The picture is stretched in one direction."""
    figures, content = checked.figures, checked.placement.content
    if not figures.is_uneven:
        return None
    if figures.density is not None:
        headline = f"{ppi_text(figures.density.x)} by {ppi_text(figures.density.y)} ppi"
        is_taller = figures.density.y < figures.density.x
    else:
        headline = "stretched line art"
        is_taller = content.scale_y > content.scale_x
    stretch = share_text(figures.evenness)
    direction = "taller" if is_taller else "wider"
    return Finding(
        "uneven-scale",
        "Stretched",
        Severity.WARNING,
        checked.item_id,
        checked.page_number,
        checked.name,
        f"{headline}: {stretch} {direction} than it should be",
        f"The picture is scaled unevenly, {stretch} {direction} than its own proportion; more than"
        f" {share_text(UNEVEN_ABOVE)} is seen. Even it out by its width, its height or the mean.",
        (Fix.EVEN,),
    )
